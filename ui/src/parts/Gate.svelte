<script lang="ts">
  // What comes before this step and is not so yet, and the way there.
  import type { Job, Step } from '../lib/api/client';
  import { go, gated } from '../lib/job';

  let { job, step }: { job: Job; step: Step } = $props();
  const before = $derived(job.steps.filter((s) => step.waits.includes(s.id)));
</script>

{#if job.state === 'open' && gated(step)}
  <div
    data-gate={step.unsafe.length ? 'unsafe' : 'waits'}
    class="flex flex-wrap items-center gap-x-4 gap-y-2 border-l-4 border-vermilion bg-page p-3"
  >
    {#if step.unsafe.length}
      <p class="font-bold text-vermilion">Make safe first: “{step.unsafe[0]}” is not ticked.</p>
      <button class="btn" onclick={() => go(job, 'make-safe')}>Make safe</button>
    {:else}
      <p class="font-bold text-vermilion">
        This comes after: {before.map((s) => s.title).join(', ')}. That is not right yet.
      </p>
      {#each before.slice(0, 1) as first (first.id)}
        <button class="btn" onclick={() => go(job, first.stage)}>{first.title}</button>
      {/each}
    {/if}
  </div>
{/if}
