<script lang="ts">
  // What can hurt, before the step that can.
  import type { Item } from '../lib/api/client';

  let { items }: { items: Item[] } = $props();
</script>

{#each items as c (c.id)}
  <p class="flex gap-3 border-l-4 border-vermilion bg-vermilion-wash px-4 py-2">
    <span class="font-bold text-vermilion" aria-hidden="true">!</span>
    <span><span class="sr-only">Caution: </span>{c.text}</span>
  </p>
{/each}
