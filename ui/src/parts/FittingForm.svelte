<script lang="ts">
  // An adapter or a plug: what it goes on and what it is rated to.
  import { untrack } from 'svelte';
  import type { Receipt } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { families, makes, sized } from '../lib/fittings';

  let {
    kind,
    inCase,
    done,
  }: {
    kind: 'adapter' | 'plug' | 'pump';
    inCase: { id: string; name: string };
    done: (id: string) => void;
  } = $props();
  const ask = new Ask();
  let name = $state(untrack(() => inCase.name));
  let family = $state('');
  let width = $state('');
  let make = $state('');
  let ownAir = $state(false);
  let fits = $state('');
  let rating = $state('');

  async function add(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const receipt = await ask.send<Receipt>('/api/kit/fittings', {
      kind,
      name,
      families: family ? [family] : [],
      width: width.trim(),
      make,
      own_air: ownAir,
      fits,
      rating: rating.trim(),
      case: inCase.id,
    });
    if (receipt) done(receipt.of);
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
      id="name"
      class="mt-1 field"
      bind:value={name}
      placeholder={kind === 'plug' ? 'rubber plug, 32 mm' : 'blue bayonet adapter'}
      maxlength="60"
    /></label
  >
  <label>
    What it fits
    <select class="mt-1 field" bind:value={family}>
      <option value="">not said</option>
      {#each families as f (f)}<option value={f}>{f}</option>{/each}
    </select>
  </label>
  <div class="grid gap-3 sm:grid-cols-2">
    <label
      >Width of the neck or hole <input
        class="mt-1 field figures"
        bind:value={width}
        placeholder={sized(family) ? '36 to 41 mm' : '38 mm, if it has one'}
        maxlength="40"
      /></label
    >
    <label>
      Make of the neck
      <select class="mt-1 field" bind:value={make}>
        {#each makes as m (m)}<option value={m}>{m || 'not said'}</option>{/each}
      </select>
    </label>
  </div>
  {#if kind === 'adapter'}
    <label class="flex min-h-11 items-center gap-3"
      ><input type="checkbox" class="size-6" bind:checked={ownAir} /> Has its own air channel: inflated first, deflated
      last</label
    >
  {/if}
  <label>Note <input class="mt-1 field" bind:value={fits} maxlength="120" /></label>
  <label>Rated to <input class="mt-1 field figures" bind:value={rating} placeholder="250 kPa" /></label>
  {#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
  <div><button class="btn btn-main" disabled={ask.busy}>Add</button></div>
</form>
