<script lang="ts">
  // It came out at a place that is no suspect: every seal between there and the pressure gains.
  import type { Job } from '../lib/api/client';
  import { send } from '../lib/outbox.svelte';

  let { job }: { job: Job } = $props();
  const any = $derived(job.hunt.places.some((p) => p.seen));
</script>

{#if job.hunt.places.length}
  <details class="border-t border-rule pt-1" open={any}>
    <summary class="flex min-h-11 items-center">It came out somewhere else</summary>
    <ul class="flex flex-wrap gap-2 pb-2">
      {#each job.hunt.places as p (p.id)}
        <li>
          <button
            class="btn {p.seen ? 'border-2 border-ink bg-brass-wash font-bold' : ''}"
            aria-pressed={p.seen}
            data-place={p.id}
            onclick={() => send('/api/jobs/{id}/came-out', job.id, { place: p.id, seen: !p.seen })}
            >{p.title}</button
          >
        </li>
      {/each}
    </ul>
  </details>
{/if}
