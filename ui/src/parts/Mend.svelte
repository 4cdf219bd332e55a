<script lang="ts">
  // The ladder of repairs: which part, which rung of it, by which school; and whether
  // a hold has proved it.
  import type { Job } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { go, keepJob } from '../lib/job';
  import { p as link } from '../lib/routes';
  import { capital } from '../lib/show';
  import BeforeAfter from './BeforeAfter.svelte';
  import Choice from './Choice.svelte';

  let { job }: { job: Job } = $props();
  const mend = $derived(job.mend);
  const open = $derived(job.state === 'open');
  const ask = new Ask();
  let chosen = $state('');
  let note = $state('');
  let asked = $state(false);
  const part = $derived(mend.parts.find((p) => p.id === chosen) ?? mend.parts[0]);
  const ladder = $derived(mend.parts.find((p) => p.kind === part?.kind && p.ladder.length)?.ladder ?? []);
  const found = $derived(mend.parts.some((p) => p.seen));
  // What was held last at a step is what is held again.
  const again = $derived(job.holds.findLast((h) => h.purpose !== 'rig proof'));
  const why = $derived(mend.schools.find((s) => s.id === mend.school)?.why ?? '');

  async function school(id: string): Promise<void> {
    const j = await ask.sheet('/api/jobs/{id}/schools', { matter: 'repair', school: id }, job.id);
    if (j) keepJob(j);
  }

  async function cause(id: string): Promise<void> {
    const j = await ask.sheet('/api/jobs/{id}/cause', { part: mend.asks, cause: id }, job.id);
    if (j) keepJob(j);
  }

  async function put(repair: string): Promise<void> {
    if (!part) return;
    const j = await ask.sheet('/api/jobs/{id}/repairs', { part: part.id, repair, note: note.trim() }, job.id);
    if (!j) return;
    keepJob(j);
    note = '';
    asked = false;
  }
</script>

{#if mend.done.length}
  <section class="border-t border-rule pt-3" aria-label="What was mended">
    <h2>Mended</h2>
    <ul class="list-disc pl-6">
      {#each mend.done as d (d)}<li>{d}</li>{/each}
    </ul>
    {#if open && mend.asks}
      <div
        class="mt-2 flex flex-wrap items-center gap-2"
        role="group"
        aria-label="Cause"
        data-asks={mend.asks}
      >
        <b>What made it fail? ({mend.asks_of})</b>
        {#each mend.causes as c (c.id)}
          <button class="btn" disabled={ask.busy} onclick={() => void cause(c.id)}>{c.title}</button>
        {/each}
      </div>
    {/if}
    <p
      class="mt-2 font-bold {mend.proof.state === 'proved' ? 'text-teal' : 'text-vermilion'}"
      data-proved={mend.proof.state === 'proved'}
      data-proof={mend.proof.state}
    >
      {mend.proof.says}
    </p>
    {#each mend.proof.unlike as u (u)}<p>{u}</p>{/each}
    {#if mend.proof.lost || mend.proof.loses}
      <dl class="mt-1 grid grid-cols-[auto_minmax(0,1fr)] gap-x-4">
        {#each [{ says: 'Lost before', is: mend.proof.lost }, { says: 'Loses now', is: mend.proof.loses }, { says: 'How sure', is: mend.proof.sure }].filter((x) => x.is) as x (x.says)}
          <dt class="text-mute">{x.says}</dt>
          <dd class="figures">{x.is}</dd>
        {/each}
      </dl>
    {/if}
    {#if mend.proof.before && mend.proof.after}
      <div class="mt-2">
        <BeforeAfter
          before={mend.proof.before}
          after={mend.proof.after}
          ended={job.holds.find((h) => h.id === mend.proof.after)?.state === 'ended'}
        />
      </div>
      <a
        class="inline-flex min-h-11 items-center underline"
        href={link('/compare/:first/:second', {
          params: { first: mend.proof.before, second: mend.proof.after },
        })}>Compare them in full</a
      >
    {/if}
    {#if open && mend.proof.state !== 'proved'}
      <button
        class="mt-2 btn"
        onclick={() => go(job, job.steps.find((s) => s.id === again?.test)?.stage ?? 'pressurise')}
        >Hold it again</button
      >
    {/if}
  </section>
{/if}
{#if open && part}
  <details
    data-school={mend.school}
    bind:open={() => asked || (found && !mend.done.length), (v) => (asked = v)}
  >
    <summary class="flex min-h-11 items-center font-bold"
      >{mend.done.length ? 'Another repair' : 'A repair'}</summary
    >
    <Choice
      label="Part"
      options={mend.parts.map((p) => ({
        id: p.id,
        title: p.title,
        why: p.seen ? 'A leak was seen here.' : '',
      }))}
      value={part.id}
      choose={(id) => (chosen = id)}
    />
    <p class="py-1 small">
      {part.seen
        ? 'A leak was seen here.'
        : 'No leak was seen here yet: hunt first, or it is mended by guess.'}
    </p>
    <Choice label="By school" options={mend.schools} value={mend.school} choose={(id) => void school(id)} />
    <p class="py-1 small">{why}</p>
    <ol class="flex flex-col gap-2 pt-1">
      {#each ladder as r, i (r.id)}
        <li class="flex flex-wrap items-center gap-3">
          <button class="btn {i === 0 ? 'btn-main' : ''}" disabled={ask.busy} onclick={() => void put(r.id)}
            >{capital(r.title)}</button
          >
          {#if r.note}<span class="min-w-0 grow basis-0 small">{r.note}</span>{/if}
        </li>
      {/each}
    </ol>
    <label class="mt-2 block"
      ><span class="small">What was put in: part, seal, coolant</span>
      <input class="field" bind:value={note} maxlength="300" /></label
    >
  </details>
{/if}
{#if ask.says}<p class="font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
