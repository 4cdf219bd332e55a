<script lang="ts">
  // One piece of kit: what it is, what is done with it, what was noted.
  import type { KitItem, Receipt } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { capital, day } from '../lib/show';

  let {
    item,
    others,
    keep,
    shelve,
  }: {
    item: KitItem;
    others: KitItem[];
    keep: () => void;
    shelve: (kind: 'gauge' | 'pump' | 'adapter' | 'plug', name: string) => void;
  } = $props();
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
  let deposit = $state('');
  let there = $state<Record<string, boolean>>({}); // counted out
  let of = $state('service');
  let days = $state('');
  let uses = $state('');
  const came = $derived(item.pieces.filter((x) => !item.borrow?.missing.includes(x)));
  const lost = $derived(came.filter((x) => !there[x]));
  const kinds = ['adapter', 'plug', 'gauge', 'pump'] as const;
  // What has its name and came in this case is on the shelf already.
  const shelved = (name: string) => others.find((o) => o.borrow?.case === item.id && o.name === name);
  let opened = $state('');
  const host = location.origin;

  const deeds = $derived(
    item.retired || (item.gone && item.kind === 'case')
      ? []
      : item.gone
        ? [{ id: 'borrowed', title: 'Borrow again' }]
        : item.kind === 'case'
          ? [{ id: 'given back', title: 'Give it back' }]
          : [
              ...(item.kind === 'gauge' && !item.simulated
                ? [
                    { id: 'zero check', title: 'Zero check' },
                    { id: 'compared', title: 'Compare' },
                  ]
                : []),
              { id: 'service', title: 'Service' },
              ...(item.borrow?.case
                ? []
                : item.borrow
                  ? [{ id: 'given back', title: 'Give it back' }]
                  : item.loan
                    ? [{ id: 'back', title: 'Returned' }]
                    : [
                        { id: 'lent', title: 'Lend' },
                        { id: 'borrowed', title: 'It is borrowed' },
                      ]),
              { id: 'check due', title: 'Checks due' },
              { id: 'retired', title: 'Retire' },
            ],
  );

  async function note(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const content: Record<string, unknown> = { kind: doing, text: text.trim() };
    if (doing === 'lent' || doing === 'borrowed') content.due = due;
    if (doing === 'borrowed') content.deposit = deposit;
    if (doing === 'given back') content.missing = lost;
    if (doing === 'check due')
      Object.assign(content, { of, days: Number(days) || 0, uses: Number(uses) || 0 });
    if (doing === 'zero check') content.shows = shows;
    if (doing === 'compared') {
      content.beside = besides.filter((b) => b.read.trim() || b.true.trim());
      content.with = beside;
    }
    const receipt = await ask.send<Receipt>('/api/kit/{id}/notes', content, item.id);
    if (receipt) {
      keep();
      doing = text = due = shows = deposit = '';
    }
  }
</script>

<section class="flex flex-col gap-3" aria-label={item.name} data-piece={item.id} data-gone={item.gone}>
  <h2 class="border-b-2 border-ink pb-1">{item.name}</h2>
  <ul>
    {#each item.says as line (line)}<li>{line}</li>{/each}
    {#if item.speaks}<li>{item.speaks}</li>{/if}
    {#if item.address}<li>at <span class="figures">{item.address}</span>, over Modbus TCP</li>{/if}
  </ul>
  {#if item.borrow}
    <p class={item.borrow.overdue ? 'font-bold text-vermilion' : ''} data-borrowed={item.borrow.overdue}>
      Borrowed from {item.borrow.from}. Goes back on {item.borrow.due}{item.borrow.deposit
        ? `; deposit ${item.borrow.deposit}`
        : ''}.
    </p>
  {/if}
  {#if item.suspect}
    <p class="font-bold text-vermilion" data-suspect={item.leaked}>
      Its joint leaked in {item.leaked} jobs. Change its ring, or look at its seat, before it is used again.
    </p>
  {/if}
  {#each item.checks as c (c.of)}
    <p class={c.due ? 'font-bold text-vermilion' : 'small'} data-check={c.due}>{capital(c.says)}</p>
  {/each}
  {#if item.uses}<p class="small figures">On {item.uses} {item.uses === 1 ? 'hold' : 'holds'} so far.</p>{/if}
  {#if item.kind === 'case' && doing === ''}
    <ul class="divide-y divide-rule border-y border-rule" aria-label="What is in it">
      {#each item.pieces as x (x)}
        <li class="flex min-h-11 flex-wrap items-center gap-2 py-1">
          <span class="grow {came.includes(x) ? '' : 'text-mute line-through'}">{x}</span>
          {#if !came.includes(x)}<span class="small">was not in it</span>
          {:else if shelved(x)}<span class="small">{shelved(x)?.kind}, on the shelf</span>
          {:else if !item.gone}
            <button class="btn" aria-expanded={opened === x} onclick={() => (opened = opened === x ? '' : x)}
              >Put on the shelf</button
            >
            {#if opened === x}
              <span class="flex basis-full flex-wrap gap-2 pb-1">
                {#each kinds as k (k)}<button class="btn" onclick={() => shelve(k, x)}>as {k}</button>{/each}
              </span>
            {/if}
          {/if}
        </li>
      {/each}
    </ul>
  {/if}
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
      {:else if doing === 'borrowed'}
        <label>Borrowed from <input class="mt-1 field" bind:value={text} maxlength="80" /></label>
        <label>Goes back on <input class="mt-1 field figures" type="date" bind:value={due} /></label>
        <label>Deposit, if any <input class="mt-1 field figures" bind:value={deposit} maxlength="40" /></label
        >
      {:else if doing === 'given back'}
        {#if item.kind === 'case'}
          <fieldset>
            <legend class="small">Count it out: press each piece that lies in it</legend>
            <ul class="mt-1 flex flex-wrap gap-2">
              {#each came as x (x)}
                <li>
                  <button
                    type="button"
                    class="btn {there[x] ? 'border-2 border-ink bg-brass-wash font-bold' : ''}"
                    aria-pressed={!!there[x]}
                    onclick={() => (there[x] = !there[x])}>{there[x] ? '✓ ' : ''}{x}</button
                  >
                </li>
              {/each}
            </ul>
          </fieldset>
          <p
            class={lost.length ? 'font-bold text-vermilion' : 'font-bold'}
            data-lost={lost.length}
            role="status"
          >
            {lost.length
              ? `${came.length - lost.length} of ${came.length} there. Missing: ${lost.join(', ')}.`
              : `All ${came.length} pieces are there.`}
          </p>
        {/if}
        <label
          >Condition, and what was agreed <input
            class="mt-1 field"
            bind:value={text}
            maxlength="300"
          /></label
        >
      {:else if doing === 'check due'}
        <label
          >What is done again and again
          <select class="mt-1 field" bind:value={of}>
            {#if item.kind === 'gauge'}
              <option value="zero check">zero check</option>
              <option value="compared">comparison with a better gauge</option>
            {/if}
            <option value="service">service</option>
          </select></label
        >
        <div class="grid grid-cols-2 gap-2">
          <label
            >Every … days <input
              class="mt-1 field figures"
              bind:value={days}
              inputmode="numeric"
              placeholder="90"
            /></label
          >
          <label
            >or every … holds <input
              class="mt-1 field figures"
              bind:value={uses}
              inputmode="numeric"
              placeholder="50"
            /></label
          >
        </div>
        <p class="small">Left empty, it is due no more.</p>
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
      <div>
        <button class="btn btn-main" disabled={ask.busy}
          >{doing === 'given back' && lost.length && item.kind === 'case'
            ? `Give it back with ${lost.length} missing`
            : 'Save the note'}</button
        >
      </div>
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
