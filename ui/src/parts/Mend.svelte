<script lang="ts">
  // The ladder of repairs: which part, which rung of it, by which school; and whether
  // a hold has proved it.
  import type { Job } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { go, keepJob } from '../lib/job';
  import { p as link } from '../lib/routes';
  import { capital } from '../lib/show';
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
  // Before and after: the retest, and the hold of the same step before it.
  const after = $derived(job.holds.findLast((h) => h.purpose === 'retest'));
  const before = $derived(
    job.holds.findLast((h) => h.purpose !== 'retest' && h.purpose !== 'rig proof' && h.test === after?.test),
  );
  const why = $derived(mend.schools.find((s) => s.id === mend.school)?.why ?? '');

  async function school(id: string): Promise<void> {
    const j = await ask.sheet('/api/jobs/{id}/schools', { matter: 'repair', school: id }, job.id);
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
    <p class="mt-1 font-bold {mend.proved ? 'text-teal' : 'text-vermilion'}" data-proved={mend.proved}>
      {mend.says}
    </p>
    {#if before && after}
      <a
        class="mt-1 inline-flex min-h-11 items-center"
        href={link('/compare/:first/:second', { params: { first: before.id, second: after.id } })}
        >Before and after on one chart</a
      >
    {/if}
    {#if open && !mend.proved}
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
      ><span class="small">What rubbed, heated or was over-squeezed; what was put in</span>
      <input class="field" bind:value={note} maxlength="300" /></label
    >
  </details>
{/if}
{#if ask.says}<p class="font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
