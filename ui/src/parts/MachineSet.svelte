<script lang="ts">
  // A set as one and each: a train's wagons, a fleet's vehicles, with what the tests of the whole
  // say of each.
  import type { MachinePage, Receipt } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { navigate, p } from '../lib/routes';
  import { queries } from '../lib/query';
  import { capital, day, ringWords } from '../lib/show';
  import Ring from './Ring.svelte';

  let { m }: { m: MachinePage } = $props();
  const ask = new Ask();
  const set = $derived(m.set);
  let changing = $state(false);
  let lines = $state('');
  let fleet = $state('');
  // The whole is tested again with these names, in this order.
  const round = $derived(m.visits.find((v) => v.latest && v.things));

  function change(): void {
    lines = (set.members.length ? set.members.map((x) => x.name) : set.proposed).join('\n');
    changing = !changing;
  }
  async function keep(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const members = lines.split('\n').filter((l) => l.trim() !== '');
    const r = await ask.send<Receipt>('/api/machine/set', { whole: m.name, members });
    if (!r) return;
    changing = false;
    await queries.invalidateQueries({ queryKey: ['machine'] });
  }
  async function join(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const r = await ask.send<Receipt>('/api/machine/set', { whole: fleet, members: [m.name], add: true });
    if (!r) return;
    fleet = '';
    await queries.invalidateQueries({ queryKey: ['machine'] });
  }
  async function test(): Promise<void> {
    const r = await ask.send<Receipt>('/api/jobs', {
      machine: m.name,
      complaint: 'routine',
      circuit: round?.circuit_id ?? '',
      things: set.members.map((x) => x.name),
    });
    if (r) void navigate('/jobs/:id', { params: { id: r.of } });
  }
</script>

{#if set.whole}
  <section aria-label="One of a set" data-part-of={set.whole}>
    <h2 class="border-b border-ink pb-1">
      One of <a
        class="inline-flex min-h-11 items-center underline"
        href={p('/machines/:name', { params: { name: encodeURIComponent(set.whole) } })}>{set.whole}</a
      >
    </h2>
    <ul class="divide-y divide-rule">
      {#each set.members[0]?.in ?? [] as r (r.job_id)}
        <li>
          <a
            class="flex min-h-12 flex-wrap items-center gap-3 no-underline hover:bg-page"
            href={p('/jobs/:id', { params: { id: r.job_id } })}
            ><Ring kind={r.ring} size={24} /><span class="small figures">{day(r.at)}</span>
            {r.says ||
              capital(r.ring === 'whole' ? 'nothing wrong in the test of the whole' : 'not looked at')}</a
          >
        </li>
      {/each}
    </ul>
  </section>
{:else}
  <section aria-label="Set" data-members={set.members.length}>
    <div class="flex flex-wrap items-end gap-3 border-b border-ink pb-1">
      <h2 class="grow">
        {set.members.length
          ? `Its ${set.thing ? `${set.thing}s` : 'machines'}, one by one`
          : 'A set of machines'}
      </h2>
      <button class="btn" aria-expanded={changing} onclick={change}
        >{set.members.length ? 'Change the set' : 'It is several machines'}</button
      >
      {#if !set.members.length && !set.thing}
        <form class="flex items-center gap-2" onsubmit={join} autocomplete="off">
          <input
            class="field w-40"
            aria-label="It is one of"
            placeholder="Mist-blowers"
            maxlength="80"
            bind:value={fleet}
          />
          <button class="btn" disabled={ask.busy || !fleet.trim()}>It is one of these</button>
        </form>
      {/if}
      {#if set.members.length && round}
        <button class="btn btn-main" disabled={ask.busy} onclick={() => void test()}
          >Test all {set.members.length} together</button
        >
      {/if}
    </div>
    {#if changing}
      <form class="flex flex-col gap-2 pt-2" onsubmit={keep} autocomplete="off" aria-label="Which are of it">
        <label
          ><span class="small">Which machines, a name a line, in their order</span>
          <textarea class="h-40 field" bind:value={lines} placeholder="Fruit train, Wagon 1"
          ></textarea></label
        >
        <div><button class="btn btn-main" disabled={ask.busy}>Keep the set</button></div>
      </form>
    {/if}
    {#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
    <ul class="divide-y divide-rule">
      {#each set.members as x (x.name)}
        <li class="flex flex-wrap items-center gap-x-4 gap-y-3 py-1" data-member={x.in[0]?.ring ?? 'dotted'}>
          <a
            class="flex min-h-12 min-w-[min(11rem,100%)] items-center gap-3 font-bold no-underline hover:bg-page"
            href={p('/machines/:name', { params: { name: encodeURIComponent(x.name) } })}
            ><Ring kind={x.in[0]?.ring ?? x.ring} size={28} />{x.name}</a
          >
          <span class="min-w-0 grow">
            {#if x.in[0]}
              {x.in[0].says || (x.in[0].ring === 'whole' ? 'nothing wrong' : 'not looked at yet')}<span
                class="small figures">, {day(x.in[0].at)}</span
              >
            {:else if set.thing}
              in no test of the whole yet
            {/if}
          </span>
          {#if x.in.length > 1}
            <span
              class="flex gap-1"
              role="img"
              aria-label="Before: {x.in
                .slice(1)
                .map((r) => ringWords[r.ring])
                .join(', ')}"
              >{#each x.in.slice(1) as r (r.job_id)}<Ring kind={r.ring} size={18} />{/each}</span
            >
          {/if}
          {#if x.at}
            <a
              class="flex min-h-11 items-center small underline"
              href={p('/jobs/:id', { params: { id: x.job_id } })}>on its own: {x.says}, {day(x.at)}</a
            >
          {/if}
        </li>
      {/each}
    </ul>
  </section>
{/if}
