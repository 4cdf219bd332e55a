<script lang="ts">
  // What the shop measures and pumps with: what each piece is, where it is, what was
  // found at it.
  import { createQuery } from '@tanstack/svelte-query';
  import { get, type KitItem } from '../lib/api/client';
  import { p, route } from '../lib/routes';
  import { queries } from '../lib/query';
  import { capital, day } from '../lib/show';
  import CaseForm from '../parts/CaseForm.svelte';
  import FittingForm from '../parts/FittingForm.svelte';
  import GaugeForm from '../parts/GaugeForm.svelte';
  import KitPiece from '../parts/KitPiece.svelte';
  import PumpForm from '../parts/PumpForm.svelte';

  const kit = createQuery(() => ({ queryKey: ['kit', 'items'], queryFn: () => get('/api/kit/items') }));
  const kinds = [
    { id: 'gauge', title: 'Gauges', one: 'a gauge' },
    { id: 'pump', title: 'Pumps', one: 'a pump' },
    { id: 'adapter', title: 'Adapters', one: 'an adapter' },
    { id: 'plug', title: 'Plugs', one: 'a plug' },
    { id: 'case', title: 'Borrowed cases', one: 'a borrowed case' },
  ] as const;
  type Kind = (typeof kinds)[number]['id'];
  let chosen = $state('');
  let adding = $state<Kind | ''>('');
  let inCase = $state({ id: '', name: '' }); // what is added came in it
  let side = $state<HTMLElement>();
  // On a phone what was chosen stands above the list.
  $effect(() => {
    if (chosen || adding) side?.scrollIntoView({ block: 'nearest' });
  });
  const items = $derived(kit.data?.items ?? []);
  const item = $derived(items.find((i) => i.id === chosen));
  const out = $derived(items.filter((i) => i.loan || i.borrow));
  // What is due stands first to be seen.
  const first = (route.params as { piece?: string }).piece;
  $effect(() => {
    if (first) chosen = first;
  });

  const keep = () => queries.invalidateQueries({ queryKey: ['kit'] });
  async function added(id: string): Promise<void> {
    await keep();
    adding = '';
    chosen = id;
  }
  function where(i: KitItem): string {
    if (i.retired) return 'retired';
    if (i.gone) return 'given back';
    if (i.loan) return `${i.loan.overdue ? 'overdue from' : 'out with'} ${i.loan.to}, due ${i.loan.due}`;
    if (i.borrow)
      return `${i.borrow.overdue ? 'overdue: goes back' : 'borrowed, goes back'} to ${i.borrow.from}, ${i.borrow.due}`;
    return i.on_hold ? `on ${i.on_hold}` : 'here';
  }
  function latest(i: KitItem): string {
    const late = i.checks.find((c) => c.due);
    if (late) return capital(late.says);
    if (i.suspect) return `Its joint leaked in ${i.leaked} jobs: suspect it first, or change its ring.`;
    const n = i.notes[0];
    return n ? `${day(n.at)}: ${n.sentence}` : '';
  }
</script>

<div data-view="kit" data-ready={kit.data !== undefined} class="mx-auto max-w-7xl px-4 py-5">
  <div class="flex flex-wrap items-center gap-3">
    <h1 class="grow">Kit</h1>
    <a class="btn" href={p('/devices')}>Devices</a>
    {#if out.length}<a class="btn" href="/api/kit/loans.ics" download>Loans as calendar entries</a>{/if}
  </div>
  {#if kit.error}<p class="py-4 text-vermilion" role="alert">{kit.error.message}</p>{/if}
  {#each Object.entries(kit.data?.wrong_maps ?? {}) as [file, says] (file)}
    <p class="mt-3 border-l-4 border-vermilion bg-vermilion-wash px-3 py-2" role="alert">
      <b>The register map {file} was left out.</b>
      <span class="whitespace-pre-wrap">{says}</span>
    </p>
  {/each}
  <div
    class="mt-3 grid grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-6 two:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]"
  >
    <div class="flex flex-col gap-5">
      {#each kinds as k (k.id)}
        {@const list = items.filter((i) => i.kind === k.id)}
        <section aria-label={k.title}>
          <div class="flex flex-wrap items-end gap-x-3 border-b-2 border-ink pb-1">
            <h2 class="grow">{k.title}</h2>
            <button
              class="mb-2 btn"
              aria-expanded={adding === k.id}
              onclick={() => {
                adding = adding === k.id ? '' : k.id;
                chosen = '';
                inCase = { id: '', name: '' };
              }}>{k.id === 'case' ? 'Borrow a case' : `Add ${k.one}`}</button
            >
          </div>
          {#each list as i (i.id)}
            <button
              class="flex w-full flex-wrap items-baseline gap-x-4 border-b border-rule px-2 py-2 text-left hover:bg-page {chosen ===
              i.id
                ? 'bg-page font-bold'
                : ''} {i.retired || i.gone ? 'text-mute line-through' : ''}"
              aria-pressed={chosen === i.id}
              onclick={() => {
                chosen = chosen === i.id ? '' : i.id;
                adding = '';
              }}
            >
              <span class="grow font-bold">{i.name}</span>
              <span
                class="text-sm {i.loan?.overdue || i.borrow?.overdue
                  ? 'font-bold text-vermilion'
                  : 'text-mute'}">{where(i)}</span
              >
              <span class="basis-full text-sm font-normal text-mute"
                >{i.says.join('; ')}{i.speaks ? `; ${i.speaks}` : ''}</span
              >
              {#if latest(i)}<span
                  class="basis-full text-sm font-normal {i.suspect || i.checks.some((c) => c.due)
                    ? 'text-vermilion'
                    : ''}">{latest(i)}</span
                >{/if}
            </button>
          {:else}
            <p class="py-2 text-mute">{kit.isPending ? 'Opening…' : 'None yet.'}</p>
          {/each}
        </section>
      {/each}
    </div>
    <div class="order-first two:order-none" bind:this={side}>
      <div class="sticky top-4">
        {#if adding === 'gauge' && kit.data}
          <GaugeForm maps={kit.data.maps} mapsAt={kit.data.maps_at} {inCase} done={(g) => added(g.id)} />
        {:else if adding === 'pump'}
          <PumpForm {inCase} done={added} />
        {:else if adding === 'case'}
          <CaseForm done={added} />
        {:else if adding !== '' && adding !== 'gauge'}
          {#key inCase.name}<FittingForm kind={adding} {inCase} done={added} />{/key}
        {:else if item}
          {#key item.id}<KitPiece
              {item}
              others={items}
              {keep}
              shelve={(kind, name) => {
                inCase = { id: item.id, name };
                adding = kind;
              }}
            />{/key}
        {:else}
          <p class="hidden text-mute two:block">
            Choose a piece to check it, lend it or note what was done. A gauge on the network is read at the
            address that you type; nothing is searched for.
          </p>
        {/if}
      </div>
    </div>
  </div>
</div>
