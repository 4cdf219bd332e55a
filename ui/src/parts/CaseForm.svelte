<script lang="ts">
  // A case of kit that is borrowed, as it is counted in at the counter.
  import type { Receipt } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';

  let { done }: { done: (id: string) => void } = $props();
  const ask = new Ask();
  let name = $state('');
  let from = $state('');
  let due = $state('');
  let deposit = $state('');
  let lines = $state('');
  let absent = $state<Record<string, boolean>>({});
  const pieces = $derived([
    ...new Set(
      lines
        .split('\n')
        .map((l) => l.trim().replace(/\s+/g, ' '))
        .filter((l) => l !== ''),
    ),
  ]);

  async function add(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const receipt = await ask.send<Receipt>('/api/kit/cases', {
      name,
      from,
      due,
      deposit,
      pieces,
      missing: pieces.filter((x) => absent[x]),
    });
    if (receipt) done(receipt.of);
  }
</script>

<form
  onsubmit={add}
  class="flex flex-col gap-3 rounded border border-edge bg-page p-3"
  aria-label="Borrow a case"
  autocomplete="off"
>
  <label
    >What it is called <input
      class="mt-1 field"
      bind:value={name}
      placeholder="blue cooling kit"
      maxlength="60"
    /></label
  >
  <div class="grid gap-3 sm:grid-cols-2">
    <label>Borrowed from <input class="mt-1 field" bind:value={from} maxlength="80" /></label>
    <label>Goes back on <input class="mt-1 field figures" type="date" bind:value={due} /></label>
  </div>
  <label
    >Deposit, if any <input
      class="mt-1 field figures"
      bind:value={deposit}
      placeholder="60"
      maxlength="40"
    /></label
  >
  <label
    >What is in it, a piece a line
    <textarea class="mt-1 h-32 field" bind:value={lines} placeholder="hand pump with gauge"></textarea></label
  >
  {#if pieces.length}
    <fieldset>
      <legend class="small">Count it in: press what is not in it</legend>
      <ul class="mt-1 flex flex-wrap gap-2">
        {#each pieces as x (x)}
          <li>
            <button
              type="button"
              class="btn {absent[x] ? 'border-vermilion text-vermilion line-through' : ''}"
              aria-pressed={!!absent[x]}
              onclick={() => (absent[x] = !absent[x])}>{x}</button
            >
          </li>
        {/each}
      </ul>
    </fieldset>
  {/if}
  {#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
  <div>
    <button class="btn btn-main" disabled={ask.busy}
      >Take it in{pieces.length
        ? `: ${pieces.filter((x) => !absent[x]).length} of ${pieces.length}`
        : ''}</button
    >
  </div>
</form>
