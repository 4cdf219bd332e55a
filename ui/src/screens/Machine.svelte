<script lang="ts">
  // What is known of a machine over its jobs: its rings in a row, what it loses, its marks, what
  // fitted. The same test begins again with all of that.
  import { createQuery } from '@tanstack/svelte-query';
  import { get, type Receipt } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { me } from '../lib/me.svelte';
  import { navigate, p, route } from '../lib/routes';
  import { day, figure, ringWords } from '../lib/show';
  import Losses from '../parts/Losses.svelte';
  import MachineSet from '../parts/MachineSet.svelte';
  import Ring from '../parts/Ring.svelte';
  import TopUps from '../parts/TopUps.svelte';

  const name = $derived((route.params as { name?: string }).name ?? '');
  const query = createQuery(() => ({
    queryKey: ['machine', name],
    queryFn: () => get('/api/machine', { query: { name } }),
    enabled: name !== '',
    retry: false,
  }));
  const m = $derived(query.data);
  const open = $derived(m?.visits.find((v) => v.state === 'open'));
  const owner = $derived(
    m ? [m.parties.owner, m.parties.contact, m.parties.plate].filter((x) => x).join(', ') : '',
  );
  const several = $derived(!!m && (m.set.whole !== '' || m.set.thing !== '' || m.set.members.length > 0));
  const ask = new Ask();
  $effect(() => {
    me.heading = name;
    return () => (me.heading = '');
  });

  async function again(job: string): Promise<void> {
    const r = await ask.send<Receipt>('/api/jobs/{id}/again', {}, job);
    if (r) void navigate('/jobs/:id', { params: { id: r.of } });
  }
</script>

<div
  class="mx-auto flex max-w-5xl flex-col gap-5 px-4 py-5"
  data-view="machine"
  data-visits={m?.visits.length}
>
  {#if m}
    <div class="flex flex-wrap items-end gap-4">
      <div class="grow">
        <h1>{m.name}</h1>
        {#if owner}<p>{owner}</p>{/if}
      </div>
      <a
        class="btn"
        target="_blank"
        rel="noreferrer"
        href="/api/machine/sticker?{new URLSearchParams({ name: m.name })}">Sticker</a
      >
      {#if open}
        <a class="btn btn-main" href={p('/jobs/:id', { params: { id: open.id } })}>Go on with the open job</a>
      {/if}
    </div>
    {#if ask.says}<p class="font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
    <section aria-label="Test again" class="flex flex-wrap gap-3">
      {#each m.visits.filter((v) => v.latest) as v (v.id)}
        <button class="btn" disabled={ask.busy} data-again={v.circuit_id} onclick={() => void again(v.id)}
          >Same test again: {v.circuit}</button
        >
      {/each}
    </section>
    {#if m.due.length}
      <section aria-label="To look at">
        <h2 class="border-b border-ink pb-1">To look at</h2>
        <ul class="divide-y divide-rule">
          {#each m.due as d (d.id)}
            <li>
              <a
                class="flex min-h-11 flex-wrap items-center gap-x-3 no-underline hover:bg-page"
                href={p('/jobs/:id/:stage', { params: { id: d.job_id, stage: 'hunt' } })}
                ><span class="figures {d.due ? 'font-bold text-vermilion' : ''}">{d.due_says}</span>
                {d.for ? `${d.for}: ` : ''}{d.text}</a
              >
            </li>
          {/each}
        </ul>
      </section>
    {/if}
    {#if several}<MachineSet {m} />{/if}
    <TopUps {m} />
    <section aria-label="Visits">
      <h2 class="border-b border-ink pb-1">Visits{m.earlier ? ', the latest 60' : ''}</h2>
      <ol class="flex flex-wrap gap-1 pt-2" aria-label="Rings, first to last">
        {#each m.visits.toReversed() as v (v.id)}
          <li>
            <a
              class="flex min-h-11 min-w-11 flex-col items-center justify-center no-underline"
              href={p('/jobs/:id', { params: { id: v.id } })}
              aria-label="{day(v.at)}: {ringWords[v.ring]}"><Ring kind={v.ring} size={28} /></a
            >
          </li>
        {/each}
      </ol>
      <ul class="mt-3 divide-y divide-rule border-t border-rule">
        {#each m.visits as v (v.id)}
          <li>
            <a
              class="grid min-h-12 grid-cols-[6.5rem_minmax(0,1fr)] items-center gap-x-4 py-1 no-underline hover:bg-page sm:grid-cols-[7rem_minmax(0,1fr)_minmax(0,1fr)]"
              href={p('/jobs/:id', { params: { id: v.id } })}
            >
              <span class="small figures">{day(v.at)}</span>
              <span><b>{v.complaint}</b><span class="block small">{v.circuit}</span></span>
              <span class="col-start-2 sm:col-start-3"
                >{v.state === 'open' ? 'open' : v.found || v.call || ringWords[v.ring]}{v.loss_ml_per_h ===
                null
                  ? ''
                  : `, ${figure(v.loss_ml_per_h)} mL/h`}{v.mend === ''
                  ? ''
                  : v.mend === 'proved'
                    ? ', mended and proved'
                    : ', mended, not proved yet'}</span
              >
            </a>
          </li>
        {/each}
      </ul>
    </section>
    {#if m.losses.length}
      <section aria-label="Loss">
        <h2 class="border-b border-ink pb-1">What it lost, hold by hold</h2>
        <Losses losses={m.losses} />
      </section>
    {/if}
    {#each m.charges as c (c.title)}
      <section aria-label={c.title} data-charges={c.reads.length}>
        <h2 class="border-b border-ink pb-1">Gas charge, brought to 20 °C</h2>
        <ul class="flex flex-wrap gap-x-8 pt-2">
          {#each c.reads as r (r.job_id)}
            <li><span class="small">{day(r.at)}</span> <b class="figures">{r.bar} bar</b></li>
          {/each}
        </ul>
        <p class="mt-1 font-bold">{c.says}</p>
      </section>
    {/each}
    {#each [{ title: 'Marks and limits', of: m.marks }, { title: 'What fitted', of: m.fitted }].filter((k) => k.of.length) as k (k.title)}
      <section aria-label={k.title}>
        <h2 class="border-b border-ink pb-1">{k.title}</h2>
        <ul class="divide-y divide-rule">
          {#each k.of as x (x.job_id + x.circuit)}
            <li class="py-2">
              {x.says}
              <span class="block small">{x.circuit}, {x.source}, {day(x.at)}</span>
            </li>
          {/each}
        </ul>
      </section>
    {/each}
    {#if !several}<MachineSet {m} />{/if}
  {:else if query.error}
    <p class="py-8 text-vermilion" role="alert">{query.error.message}</p>
  {:else}
    <p class="py-8 text-mute">Opening…</p>
  {/if}
</div>
