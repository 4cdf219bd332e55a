<script lang="ts">
  // What must be done at once, said on every screen: over the limit, or an engine to stop.
  import { live } from '../lib/live.svelte';
  import { p } from '../lib/routes';

  const over = $derived(live.running.filter((h) => h.alarm));
</script>

{#each over as h (h.id)}
  <div role="alert" data-alarm={h.alarm}>
    <a
      href={p('/jobs/:id/:stage', { params: { id: h.job_id, stage: h.stage } })}
      class="flex min-h-14 flex-wrap items-center gap-x-4 border-b-4 border-vermilion bg-vermilion-wash px-4 py-2 text-lg font-bold text-ink no-underline"
    >
      <span>{h.machine}</span>
      {#if h.value && Math.abs(h.value.pa) > Math.abs(h.limit_shown.pa)}<span class="figures"
          >{h.value.text} {h.unit}</span
        >{/if}
      <span class="grow">{h.alarm_text}</span>
      <span class="underline">To the hold</span>
    </a>
  </div>
{/each}
