<script lang="ts">
  // Where the rig itself was seen to leak: it is mended, or accepted by name.
  import type { Job } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { keepJob } from '../lib/job';

  let { job }: { job: Job } = $props();
  const ask = new Ask();
  const open = $derived(job.state === 'open');
  const held = $derived(job.steps.filter((s) => s.kind === 'hold' && s.outcome.verdict === 'bad'));
  const many = $derived(job.steps.length > 1);

  async function accept(step: string, back: boolean): Promise<void> {
    const j = await ask.sheet('/api/jobs/{id}/accept', { step, back }, job.id);
    if (j) keepJob(j);
  }
</script>

{#if job.rig.seen_at.length}
  <div class="border-l-4 border-brass bg-page p-3">
    <p>
      Seen to leak at the rig itself: <b>{job.rig.seen_at.join(', ')}</b>. That is no fault of the part.
    </p>
    {#each held as s (s.id)}
      {#if s.accepted.length}
        <p class="mt-2 font-bold" data-accepted="true">
          {many ? `${s.title}: ` : ''}accepted as the rig's.
          {#if open}<button class="ml-2 underline" onclick={() => void accept(s.id, true)}>Undo</button>{/if}
        </p>
      {:else if open}
        <button
          class="mt-2 btn"
          data-accepted="false"
          disabled={ask.busy}
          onclick={() => void accept(s.id, false)}
          >It is the rig's: {many ? `“${s.title}”` : 'the part'} is not tested past it</button
        >
      {/if}
    {/each}
    {#if ask.says}<p class="mt-1 font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
  </div>
{/if}
