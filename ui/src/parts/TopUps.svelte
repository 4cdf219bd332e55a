<script lang="ts">
  // What was put into a machine, by whoever was there: two inputs on a phone.
  import type { MachinePage, Receipt } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { queries } from '../lib/query';
  import { dayTime } from '../lib/show';

  let { m }: { m: MachinePage } = $props();
  const ask = new Ask();
  let added = $state('');
  let what = $state('');

  async function put(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const r = await ask.send<Receipt>('/api/machine/top-ups', { machine: m.name, added, what });
    if (!r) return;
    added = what = '';
    await queries.invalidateQueries({ queryKey: ['machine'] });
  }
</script>

<section aria-label="Topped up" data-top-ups={m.top_ups.all.length}>
  <h2 class="border-b border-ink pb-1">Topped up</h2>
  <form class="flex flex-wrap items-end gap-2 pt-2" onsubmit={put} autocomplete="off">
    <label class="w-28"
      ><span class="small">Put in</span>
      <input id="top-up" class="field figures" bind:value={added} placeholder="0.5 L" maxlength="30" /></label
    >
    <label class="w-40"
      ><span class="small">of</span>
      <input class="field" bind:value={what} placeholder="water" maxlength="60" /></label
    >
    <button class="btn" disabled={ask.busy || !m.visits.length}>Note it</button>
  </form>
  {#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
  {#if m.top_ups.says}<p class="mt-2 font-bold">{m.top_ups.says}</p>{/if}
  <ul class="divide-y divide-rule">
    {#each m.top_ups.all.slice(0, 12) as t (t.at + t.says)}
      <li class="py-2">{t.says} <span class="small figures">{dayTime(t.at)}, {t.by}</span></li>
    {/each}
  </ul>
</section>
