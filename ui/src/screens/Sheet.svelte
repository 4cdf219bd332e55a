<script lang="ts">
  // One job, in the order of work: the spine, the work in hand, what we know so far.
  import { createQuery } from '@tanstack/svelte-query';
  import { keys } from '../lib/keys.svelte';
  import { go, readJob } from '../lib/job';
  import { route } from '../lib/routes';
  import Cautions from '../parts/Cautions.svelte';
  import Facts from '../parts/Facts.svelte';
  import Spine from '../parts/Spine.svelte';
  import Call from '../stages/Call.svelte';
  import FirstLook from '../stages/FirstLook.svelte';
  import HoldStage from '../stages/Hold.svelte';
  import Hunt from '../stages/Hunt.svelte';
  import Limit from '../stages/Limit.svelte';
  import Pressurise from '../stages/Pressurise.svelte';
  import Prove from '../stages/Prove.svelte';
  import PutRight from '../stages/PutRight.svelte';
  import Ticked from '../stages/Ticked.svelte';
  import WriteDown from '../stages/WriteDown.svelte';

  const params = $derived(route.params as { id?: string; stage?: string });
  const id = $derived(params.id ?? '');
  const query = createQuery(() => ({
    queryKey: ['job', id],
    queryFn: () => readJob(id),
    enabled: id !== '',
  }));
  const job = $derived(query.data);
  const at = $derived(params.stage ?? (job?.state === 'open' ? job.current : 'call'));
  const stage = $derived(job?.stages.find((s) => s.id === at) ?? job?.stages[0]);

  $effect(() => {
    if (!job) return;
    const sheet = job;
    return keys(
      sheet.stages.map((s) => ({ key: s.key, says: s.title, where: 'Stages', do: () => go(sheet, s.id) })),
    );
  });

  const views = {
    'first-look': FirstLook,
    'make-safe': Ticked,
    limit: Limit,
    rig: Ticked,
    prove: Prove,
    pressurise: Pressurise,
    hold: HoldStage,
    call: Call,
    hunt: Hunt,
    'put-right': PutRight,
    'write-down': WriteDown,
  } as const;
  const View = $derived(stage ? views[stage.id as keyof typeof views] : undefined);
</script>

{#if job && stage && View}
  <div
    class="mx-auto grid max-w-7xl grid-cols-[minmax(0,1fr)] gap-x-7 px-4 lg:grid-cols-[212px_minmax(0,1fr)_300px]"
  >
    <Spine {job} at={stage.id} />
    <div class="flex min-w-0 flex-col gap-3 py-4">
      <div class="flex flex-wrap items-baseline gap-x-3">
        <h1>{stage.title}</h1>
        <p class="text-mute">
          {job.machine}, {job.complaint}{#if job.simulated}, <b>simulated</b>{/if}
        </p>
        {#if job.state !== 'open'}<p class="small">{job.state}</p>{/if}
      </div>
      <Cautions items={stage.cautions} />
      {#if stage.text && stage.id !== 'hold' && stage.id !== 'call'}<p class="max-w-prose">
          {stage.text}
        </p>{/if}
      {#key stage.id}
        <View {job} {stage} />
      {/key}
    </div>
    <div class="py-4"><Facts {job} /></div>
  </div>
{:else if query.error}
  <p class="p-8 text-vermilion" role="alert">{query.error.message}</p>
{:else}
  <p class="p-8 text-mute">Opening the sheet…</p>
{/if}
