<script lang="ts">
  // A gauge described as its face is: rings of figures, each with range and division.
  import { untrack } from 'svelte';
  import type { Gauge } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';

  let {
    done,
    maps = [],
    mapsAt = '',
    inCase = { id: '', name: '' },
  }: {
    done: (g: Gauge) => void;
    maps?: { id: string; title: string }[];
    mapsAt?: string;
    inCase?: { id: string; name: string };
  } = $props();
  const ask = new Ask();
  let name = $state(untrack(() => inCase.name));
  let kind = $state<'needle' | 'digital'>('needle');
  let klass = $state('');
  let rings = $state([{ unit: 'psi', from: '0', to: '30', division: '0.5', numbered: '5' }]);
  let read = $state(0);
  let rating = $state('');
  let speaks = $state<'no' | 'wire' | 'posted'>('no');
  let address = $state('');
  let map = $state('');
  const number = (s: string) => Number(s.replace(',', '.'));

  async function add(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const g = await ask.send<Gauge>('/api/kit/gauges', {
      name: name.trim(),
      case: inCase.id,
      kind,
      read: Math.min(read, rings.length - 1),
      class: number(klass) || 0,
      rating: rating.trim(),
      ...(speaks === 'wire' ? { address: address.trim(), map: map || (maps[0]?.id ?? '') } : {}),
      posted: speaks === 'posted',
      rings: rings.map((r) => ({
        unit: r.unit.trim(),
        from: number(r.from),
        to: number(r.to),
        division: number(r.division),
        numbered: number(r.numbered) || 0,
      })),
    });
    if (g) done(g);
  }
</script>

<form
  onsubmit={add}
  class="flex flex-col gap-3 rounded border border-edge bg-page p-3"
  aria-label="Describe a gauge"
  autocomplete="off"
>
  <div class="grid gap-3 sm:grid-cols-[2fr_1fr_1fr]">
    <label>Name <input class="field" bind:value={name} placeholder="brass tester" maxlength="60" /></label>
    <label>
      Face
      <select class="field" bind:value={kind}>
        <option value="needle">needle</option>
        <option value="digital">digits</option>
      </select>
    </label>
    <label
      >Class, % of span <input
        class="field figures"
        bind:value={klass}
        inputmode="decimal"
        placeholder="1.6"
      /></label
    >
  </div>
  {#each rings as r, i (i)}
    <fieldset class="grid grid-cols-2 items-end gap-2 sm:grid-cols-[auto_1fr_1fr_1fr_1fr_1fr]">
      <label class="flex min-h-11 items-center gap-2"
        ><input type="radio" name="read" class="size-5" checked={read === i} onchange={() => (read = i)} /> read</label
      >
      <label>Unit <input class="field" bind:value={r.unit} /></label>
      <label>From <input class="field figures" bind:value={r.from} inputmode="decimal" /></label>
      <label>To <input class="field figures" bind:value={r.to} inputmode="decimal" /></label>
      <label
        >{kind === 'needle' ? 'Division' : 'Last digit'}
        <input class="field figures" bind:value={r.division} inputmode="decimal" /></label
      >
      <label>Figures every <input class="field figures" bind:value={r.numbered} inputmode="decimal" /></label>
    </fieldset>
  {/each}
  <div class="grid gap-3 sm:grid-cols-2">
    <label
      >Not above <input class="field figures" bind:value={rating} placeholder="the end of its scale" /></label
    >
    {#if kind === 'digital' && maps.length}
      <label>
        Its readings come
        <select class="field" bind:value={speaks}>
          <option value="no">read by eye</option>
          <option value="wire">over the wire, Modbus TCP</option>
          <option value="posted">posted by a script or a logger</option>
        </select>
      </label>
    {/if}
    {#if kind === 'digital' && speaks === 'wire'}
      <label
        >Address, host and port
        <input
          class="field figures"
          bind:value={address}
          placeholder="192.168.1.40:502"
          maxlength="100"
        /></label
      >
      <label>
        Register map
        <select class="field" bind:value={map}>
          {#each maps as m (m.id)}<option value={m.id}>{m.title}</option>{/each}
        </select>
      </label>
      <p class="small sm:col-span-2">
        Maps of your own are files in <code class="break-all">{mapsAt}</code>.
      </p>
    {/if}
  </div>
  {#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
  <div class="flex flex-wrap gap-3">
    <button class="btn btn-main" disabled={ask.busy}>Add this gauge</button>
    {#if rings.length < 3 && kind === 'needle'}
      <button
        type="button"
        class="btn"
        onclick={() => rings.push({ unit: 'bar', from: '0', to: '2', division: '0.05', numbered: '0.5' })}
        >A second ring of figures</button
      >
    {/if}
    {#if rings.length > 1}<button type="button" class="btn" onclick={() => rings.pop()}
        >Without the last ring</button
      >{/if}
  </div>
</form>
