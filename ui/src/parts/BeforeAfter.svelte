<script lang="ts">
  // The hold before a repair and the one after it on one chart, from a common start.
  import { createQuery } from '@tanstack/svelte-query';
  import { get } from '../lib/api/client';
  import Pair from './Pair.svelte';

  let { before, after, ended }: { before: string; after: string; ended: boolean } = $props();
  const pair = createQuery(() => ({
    queryKey: ['compare', before, after, ended],
    queryFn: () => get('/api/compare', { query: { first: before, second: after } }),
    retry: false,
  }));
</script>

{#if pair.data}
  <figure data-pair>
    <Pair first={pair.data.first} second={pair.data.second} height={220} />
    <figcaption class="flex flex-wrap gap-x-6 small">
      {#each [{ says: 'before the repair', ink: 'var(--ink)', dash: undefined }, { says: 'after it', ink: 'var(--brass)', dash: '7 4' }] as l (l.says)}
        <span class="flex items-center gap-2"
          ><svg width="34" height="12" aria-hidden="true"
            ><line
              x1="0"
              x2="34"
              y1="6"
              y2="6"
              stroke={l.ink}
              stroke-width="3"
              stroke-dasharray={l.dash}
            /></svg
          >{l.says}</span
        >
      {/each}
      <span>Both from the moment at which the supply was shut.</span>
    </figcaption>
  </figure>
{:else if pair.error}
  <p class="small">{pair.error.message}</p>
{/if}
