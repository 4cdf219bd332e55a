<script lang="ts">
  // The likeliest suspects as they stand: they move with every hold, act and look.
  import type { Job } from '../lib/api/client';
  import { go } from '../lib/job';
  import SuspectRing from './SuspectRing.svelte';

  let { job }: { job: Job } = $props();
  const shown = $derived(job.suspects.slice(0, 4));
</script>

<section aria-label="Likeliest" data-likely={shown[0]?.id} class="mb-4">
  <h2 class="border-b border-ink pb-1">Where it may leak</h2>
  <ul>
    {#each shown as s (s.id)}
      <li>
        <button
          class="flex min-h-12 w-full flex-wrap items-center gap-2 text-left"
          onclick={() => go(job, 'hunt')}
        >
          <SuspectRing suspect={s} />
          <span class="min-w-[min(9rem,100%)] grow basis-0">{s.title}</span>
          <span class="shrink-0 small figures">{Math.round(100 * s.share)} in 100</span>
        </button>
      </li>
    {/each}
  </ul>
</section>
