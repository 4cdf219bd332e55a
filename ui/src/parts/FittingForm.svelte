<script lang="ts">
  // An adapter or a plug: what it goes into and what it is good for.
  import type { KitList } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';

  let { kind, done }: { kind: 'adapter' | 'plug' | 'pump'; done: (list: KitList) => void } = $props();
  const ask = new Ask();
  let name = $state('');
  let fits = $state('');
  let rating = $state('');

  async function add(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const list = await ask.send<KitList>('/api/kit/fittings', { kind, name, fits, rating: rating.trim() });
    if (list) done(list);
  }
</script>

<form
  onsubmit={add}
  class="flex flex-col gap-3 rounded border border-edge bg-page p-3"
  aria-label="Describe it"
  autocomplete="off"
>
  <label
    >Name <input
      class="mt-1 field"
      bind:value={name}
      placeholder={kind === 'plug' ? 'rubber plug, 32 mm' : 'blue bayonet adapter'}
      maxlength="60"
    /></label
  >
  <label
    >What it goes into <input
      class="mt-1 field"
      bind:value={fits}
      placeholder={kind === 'plug' ? 'bores of 30 to 34 mm' : 'bayonet neck, shallow'}
      maxlength="120"
    /></label
  >
  <label>Good for <input class="mt-1 field figures" bind:value={rating} placeholder="250 kPa" /></label>
  {#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
  <div><button class="btn btn-main" disabled={ask.busy}>Add it</button></div>
</form>
