<script lang="ts">
  // What was found at a step: its fields, its table, and what that means. Every entry
  // is taken down as it is left.
  import type { Field, Job, Step } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { newId } from '../lib/id';
  import { keepJob } from '../lib/job';
  import { ringInk } from '../lib/show';
  import Bolts from './Bolts.svelte';
  import Ring from './Ring.svelte';

  let { job, step }: { job: Job; step: Step } = $props();
  const open = $derived(job.state === 'open');
  const ask = new Ask();
  let wants = $state(''); // the name of a row that is being added
  const rows = $derived([
    ...step.ask.rows,
    ...step.entry.rows.filter((r) => !step.ask.rows.some((a) => a.id === r.id)),
  ]);
  const said = $derived(Object.fromEntries(step.outcome.rows.map((r) => [r.id, r])));
  const words = { good: 'Right', bad: 'Not right', unknown: 'Not yet' } as const;
  const cell = (row: string, f: string) => step.entry.rows.find((r) => r.id === row)?.cells[f] ?? '';

  // A press that comes while the last is under way waits for it.
  let last: Promise<unknown> = Promise.resolve();
  function put(change: (e: { fields: Record<string, string>; rows: typeof step.entry.rows }) => void): void {
    last = last.then(async () => {
      const e = $state.snapshot(step.entry) as typeof step.entry;
      e.fields ??= {};
      e.rows ??= [];
      change(e);
      const j = await ask.send<Job>(
        `/api/jobs/{id}/steps/${step.id}` as '/api/jobs/{id}/steps/{step}',
        { fields: e.fields, rows: e.rows },
        job.id,
      );
      if (j) keepJob(j);
    });
  }

  function setField(f: string, value: string): void {
    if ((step.entry.fields[f] ?? '') !== value) put((e) => (e.fields[f] = value));
  }

  function setCell(row: { id: string; title: string }, f: string, value: string): void {
    if (cell(row.id, f) === value) return;
    put((e) => {
      let r = e.rows.find((x) => x.id === row.id);
      if (!r) e.rows.push((r = { id: row.id, title: row.title, cells: {} }));
      r.cells[f] = value;
    });
  }

  function addRow(e: SubmitEvent): void {
    e.preventDefault();
    const title = wants.trim();
    if (!title) return;
    wants = '';
    put((x) => x.rows.push({ id: `row-${newId()}`, title, cells: {} }));
  }
  const tint = { good: 'text-teal', bad: 'text-vermilion font-bold', unknown: 'text-mute' } as const;
</script>

{#snippet box(f: Field, value: string, set: (v: string) => void, id: string, label: string, instead = '')}
  {#if f.choices.length && f.kind === 'text'}
    <!-- A word by one touch, or what was measured. -->
    <span class="flex gap-1">
      {#each f.choices as c (c)}
        <button
          type="button"
          class="btn min-w-14 px-3 {value === c ? 'border-2 border-ink bg-brass-wash font-bold' : ''}"
          aria-pressed={value === c}
          aria-label="{label}: {c}"
          disabled={!open}
          onclick={() => set(value === c ? '' : c)}>{c}</button
        >
      {/each}
      <input
        {id}
        class="field min-w-0 figures"
        aria-label={label}
        value={f.choices.includes(value) ? '' : value}
        disabled={!open}
        placeholder={f.help.replace(/^.*its /, 'its ')}
        maxlength="60"
        onchange={(e) => set(e.currentTarget.value.trim())}
      />
    </span>
  {:else if f.choices.length}
    <span class="flex flex-wrap gap-1" role="group" aria-label={label}>
      {#each f.choices as c (c)}
        <button
          type="button"
          class="btn min-w-14 px-3 {value === c ? 'border-2 border-ink bg-brass-wash font-bold' : ''}"
          aria-pressed={value === c}
          disabled={!open}
          onclick={() => set(value === c ? '' : c)}>{c}</button
        >
      {/each}
    </span>
  {:else}
    <input
      {id}
      class="field figures"
      aria-label={label}
      {value}
      disabled={!open}
      placeholder={instead || f.default || f.help.replace(/^.*such as /, '')}
      maxlength="60"
      onchange={(e) => set(e.currentTarget.value.trim())}
    />
  {/if}
{/snippet}

<div class="flex items-center gap-4" role="status">
  <Ring kind={step.ring} size={64} />
  <div class="min-w-0">
    <p class="text-3xl font-bold {ringInk[step.ring]}">{words[step.outcome.verdict]}</p>
    <p class="text-lg">{step.outcome.sentence}</p>
  </div>
</div>
{#if ask.says}<p class="font-bold text-vermilion" role="alert">{ask.says}</p>{/if}
{#if step.outcome.order.length}
  <Bolts
    order={step.outcome.order}
    done={Number(step.entry.fields['done'] ?? 0)}
    set={(n) => setField('done', String(n))}
    finished={step.outcome.verdict === 'good'}
    locked={!open}
  />
{/if}
{#if step.ask.fields.length}
  <div class="grid gap-x-5 gap-y-3 sm:grid-cols-2">
    {#each step.ask.fields as f (f.id)}
      {#if !(f.id === 'done' && step.outcome.order.length)}
        <div>
          <label class="block" for="{step.id}-{f.id}">{f.label}</label>
          {@render box(
            f,
            step.entry.fields[f.id] ?? '',
            (v) => setField(f.id, v),
            `${step.id}-${f.id}`,
            f.label,
          )}
          <span class="small"
            >{[f.help, f.unit && `a bare number is ${f.unit}`].filter(Boolean).join('; ')}</span
          >
        </div>
      {/if}
    {/each}
  </div>
{/if}
{#if rows.length}
  <ul class="divide-y divide-rule border-y border-rule">
    {#each rows as row (row.id)}
      {@const says = said[row.id]}
      <li class="py-2">
        <p class="flex flex-wrap items-baseline gap-x-3">
          <b class="grow">{row.title}</b>
          {#if says?.says}<span class="text-sm {tint[says.verdict]}">{says.says}</span>{/if}
        </p>
        <div class="mt-1 grid gap-x-4 gap-y-2 sm:auto-cols-fr sm:grid-flow-col">
          {#each step.ask.columns as f (f.id)}
            <div class="min-w-0">
              <span class="block small">{f.label}{f.unit ? `, ${f.unit}` : ''}</span>
              {@render box(
                f,
                cell(row.id, f.id),
                (v) => setCell(row, f.id, v),
                `${row.id}-${f.id}`,
                `${row.title}, ${f.label}`,
                step.ask.rows.find((a) => a.id === row.id)?.defaults[f.id],
              )}
            </div>
          {/each}
        </div>
      </li>
    {/each}
  </ul>
{/if}
{#if step.ask.grows && open}
  <form class="flex flex-wrap items-end gap-3" onsubmit={addRow} autocomplete="off">
    <label class="grow"
      >One more {step.ask.grows}
      <input class="field" bind:value={wants} maxlength="60" placeholder="its name" /></label
    >
    <button class="btn" disabled={!wants.trim()}>Add</button>
  </form>
{/if}
{#if step.outcome.figures.length}
  <dl class="grid gap-x-6 sm:grid-cols-3">
    {#each step.outcome.figures as f (f.id)}
      <div class="py-1">
        <dt class="small">{f.label}</dt>
        <dd class="text-2xl font-bold figures">{f.text}</dd>
      </div>
    {/each}
  </dl>
{/if}
{#each step.outcome.notes as n (n)}<p class="small">{n}</p>{/each}
