<script lang="ts">
  // A screen that is not on this device yet and cannot be fetched: said. The page is loaded again by whoever uses it, not in the
  // middle of what is typed.
  import { onMount } from 'svelte';
  import { fetchLater } from '../lib/later.svelte';
  import { queries } from '../lib/query';
  import { fetchAhead } from '../lib/routes';

  let { fetched }: { fetched: () => void } = $props(); // called once all screens are here

  let missing = $state(false);
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
      void fetchLater()
        .then(fetchAhead)
        .then(() => {
          document.documentElement.dataset.fetched = 'all';
          fetched();
        })
        .catch(() => {})
        .finally(() => (ahead = false));
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
    <span class="grow">That screen is not on this device yet, and the shop's computer does not send it.</span>
    <button class="btn" onclick={() => location.reload()}>Load the page again</button>
  </p>
{/if}
