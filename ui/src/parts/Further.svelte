<script lang="ts">
  // Where everything is right and the complaint stands: what to do next, each with its reason;
  // and the jobs that belong to the same complaint.
  import type { Further, Job } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { go, holdNext, keepJob } from '../lib/job';
  import { live } from '../lib/live.svelte';
  import { p } from '../lib/routes';

  let { job }: { job: Job } = $props();
  const ask = new Ask();
  const running = $derived(live.of(job.id).some((h) => h.state !== 'ended'));
  const waits = (f: Further) => running && f.held !== '' && f.held !== 'night';
  const nightMin = 14 * 60;

  async function act(f: Further): Promise<void> {
    if (f.circuit) {
      const next = await ask.sheet('/api/jobs', {
        machine: job.machine,
        complaint: job.complaint,
        circuit: f.circuit,
        from: job.id,
      });
      if (next) go(next, next.current);
    } else if (f.step) {
      const s = job.steps.find((x) => x.id === f.step);
      if (s) go(job, s.stage);
    } else if (f.held === 'night') {
      const j = await ask.sheet('/api/jobs/{id}/reminders', { text: f.title, minutes: nightMin }, job.id);
      if (j) keepJob(j);
    } else {
      holdNext(job, f.held);
    }
  }
</script>

{#if job.further.length && job.state === 'open'}
  <section aria-label="If the complaint stands" data-further={job.further.length}>
    <h2 class="border-b border-ink pb-1">Right, and the complaint stands?</h2>
    <ul class="divide-y divide-rule">
      {#each job.further as f (f.id)}
        <li class="flex flex-wrap items-center gap-x-4 gap-y-1 py-2">
          <button class="btn" data-next={f.id} disabled={ask.busy || waits(f)} onclick={() => void act(f)}
            >{f.title}</button
          >
          <span class="min-w-[min(12rem,100%)] flex-1"
            >{f.why}{#if waits(f)}<span class="block small">Bleed this hold down first.</span>{/if}</span
          >
        </li>
      {/each}
    </ul>
    {#if ask.says}<p class="mt-1 font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
  </section>
{/if}
{#if job.beside.length}
  <p class="small" data-beside={job.beside.length}>
    Of the same complaint:
    {#each job.beside as b, i (b.id)}{i ? ', ' : ''}<a href={p('/jobs/:id', { params: { id: b.id } })}
        >{b.circuit}{b.call ? `: ${b.call.replaceAll('-', ' ')}` : ''}</a
      >{/each}
  </p>
{/if}
