<script lang="ts">
  // A ledger of jobs, found by plain words, some at a time.
  import { createInfiniteQuery, keepPreviousData } from '@tanstack/svelte-query';
  import { get } from '../lib/api/client';
  import { keys } from '../lib/keys.svelte';
  import { navigate, p } from '../lib/routes';
  import { day, figure } from '../lib/show';
  import Ring from '../parts/Ring.svelte';

  let words = $state('');
  let asked = $state(''); // the words once typing pauses
  let field: HTMLInputElement;
  // What was chosen beside the words; the words may mean the same.
  const filters = [
    { id: 'open', says: 'Open' },
    { id: 'unproved', says: 'Not proved yet' },
    { id: 'due', says: 'To look at' },
    { id: 'kit out', says: 'Kit lent or borrowed' },
  ] as const;
  type Only = (typeof filters)[number]['id'];
  let only = $state<Only[]>([]);
  let hands = $state('');
  let family = $state('');
  const pauseMs = 120;
  $effect(() => {
    const typed = words;
    const wait = setTimeout(() => (asked = typed), pauseMs);
    return () => clearTimeout(wait);
  });
  const wanted = $derived({
    q: asked,
    ...(only.length ? { only: only.join(',') } : {}),
    ...(hands ? { hands } : {}),
    ...(family ? { family } : {}),
  });
  const book = createInfiniteQuery(() => ({
    queryKey: ['book', wanted],
    queryFn: ({ pageParam }) =>
      get('/api/book', { query: { ...wanted, ...(pageParam ? { next: pageParam } : {}) } }),
    initialPageParam: '',
    getNextPageParam: (last) => last.next || undefined,
    placeholderData: keepPreviousData,
  }));
  const mended = {
    '': '',
    unproved: 'not proved yet',
    unclear: 'not proved yet',
    unlike: 'not proved yet',
    leaks: 'still leaks',
    proved: 'proved',
  } as const;
  const rows = $derived(book.data?.pages.flatMap((some) => some.rows));
  const first = $derived(book.data?.pages[0]);
  const out = $derived(first?.kit ?? []);
  const meant = $derived(first?.meant);
  const narrowed = $derived(asked.trim() !== '' || only.length > 0 || hands !== '' || family !== '');
  // What was called, and whose an open one is.
  function called(j: { call: string; state: string; hands: string }): string {
    const call = j.call === 'not-yet' ? 'no call' : j.call;
    return j.state === 'open' ? `${call || 'in hand'}, ${j.hands}` : call || j.state;
  }
  // A filter that the words mean is taken off by taking off the words.
  function toggle(id: Only): void {
    if (only.includes(id)) only = only.filter((o) => o !== id);
    else if (!meant?.only.includes(id)) only = [...only, id];
  }
  // Enter opens the first that is found, once it is.
  let opening = $state(false);
  const ready = $derived(
    rows !== undefined && asked === words && !book.isPlaceholderData && !book.isFetchingNextPage,
  );
  $effect(() => {
    if (!opening || !ready) return;
    opening = false;
    const row = rows?.[0];
    if (row) void navigate('/jobs/:id', { params: { id: row.id } });
  });
  $effect(() => keys([{ key: 'f', says: 'Search the book', where: 'Book', do: () => field.focus() }]));
</script>

<div
  data-view="book"
  data-ready={ready}
  data-rows={rows?.length}
  data-only={meant?.only.join(' ')}
  data-hands={meant?.hands}
  data-family={meant?.family}
  class="mx-auto max-w-7xl px-4 py-5"
>
  <div class="flex flex-wrap items-end gap-4">
    <h1 class="grow">The book</h1>
    <a class="btn" href={p('/handover')}>End of shift</a>
  </div>
  <div class="mt-3 flex flex-wrap items-center gap-2" role="group" aria-label="Only">
    {#each filters as f (f.id)}
      {@const on = meant?.only.includes(f.id) ?? false}
      <button
        class="btn {on ? 'border-2 border-ink bg-brass-wash font-bold' : ''}"
        aria-pressed={on}
        onclick={() => toggle(f.id)}>{f.says}</button
      >
    {/each}
    <label class="flex min-h-11 items-center gap-2"
      ><span class="small">In the hands of</span>
      <select
        class="field w-auto"
        value={meant?.hands ?? ''}
        onchange={(e) => (hands = e.currentTarget.value)}
      >
        <option value="">anyone</option>
        {#each first?.people ?? [] as x (x)}<option value={x}>{x}</option>{/each}
      </select></label
    >
    <label class="flex min-h-11 max-w-full items-center gap-2"
      ><span class="small">Circuit</span>
      <select
        class="field w-auto min-w-0"
        value={meant?.family ?? ''}
        onchange={(e) => (family = e.currentTarget.value)}
      >
        <option value="">any</option>
        {#each first?.families ?? [] as x (x.id)}<option value={x.id}>{x.title}</option>{/each}
      </select></label
    >
  </div>
  <label class="mt-3 block">
    <span class="small"
      >Search: machine, complaint, part, remark, “not proved by Ilse” <span class="key">F</span></span
    >
    <input
      bind:this={field}
      bind:value={words}
      class="mt-1 field"
      type="search"
      placeholder="carrier radiator"
      onkeydown={(e) => e.key === 'Enter' && (opening = true)}
      oninput={() => (opening = false)}
    />
  </label>
  {#if book.error}<p class="py-4 text-vermilion" role="alert">{book.error.message}</p>{/if}
  {#if out.length}
    <ul class="mt-3 border-t-2 border-ink" aria-label="Kit lent or borrowed">
      {#each out as d (d.kit_id + d.text)}
        <li class="border-b border-rule">
          <a
            class="flex min-h-12 flex-wrap items-center gap-x-4 no-underline hover:bg-page"
            href={p('/kit/:piece', { params: { piece: d.kit_id } })}
            ><b class="grow">{d.name}</b><span>{d.text}</span><span
              class="small figures {d.overdue ? 'font-bold text-vermilion' : ''}">{d.day}</span
            ></a
          >
        </li>
      {/each}
    </ul>
  {/if}
  <div class="mt-3 overflow-x-auto">
    <table class="w-full border-t-2 border-ink">
      <thead class="hidden md:table-header-group">
        <tr class="border-b border-rule text-left small">
          <th class="py-1.5 pr-4 font-normal">Date</th>
          <th class="pr-4 font-normal">Machine</th>
          <th class="pr-4 font-normal">Complaint</th>
          <th class="pr-4 font-normal">Call</th>
          <th class="pr-4 font-normal">Size</th>
          <th class="pr-4 font-normal">Found</th>
          <th class="font-normal">Mended</th>
        </tr>
      </thead>
      <tbody>
        {#each rows ?? [] as j (j.id)}
          <tr
            class="relative grid grid-cols-[minmax(0,7rem)_minmax(0,1fr)] border-b border-rule py-2 hover:bg-page md:table-row md:py-0"
          >
            <td class="content-center pr-4 small whitespace-nowrap figures">{day(j.at)}</td>
            <td class="pr-4 font-bold"
              ><a
                class="flex min-h-12 min-w-12 items-center no-underline after:absolute after:inset-0"
                href={p('/jobs/:id', { params: { id: j.id } })}
                ><span
                  >{j.machine}{#if j.owner}<span class="block small font-normal">{j.owner}</span>{/if}</span
                ></a
              ></td
            >
            <td class="pr-4 text-mute md:text-ink">{j.complaint}</td>
            <td class="pr-4">
              <span class="flex flex-wrap items-center gap-x-2 md:flex-nowrap md:whitespace-nowrap">
                <Ring kind={j.ring} size={24} />
                {called(j)}
              </span>
            </td>
            <td class="pr-4 whitespace-nowrap figures"
              >{j.loss_ml_per_h === null ? '' : `${figure(j.loss_ml_per_h)} mL/h`}</td
            >
            <td class="pr-4"
              >{j.found}{#if j.simulated}<span class="small">{j.found ? ', ' : ''}simulated</span>{/if}</td
            >
            <td class="whitespace-nowrap {j.mend === '' || j.mend === 'proved' ? '' : 'text-vermilion'}"
              >{mended[j.mend]}</td
            >
          </tr>
        {:else}
          <tr
            ><td class="text-mute py-6" colspan="7"
              >{meant?.only.includes('kit out')
                ? out.length
                  ? ''
                  : 'No kit is lent out or borrowed.'
                : narrowed
                  ? asked.trim()
                    ? `Nothing in the book has all of “${asked}”${only.length || hands || family ? ', with these filters' : ''}.`
                    : 'Nothing in the book is like that.'
                  : book.isPending
                    ? 'Opening…'
                    : 'The book is empty.'}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
  </div>
  <div class="mt-4 flex flex-wrap gap-3">
    {#if book.hasNextPage}
      <button class="btn" disabled={book.isFetchingNextPage} onclick={() => void book.fetchNextPage()}>
        Next 50
      </button>
    {/if}
    {#if rows?.length}
      <a class="btn" href="/api/book.csv?{new URLSearchParams(wanted)}" download="book.csv"
        >{narrowed ? 'All of these' : 'The book'} as a table, CSV</a
      >
    {/if}
  </div>
</div>
