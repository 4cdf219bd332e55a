<script lang="ts">
  // Over the limit: said on every screen, at once.
  import { live } from '../lib/live.svelte';
  import { p } from '../lib/routes';

  const over = $derived(live.running.filter((h) => h.over_limit));
</script>

{#each over as h (h.id)}
  <div role="alert">
    <a
      href={p('/jobs/:id/:stage', { params: { id: h.job_id, stage: h.stage } })}
      class="flex min-h-14 flex-wrap items-center gap-x-4 border-b-4 border-vermilion bg-vermilion-wash px-4 py-2 text-lg font-bold text-ink no-underline"
    >
      <span>{h.machine}</span>
      {#if h.value && h.value.pa > h.limit_shown.pa}<span class="figures">{h.value.text} {h.unit}</span>{/if}
      <span class="grow">Over the limit of {h.limit_shown.text} {h.limit_shown.unit}. Bleed back now.</span>
      <span class="underline">To the hold</span>
    </a>
  </div>
{/each}
