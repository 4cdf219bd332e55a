<script lang="ts">
  // A part's ring: the thicker, the likelier; cut where a leak was seen; thin where nothing was found.
  import type { Suspect } from '../lib/api/client';

  let { suspect }: { suspect: Suspect } = $props();
  const out = 0.02; // below it a part that was looked at counts as ruled out
  const width = $derived(1.5 + 6.5 * Math.sqrt(Math.min(1, suspect.share)));
  const cleared = $derived(suspect.looked && suspect.share < out);
</script>

<svg width="28" height="28" viewBox="0 0 28 28" aria-hidden="true" class="shrink-0">
  <circle cx="14" cy="14" r="12.5" fill="var(--paper)" />
  {#if suspect.faulty}
    <path d="M17 6.5 A8 8 0 1 0 21.5 12" fill="none" stroke="var(--vermilion)" stroke-width="5" />
  {:else}
    <circle
      cx="14"
      cy="14"
      r="8.5"
      fill="none"
      stroke={cleared ? 'var(--edge)' : 'var(--ink)'}
      stroke-width={cleared ? 1 : width}
    />
  {/if}
</svg>
