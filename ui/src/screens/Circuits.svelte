<script lang="ts">
  // The library: each circuit's map, its tests, its figures with their sources; a
  // shop's own files with their faults, line by line.
  import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
  import { get } from '../lib/api/client';
  import { p, route } from '../lib/routes';
  import CircuitMap from '../parts/CircuitMap.svelte';

  const id = $derived((route.params as { id?: string }).id ?? '');
  const list = createQuery(() => ({
    queryKey: ['circuits'],
    queryFn: () => get('/api/circuits'),
    refetchInterval: 4000, // a file put beside the data appears by itself
  }));
  const shown = $derived(id || list.data?.circuits[0]?.id || '');
  const one = createQuery(() => ({
    queryKey: ['circuit', shown],
    queryFn: () => get('/api/circuits/{id}', { id: shown }),
    enabled: shown !== '',
    placeholderData: keepPreviousData,
    retry: false,
  }));
  const c = $derived(one.data);
  let step = $state('');
  const test = $derived(
    c?.tests.find((t) => t.id === step) ?? c?.tests.find((t) => t.chambers.length) ?? c?.tests[0],
  );
  const kinds: Record<string, string> = {
    hold: 'hold',
    feed: 'fed all the time, judged by flow',
    floor: 'lift and floor',
    presses: 'press by press',
    'timed-fall': 'timed fall',
    'cross-watch': 'one is charged, the other watched',
    round: 'looked at one by one',
    values: 'table of values',
    charge: 'charge at temperature',
    cracks: 'crack list',
    tighten: 'tightening in order',
    checklist: 'list that must be so',
  };
  const eyes: Record<string, string> = {
    bubbles: 'A bubble that comes again fails it, whatever the needle says.',
    weeps: 'A weep fails it, whatever the needle says.',
  };
  const answers: Record<string, string> = {
    stops: 'Stops',
    slower: 'Slower',
    same: 'Same',
    faster: 'Faster',
    step: 'Jumps',
    bubbles: 'Bubbles or wet',
    dry: 'Dry',
  };
  let part = $state('');
</script>

<div
  class="mx-auto grid max-w-7xl grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-4 px-4 py-5 lg:grid-cols-[330px_minmax(0,1fr)]"
>
  <div class={id ? 'max-lg:order-last' : ''}>
    <h1>Circuits</h1>
    {#each list.data?.wrong ?? [] as w (w.file)}
      <div class="my-2 border-l-4 border-vermilion bg-page p-3" role="alert" data-wrong={w.file}>
        <p class="font-bold text-vermilion">{w.file} is refused</p>
        <ul>
          {#each w.faults as f, i (i)}
            <li class="text-sm">
              {#if f.line > 0}<b class="figures">line {f.line}</b>
              {/if}{f.says}
            </li>
          {/each}
        </ul>
      </div>
    {/each}
    <ul class="mt-2 divide-y divide-rule border-y border-rule">
      {#each list.data?.circuits ?? [] as x (x.id)}
        <li>
          <a
            href={p('/circuits/:id', { params: { id: x.id } })}
            aria-current={x.id === shown ? 'page' : undefined}
            data-file={x.file || undefined}
            class="flex min-h-12 items-center px-2 py-2 no-underline hover:bg-page {x.id === shown
              ? 'border-l-4 border-ink bg-page font-bold'
              : ''}"
            >{x.title}{#if x.file}<span class="ml-2 small text-teal">the shop's own</span>{/if}</a
          >
        </li>
      {:else}
        <li class="py-3 text-mute">{list.error?.message ?? 'Opening…'}</li>
      {/each}
    </ul>
    <p class="mt-3 small">
      A shop's own files lie in <span class="break-all">{list.data?.folder}</span>. One put there appears by
      itself; one that is wrong is named here, line by line. One with the id of a circuit that ships takes its
      place.
    </p>
  </div>
  {#if c}
    <div class="min-w-0">
      <h2 class="text-2xl">{c.title}</h2>
      <p class="max-w-prose">{c.summary}</p>
      <p class="small">
        {c.id}, version {c.version}, {c.family}. Figures: {c.source}.{#if c.file}
          From {c.file}.{/if}
        {#if c.mark}Limited by the mark on the {c.mark}.{/if}
      </p>
      {#if c.findings.length}
        <details class="mt-2 border-l-4 border-brass bg-page p-3" data-findings={c.findings.length}>
          <summary class="font-bold"
            >{c.findings.length} places in {c.file} to look at. The file is used as it is.</summary
          >
          <ul class="mt-1">
            {#each c.findings as f, i (i)}
              <li class="text-sm"><b class="figures">line {f.line}</b> {f.says}</li>
            {/each}
          </ul>
        </details>
      {/if}
      <div class="mt-3 grid gap-6 xl:grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)]">
        <div>
          <CircuitMap circuit={c} pressed={test?.chambers ?? []} />
          <ol class="mt-2 gap-x-6 text-sm sm:columns-2">
            {#each c.parts as p, i (p.id)}
              <li class="flex break-inside-avoid items-baseline gap-2">
                <b class="w-5 shrink-0 text-right figures">{i + 1}</b>
                <span class="min-w-0"
                  ><button
                    class="min-h-12 min-w-12 text-left underline decoration-rule underline-offset-4"
                    aria-expanded={part === p.id}
                    onclick={() => (part = part === p.id ? '' : p.id)}>{p.title}</button
                  >{#if p.shut}<span class="block small">shut: {p.shut}</span>{/if}{#if p.meant}<span
                      class="block small">meant to pass a little</span
                    >{/if}{#if part === p.id}<span
                      class="block border-l-4 border-rule pl-2 small"
                      data-part-open
                      >{p.look}
                      {#if p.cover}<span class="block">{p.cover}. {p.within}</span>{/if}
                      {#if p.limit}<span class="block">good for {p.limit}</span>{/if}
                      {#each p.tells as t, k (k)}<span class="block">{t}</span>{/each}</span
                    >{/if}</span
                >
              </li>
            {/each}
          </ol>
        </div>
        <div>
          <h3 class="border-b border-ink pb-1 font-bold">Its tests, in order</h3>
          <ol>
            {#each c.tests as t (t.id)}
              <li class="border-b border-rule">
                <button
                  class="min-h-12 w-full px-2 py-2 text-left hover:bg-page {t.id === test?.id
                    ? 'bg-page'
                    : ''}"
                  aria-expanded={t.id === test?.id}
                  onclick={() => (step = t.id)}
                >
                  <b>{t.title}</b>
                  <span class="small">{kinds[t.kind]}{t.by.length ? `; only: ${t.by.join(', ')}` : ''}</span>
                </button>
                {#if t.id === test?.id}
                  <div class="flex flex-col gap-1 bg-page px-2 pb-3 text-sm">
                    {#if t.text}<p>{t.text}</p>{/if}
                    {#each t.targets as g, i (i)}
                      <p><b class="figures">{g.at}</b>, {g.title}: {g.why}</p>
                    {/each}
                    {#each t.losses as l (l.id)}
                      <p>May lose <b>{l.title}</b>: {l.why}</p>
                    {:else}
                      {#if t.allow}<p>
                          May lose: {t.allow === 'house' ? '1 mL of coolant an hour' : t.allow}.
                        </p>{/if}
                    {/each}
                    {#each t.ticks as k, i (i)}<p>☐ {k}</p>{/each}
                    {#if t.eye}<p>{eyes[t.eye]}</p>{/if}
                    {#if t.needle}<p class="small">{t.needle}</p>{/if}
                    {#if t.state.length}<p>State: {t.state.join('; ')}.</p>{/if}
                    {#if t.closures.length && (t.targets.length || t.kind === 'hold')}
                      <p>
                        {t.closures.length} to be shut: {t.closures
                          .map((x) => `${x.title} (${x.with}${x.already ? ', already' : ''})`)
                          .join('; ')}.
                      </p>
                    {/if}
                    <p class="small">Figures: {t.source}.</p>
                  </div>
                {/if}
              </li>
            {/each}
          </ol>
          {#each c.matters as m (m.id)}
            <h3 class="mt-4 border-b border-ink pb-1 font-bold">{m.title}, by school</h3>
            <ul class="text-sm">
              {#each m.schools as s, i (s.id)}
                <li class="border-b border-rule px-2 py-1.5">
                  <b>{s.title}</b>{i === 0 ? ', by default' : ''}. {s.why}
                </li>
              {/each}
            </ul>
          {/each}
          <ul class="mt-3 text-sm">
            {#each c.not_tested as n (n)}<li>{n}</li>{/each}
          </ul>
          <p class="mt-2 text-sm font-bold">{c.standing}</p>
        </div>
      </div>
      {#if c.acts.length}
        <h3 class="mt-6 border-b border-ink pb-1 font-bold">Acts under pressure that split the suspects</h3>
        <ul class="gap-x-8 text-sm lg:columns-2">
          {#each c.acts as a (a.id)}
            <li class="break-inside-avoid border-b border-rule px-2 py-1.5" data-act={a.id}>
              <b>{a.title}</b>, {a.minutes}
              {#if a.cuts.length && a.cuts.length < 6}<span class="block small"
                  >Cut off from the gauge: {a.cuts.join(', ')}.</span
                >{/if}
              {#if a.needs}<span class="block small">Needs {a.needs}.</span>{/if}
              {#if a.mind}<span class="block text-vermilion">{a.mind}</span>{/if}
              <dl class="mt-1 grid grid-cols-[minmax(0,7.5rem)_minmax(0,1fr)] gap-x-2">
                {#each a.answers as x (x.seen)}
                  <dt class="text-mute">{answers[x.seen]}</dt>
                  <dd>{x.says}</dd>
                {/each}
              </dl>
            </li>
          {/each}
        </ul>
      {/if}
      {#if c.imitators.length}
        <h3 class="mt-6 border-b border-ink pb-1 font-bold">What looks like what</h3>
        <ul class="gap-x-8 text-sm lg:columns-2">
          {#each c.imitators as m, i (i)}<li class="break-inside-avoid border-b border-rule px-2 py-1.5">
              {m}
            </li>{/each}
        </ul>
      {/if}
    </div>
  {:else if one.error}
    <p class="text-vermilion" role="alert">{one.error.message}</p>
  {/if}
</div>
