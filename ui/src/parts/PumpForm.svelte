<script lang="ts">
  // A pump, its stroke known from the maker, by its bore, or by liquid drawn off.
  import { untrack } from 'svelte';
  import type { Receipt } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';

  let { inCase, done }: { inCase: { id: string; name: string }; done: (id: string) => void } = $props();
  const ask = new Ask();
  let name = $state(untrack(() => inCase.name));
  let draws = $state(false);
  let how = $state<'drawn' | 'bore' | 'typed'>('drawn');
  const field = $state({ stroke: '', drawn: '', strokes: '', bore: '', length: '' });
  const wanted = { drawn: ['drawn', 'strokes'], bore: ['bore', 'length'], typed: ['stroke'] } as const;
  const words = {
    drawn: ['Liquid drawn off', '400 mL'],
    strokes: ['Number of strokes', '20'],
    bore: ['Bore', '22 mm'],
    length: ['Length of a stroke', '80 mm'],
    stroke: ['A stroke', '20 cm³ ± 0.6 cm³'],
  } as const;

  async function add(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const content: Record<string, string | boolean> = { name: name.trim(), draws, case: inCase.id };
    for (const f of wanted[how]) content[f] = field[f].trim();
    const receipt = await ask.send<Receipt>('/api/kit/pumps', content);
    if (receipt) done(receipt.of);
  }
</script>

<form
  onsubmit={add}
  class="flex flex-col gap-3 rounded border border-edge bg-page p-3"
  aria-label="Describe a pump"
  autocomplete="off"
>
  <label
    >Name <input class="mt-1 field" bind:value={name} placeholder="long hand pump" maxlength="60" /></label
  >
  <label>
    Its stroke is known
    <select class="mt-1 field" bind:value={how}>
      <option value="drawn">by liquid drawn off, the surest</option>
      <option value="bore">by its bore and the length of a stroke</option>
      <option value="typed">from its plate</option>
    </select>
  </label>
  <div class="grid gap-3 sm:grid-cols-2">
    {#each wanted[how] as f (f)}
      <label
        >{words[f][0]}
        <input class="mt-1 field figures" bind:value={field[f]} placeholder={words[f][1]} /></label
      >
    {/each}
  </div>
  <label class="flex min-h-11 items-center gap-3"
    ><input type="checkbox" class="size-6" bind:checked={draws} /> It draws a vacuum, too</label
  >
  {#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
  <div><button class="btn btn-main" disabled={ask.busy}>Add this pump</button></div>
</form>
