<script lang="ts">
  // One job, in the order of work: the spine, the work in hand, what we know so far.
  import { createQuery } from '@tanstack/svelte-query';
  import type { Dropped } from '../lib/api/client';
  import { awake } from '../lib/awake';
  import { Ask } from '../lib/ask.svelte';
  import { keys } from '../lib/keys.svelte';
  import { go, keepJob, proofOf, readJob, testOf } from '../lib/job';
  import { me } from '../lib/me.svelte';
  import { route } from '../lib/routes';
  import Cautions from '../parts/Cautions.svelte';
  import Facts from '../parts/Facts.svelte';
  import Likely from '../parts/Likely.svelte';
  import Spine from '../parts/Spine.svelte';
  import Call from '../stages/Call.svelte';
  import FirstLook from '../stages/FirstLook.svelte';
  import HoldStage from '../stages/Hold.svelte';
  import Hunt from '../stages/Hunt.svelte';
  import Limit from '../stages/Limit.svelte';
  import Pressurise from '../stages/Pressurise.svelte';
  import Prove from '../stages/Prove.svelte';
  import StepStage from '../stages/StepStage.svelte';
  import Together from '../stages/Together.svelte';
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
      sheet.stages
        .filter((s) => s.key)
        .map((s) => ({ key: s.key, says: s.title, where: 'Stages', do: () => go(sheet, s.id) })),
    );
  });

  // A trace file that is let go over the sheet: judged and kept by the server.
  let over = $state(false);
  let dropped = $state('');
  let known = $state(false);
  const drop = new Ask();

  async function take(file: File | undefined): Promise<void> {
    over = false;
    dropped = '';
    if (!file || !job) return;
    // Where two are compared it is the one that is still wanted.
    const next = job.steps.find((s) => s.id === stage?.step)?.pending[0];
    const d = await drop.send<Dropped>(
      '/api/jobs/{id}/traces',
      {
        name: file.name.slice(0, 200),
        text: await file.text(),
        ...(stage?.kind === 'hold' ? { step: stage.step } : {}),
        ...(next ? { condition: { under: next.id } } : {}),
      },
      job.id,
    );
    if (!d) return;
    known = d.known;
    dropped = d.known ? `${file.name} is already a hold of this job.` : d.says;
    keepJob(await readJob(job.id));
    go(job, many && stage?.step ? stage.id : 'call');
  }
  const files = (e: DragEvent) => e.dataTransfer?.types.includes('Files') ?? false;

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
  // While it is held, and when it is called, the suspects stand beside what is known.
  const suspected = $derived(
    job?.state === 'open' &&
      job.holds.some((h) => h.purpose !== 'rig proof' && h.report !== null) &&
      (stage?.id === 'hold' || stage?.id === 'call' || stage?.kind === 'hold'),
  );
  // Its hold is under pressure and worked on here: value and bar come first.
  const underway = $derived.by(() => {
    if (!job || !stage) return false;
    const proof = stage.id === 'prove';
    if (!proof && stage.id !== 'pressurise' && stage.id !== 'hold' && stage.kind !== 'hold') return false;
    const hold = proof ? proofOf(job) : testOf(job, stage.step);
    return hold !== undefined && hold.state !== 'ended';
  });
  $effect(() => (underway ? awake() : undefined));
  // What was opened is named in the title, and the focus goes to its heading.
  let shown = '';
  $effect(() => {
    if (!job || !stage) return;
    me.heading = `${stage.title}, ${job.machine}`;
    const now = `${job.id} ${stage.id}`;
    if (shown && shown !== now) document.getElementById('stage')?.focus({ preventScroll: true });
    shown = now;
    return () => (me.heading = '');
  });
  const many = $derived((job?.steps.length ?? 0) > 1);
  const View = $derived.by(() => {
    if (!stage) return undefined;
    if (stage.step && many && stage.id in views === false) return StepStage;
    return many && stage.id === 'call' ? Together : views[stage.id as keyof typeof views];
  });
</script>

<svelte:window
  ondragover={(e) => {
    if (!files(e)) return;
    e.preventDefault();
    over = job?.state === 'open';
  }}
  ondragleave={(e) => {
    if (e.relatedTarget === null) over = false;
  }}
  ondrop={(e) => {
    if (!files(e)) return;
    e.preventDefault();
    void take(e.dataTransfer?.files[0]);
  }}
/>

{#if over}
  <div
    class="pointer-events-none fixed inset-3 z-30 flex items-center justify-center rounded border-4 border-dashed border-ink bg-page/90 text-2xl font-bold"
  >
    Drop the file: it becomes a finished hold of this job
  </div>
{/if}
{#if job && stage && View}
  <div
    data-stage={stage.id}
    data-job={job.state}
    class="mx-auto grid max-w-7xl grid-cols-[minmax(0,1fr)] gap-x-7 px-4 two:grid-cols-[212px_minmax(0,1fr)] {stage.id ===
    'hunt'
      ? ''
      : 'three:grid-cols-[212px_minmax(0,1fr)_300px]'}"
  >
    <Spine {job} at={stage.id} />
    <div class="flex min-w-0 flex-col gap-3 py-4 phone:gap-2 phone:py-2 low:gap-2 low:py-2">
      <div class="flex min-w-0 items-baseline gap-x-3 {underway ? 'whitespace-nowrap' : 'flex-wrap'}">
        <h1 id="stage" tabindex="-1" class="max-w-full shrink-0 outline-none {underway ? 'truncate' : ''}">
          {stage.title}
        </h1>
        <p class="min-w-0 text-mute {underway ? 'truncate' : ''}">
          {job.machine}, {job.complaint}{#if job.simulated}, <b>simulated</b>{/if}
        </p>
        {#if job.state !== 'open'}<p class="small">{job.state}</p>{/if}
      </div>
      {#if drop.busy}<p role="status">Reading the trace…</p>{/if}
      {#if dropped}<p role="status" data-dropped={known} class="font-bold text-teal">{dropped}</p>{/if}
      {#if drop.says}<p role="alert" class="font-bold text-vermilion">{drop.says}</p>{/if}
      <div class="flex flex-col gap-2 {underway ? 'phone:order-1 low:order-1' : ''}">
        <Cautions items={stage.cautions} />
      </div>
      {#if stage.text && !underway && stage.id !== 'hold' && stage.id !== 'call'}<p class="max-w-prose">
          {stage.text}
        </p>{/if}
      {#key stage.id}
        <View {job} {stage} />
      {/key}
      {#if job.state === 'open' && (stage.id === 'hold' || stage.id === 'pressurise' || stage.kind === 'hold')}
        <div class="order-2 mt-4 flex flex-wrap items-center gap-3 border-t border-rule pt-3">
          <p class="min-w-[min(14rem,100%)] grow basis-0 small">
            Measured with another device? Drop the trace file on this sheet, or choose it here.
          </p>
          <label class="btn focus-within:outline-3 focus-within:outline-offset-2 focus-within:outline-brass">
            Choose a trace
            <input
              class="sr-only"
              type="file"
              accept=".csv,text/csv,text/plain"
              onchange={(e) => void take(e.currentTarget.files?.[0])}
            />
          </label>
        </div>
      {/if}
    </div>
    <div class="py-4 two:col-start-2 {stage.id === 'hunt' ? '' : 'three:col-start-3 three:row-start-1'}">
      {#if suspected}<Likely {job} />{/if}<Facts {job} />
    </div>
  </div>
{:else if query.error}
  <p class="p-8 text-vermilion" role="alert">{query.error.message}</p>
{:else}
  <p class="p-8 text-mute">Opening the sheet…</p>
{/if}
