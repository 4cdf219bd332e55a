<script lang="ts">
  // A repeat is shown next to what was tried before.
  import type { Hold, Job } from '../lib/api/client';
  import { live } from '../lib/live.svelte';
  import { dayTime } from '../lib/show';
  import Ring from './Ring.svelte';

  let { job, hold }: { job: Job; hold: Hold } = $props();
  const tries = $derived(
    live
      .of(job.id)
      .filter((h) => h.purpose !== 'rig proof' && h.test === hold.test && h.state === 'ended' && h.sentence),
  );
</script>

{#if tries.length > 1}
  <section aria-label="Tries" data-tries={tries.length}>
    <h2 class="border-b border-ink pb-1">Every try</h2>
    <ol class="divide-y divide-rule">
      {#each tries as h (h.id)}
        <li class="flex items-center gap-3 py-1.5">
          <Ring kind={h.ring} size={26} />
          <span class="grow"
            >{h.sentence}<span class="block small"
              >{dayTime(h.started_at)}{h.under_text ? `, ${h.under_text}` : ''}{h.purpose === 'retest'
                ? ', after the mend'
                : ''}</span
            ></span
          >
        </li>
      {/each}
    </ol>
  </section>
{/if}
