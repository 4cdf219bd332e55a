<script lang="ts">
  // One piece of kit: what it is, what is done with it, what was noted.
  import type { KitItem, Receipt } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { day } from '../lib/show';

  let { item, others, keep }: { item: KitItem; others: KitItem[]; keep: () => void } = $props();
  const ask = new Ask();
  let doing = $state('');
  let text = $state('');
  let due = $state('');
  let shows = $state('');
  let besides = $state([
    { read: '', true: '' },
    { read: '', true: '' },
    { read: '', true: '' },
  ]);
  let beside = $state('');
  const host = location.origin;

  const deeds = $derived(
    item.retired
      ? []
      : [
          ...(item.kind === 'gauge' && !item.simulated
            ? [
                { id: 'zero check', title: 'Zero check' },
                { id: 'compared', title: 'Compare' },
              ]
            : []),
          { id: 'service', title: 'Service' },
          item.loan ? { id: 'back', title: 'Returned' } : { id: 'lent', title: 'Lend' },
          { id: 'retired', title: 'Retire' },
        ],
  );

  async function note(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const content: Record<string, unknown> = { kind: doing, text: text.trim() };
    if (doing === 'lent') content.due = due;
    if (doing === 'zero check') content.shows = shows;
    if (doing === 'compared') {
      content.beside = besides.filter((b) => b.read.trim() || b.true.trim());
      content.with = beside;
    }
    const receipt = await ask.send<Receipt>('/api/kit/{id}/notes', content, item.id);
    if (receipt) {
      keep();
      doing = text = due = shows = '';
    }
  }
</script>

<section class="flex flex-col gap-3" aria-label={item.name} data-piece={item.id}>
  <h2 class="border-b-2 border-ink pb-1">{item.name}</h2>
  <ul>
    {#each item.says as line (line)}<li>{line}</li>{/each}
    {#if item.speaks}<li>{item.speaks}</li>{/if}
    {#if item.address}<li>at <span class="figures">{item.address}</span>, over Modbus TCP</li>{/if}
  </ul>
  {#if item.posted}
    <div>
      <p class="small">Its readings are posted to the hold that it is on, by a script or a logger:</p>
      <pre
        class="mt-1 overflow-x-auto rounded border border-rule bg-page p-2 text-xs">curl {host}/api/gauges/{item.id}/readings \
  -H 'Content-Type: application/json' \
  -d '{JSON.stringify({
          id: 'logger-000001',
          by: 'logger',
          device: 'logger',
          readings: [{ value: 101.3 }],
        })}'</pre>
    </div>
  {/if}
  <div class="flex flex-wrap gap-2">
    {#each deeds as d (d.id)}
      <button
        class="btn {doing === d.id ? 'border-ink font-bold' : ''}"
        aria-expanded={doing === d.id}
        onclick={() => (doing = doing === d.id ? '' : d.id)}>{d.title}</button
      >
    {/each}
  </div>
  {#if doing}
    <form
      class="flex flex-col gap-3 rounded border border-edge bg-page p-3"
      onsubmit={note}
      autocomplete="off"
    >
      {#if doing === 'zero check'}
        <label
          >Reading with no pressure
          <input class="mt-1 field figures" bind:value={shows} placeholder="0.2 psi" /></label
        >
      {:else if doing === 'compared'}
        <label
          >Beside which better gauge
          <select class="mt-1 field" bind:value={beside}>
            <option value="">not named</option>
            {#each others.filter((o) => o.kind === 'gauge' && o.id !== item.id && !o.retired) as o (o.id)}
              <option value={o.name}>{o.name}</option>
            {/each}
          </select></label
        >
        <div class="grid grid-cols-2 gap-2">
          <span class="small">This one shows</span><span class="small">The better one shows</span>
          {#each besides as b, i (i)}
            <input class="field figures" aria-label="This one shows, {i + 1}" bind:value={b.read} />
            <input class="field figures" aria-label="The better one shows, {i + 1}" bind:value={b.true} />
          {/each}
        </div>
        <p class="small">One pressure shows the offset. Low, middle and high show the span error too.</p>
      {:else if doing === 'lent'}
        <label>Who has it <input class="mt-1 field" bind:value={text} maxlength="300" /></label>
        <label>Due back on <input class="mt-1 field figures" type="date" bind:value={due} /></label>
      {:else if doing === 'back'}
        <label
          >Condition, and anything to note <input
            class="mt-1 field"
            bind:value={text}
            maxlength="300"
          /></label
        >
      {:else}
        <label
          >{doing === 'retired' ? 'Why it is no longer used' : 'What was done'}
          <input class="mt-1 field" bind:value={text} maxlength="300" /></label
        >
      {/if}
      {#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
      <div><button class="btn btn-main" disabled={ask.busy}>Save the note</button></div>
    </form>
  {/if}
  <ul class="border-t border-rule">
    {#each item.notes as n (n.at + n.sentence)}
      <li class="border-b border-rule py-1.5">
        {n.sentence}
        <span class="block small figures">{n.kind}, {day(n.at)}, {n.by}</span>
      </li>
    {:else}
      <li class="py-1.5 text-mute">No notes yet.</li>
    {/each}
  </ul>
</section>
