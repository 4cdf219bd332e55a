<script lang="ts">
  // A page that was opened without the server: how old everything on it is, and what becomes of what is pressed. A page that
  // was open already says it in the header alone, so that nothing moves under a thumb.
  import { live } from '../lib/live.svelte';
  import { ago, timeOfDay, timeThen } from '../lib/show';
  import { ticking } from '../lib/ticking';

  const old = $derived.by(() => {
    ticking();
    return Date.now() - live.since;
  });
  const then = $derived(new Date(live.since).toISOString());
  const today = 12 * 3600_000; // ms: a time of day is enough
</script>

{#if live.recalled}
  <p class="border-y-2 border-brass bg-brass-wash px-4 py-2 text-ink" role="status" data-away={live.since}>
    <strong>As it stood at {old < today ? timeOfDay(then) : timeThen(then)}, {ago(old)} ago.</strong>
    What you press is kept on this device, and sent when the shop's computer answers.
  </p>
{/if}
