<script lang="ts">
  // A screen that is not on this device yet and cannot be fetched: said, and the page is loaded again once the shop's computer
  // answers. One that has just been loaded is not loaded again by itself, or it would go on for ever.
  import { onMount } from 'svelte';
  import { live } from '../lib/live.svelte';
  import { queries } from '../lib/query';
  import { fetchAhead } from '../lib/routes';

  let missing = $state(false);
  const young = 10_000; // ms

  $effect(() => {
    if (missing && live.connected && performance.now() > young) location.reload();
  });
  onMount(() => {
    let ahead = false; // nobody asked for what is fetched ahead
    const miss = (): void => void (missing ||= !ahead);
    window.addEventListener('vite:preloadError', miss);
    // The others are fetched once the first is there.
    const cache = queries.getQueryCache();
    const off = cache.subscribe(() => {
      if (queries.isFetching() > 0 || !cache.getAll().some((q) => q.state.data !== undefined)) return;
      off();
      ahead = true;
      void fetchAhead()
        .catch(() => {})
        .finally(() => {
          ahead = false;
          document.documentElement.dataset.fetched = 'all';
        });
    });
    return () => {
      off();
      window.removeEventListener('vite:preloadError', miss);
    };
  });
</script>

{#if missing}
  <p
    class="flex flex-wrap items-center gap-3 border-y-2 border-vermilion bg-page px-4 py-2"
    role="alert"
    data-missing
  >
    <span class="grow"
      >That screen is not on this device yet. It opens when the shop's computer answers again.</span
    >
    <button class="btn" onclick={() => location.reload()}>Load the page again</button>
  </p>
{/if}
