<script lang="ts">
  import type { Hold, Job, Stage } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { go, keepJob } from '../lib/job';
  import { live } from '../lib/live.svelte';
  import { p } from '../lib/routes';
  import { capital, day, timeOfDay } from '../lib/show';
  import Choice from '../parts/Choice.svelte';
  import Foot from '../parts/Foot.svelte';
  import Main from '../parts/Main.svelte';
  import Parties from '../parts/Parties.svelte';
  import Ring from '../parts/Ring.svelte';

  let { job }: { job: Job; stage: Stage } = $props();
  const ask = new Ask();
  let found = $state('');
  let giving = $state(false);
  const open = $derived(job.state === 'open');

  // How the paper is wanted.
  const plain = (id: string, title: string) => ({ id, title, why: '' });
  const units = [plain('as-read', 'as they were read'), ...['kPa', 'bar', 'psi'].map((u) => plain(u, u))];
  const sizes = [plain('printers', "the printer's own"), plain('A4', 'A4'), plain('letter', 'Letter')];
  let unit = $state('as-read');
  let size = $state('printers');
  const wanted = $derived(
    new URLSearchParams({
      ...(unit === 'as-read' ? {} : { unit }),
      ...(size === 'printers' ? {} : { size }),
    }).toString(),
  );

  // What a hold is called where several leave: its step, where there are steps, and what it was for.
  function named(h: Hold): string {
    const step = job.steps.length > 1 && job.steps.find((s) => s.id === h.test)?.title;
    if (h.purpose === 'rig proof' || !step) return capital(h.purpose);
    return h.purpose === 'test' ? step : `${step}, ${h.purpose}`;
  }

  async function close(abandon: boolean): Promise<void> {
    const j = await ask.sheet('/api/jobs/{id}/close', { abandon, found }, job.id);
    if (j) keepJob(j);
  }
</script>

<div class="flex items-center gap-4" data-outstanding={job.outstanding.length}>
  <Ring kind={job.ring} size={64} />
  <p class="text-xl font-bold">{job.summary}</p>
</div>
<Parties {job} />
{#if open}
  {#if job.outstanding.length}
    <div class="border-l-4 border-vermilion bg-vermilion-wash px-4 py-2">
      <p>Before it can be closed:</p>
      <ul class="list-disc pl-6">
        {#each job.outstanding as o (o.id)}<li>{o.text}</li>{/each}
      </ul>
      <button
        class="min-h-11 underline"
        onclick={() =>
          go(
            job,
            job.stages.find((s) => s.ticks.some((t) => t.id === job.outstanding[0]?.id))?.id ?? 'put-right',
          )}>Go and tick it</button
      >
    </div>
  {/if}
  <label>
    What it was, in a few words <span class="small">(else the parts seen leaking)</span>
    <input
      class="mt-1 field"
      bind:value={found}
      maxlength="300"
      placeholder="heater core weeps at the lower seam"
    />
  </label>
  <Foot>
    <Main says="Close the job" act={() => void close(false)} disabled={ask.busy || job.outstanding.length > 0}
      >Close the job</Main
    >
    {#if giving}
      <button class="btn" onclick={() => void close(true)}>Yes, abandon it</button>
      <button class="btn" onclick={() => (giving = false)}>No</button>
    {:else}
      <button class="btn" onclick={() => (giving = true)}>Abandon it</button>
    {/if}
  </Foot>
  {#if ask.says}<p class="font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
{:else}
  <p>
    {job.state === 'closed' ? 'Closed' : 'Abandoned'}
    {job.ended_at ? `${day(job.ended_at)}, ${timeOfDay(job.ended_at)}` : ''}. It is added to only by a new job
    on the same machine.
  </p>
  <Foot><Main says="To the book" act={() => (location.href = p('/book'))}>To the book</Main></Foot>
{/if}
<section>
  <h2 class="border-b border-rule">What leaves</h2>
  <div class="flex flex-wrap gap-3 pt-3">
    <div class="w-56">
      <Choice label="Pressures in" options={units} value={unit} choose={(id) => (unit = id)} />
    </div>
    <div class="w-56">
      <Choice label="Paper" options={sizes} value={size} choose={(id) => (size = id)} />
    </div>
  </div>
  <ul class="flex flex-wrap gap-3 pt-3">
    <li>
      <a class="btn" href="/api/jobs/{job.id}/paper?{wanted}" target="_blank" rel="noopener"
        >Print the sheet</a
      >
    </li>
    <li>
      <a class="btn" href="/api/jobs/{job.id}/paper?slip=1&{wanted}" target="_blank" rel="noopener"
        >Slip for the customer</a
      >
    </li>
    <li><a class="btn" href="/api/bundle?job={job.id}" download>This job as a bundle</a></li>
    <li>
      <a class="btn" href="/api/bundle?machine={encodeURIComponent(job.machine)}" download
        >All jobs on {job.machine} as a bundle</a
      >
    </li>
    {#each live.of(job.id) as h (h.id)}
      <li>
        <a class="btn" href="/api/holds/{h.id}/trace.csv" download>{named(h)} as CSV</a>
      </li>
    {/each}
  </ul>
</section>
<p class="small">{job.standing}</p>
