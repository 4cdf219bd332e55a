<script lang="ts">
  // On every screen while the disk takes nothing: that nothing is being kept, why, and what becomes of
  // what is pressed meanwhile.
  import { createQuery } from '@tanstack/svelte-query';
  import { get } from '../lib/api/client';

  const kept = createQuery(() => ({ queryKey: ['keep'], queryFn: () => get('/api/keep') }));
</script>

{#if kept.data?.stuck}
  <p
    class="flex flex-wrap gap-x-2 border-y-2 border-vermilion bg-page px-4 py-2"
    role="alert"
    data-kept="stuck"
  >
    <strong class="text-vermilion">Nothing is being kept.</strong>
    <span class="inline-block first-letter:uppercase"
      >{kept.data.why}. What is pressed now waits on this page: leave it open.</span
    >
  </p>
{/if}
