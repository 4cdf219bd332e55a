<script lang="ts">
  // What was found at a step: its fields, its table, and what that means. Every entry
  // is taken down as it is left, and kept here until a sheet that holds it has come: along
  // a train the network comes and goes.
  import type { Field, Job, Step } from '../lib/api/client';
  import { now } from '../lib/clock';
  import { gated } from '../lib/job';
  import { newId } from '../lib/id';
  import { outbox, send } from '../lib/outbox.svelte';
  import Bolts from './Bolts.svelte';
  import Figures from './Figures.svelte';
  import Outcome from './Outcome.svelte';
  import StepClock from './StepClock.svelte';

  let { job, step }: { job: Job; step: Step } = $props();
  const open = $derived(job.state === 'open' && !gated(step));
  let wants = $state(''); // the name of a row that is being added
  const path = $derived(`/api/jobs/{id}/steps/${step.id}`);

  interface Change {
    fields?: Record<string, string>;
    rows?: { id: string; title: string; cells: Record<string, string> }[];
    clock?: 'start' | 'clear';
  }
  // What was typed and is not in this sheet yet lies over what it has.
  const drafts = $derived.by(() => {
    const cells: Record<string, string> = {};
    const titles: Record<string, string> = {};
    let clock: string | null | undefined; // when it was started; null: stopped
    for (const c of outbox.under<Change & { at: string }>(path, job.id, job.receipts ?? 0)) {
      Object.assign(cells, c.fields);
      for (const r of c.rows ?? []) {
        titles[r.id] = r.title;
        for (const [f, v] of Object.entries(r.cells)) cells[key(r.id, f)] = v;
      }
      if (c.clock) clock = c.clock === 'start' ? c.at : null;
    }
    return { cells, titles, clock };
  });
  const rows = $derived.by(() => {
    const known = [...step.ask.rows, ...step.entry.rows];
    const added = Object.entries(drafts.titles).map(([id, title]) => ({ id, title }));
    return [...known, ...added].filter((r, i, all) => all.findIndex((x) => x.id === r.id) === i);
  });
  const said = $derived(Object.fromEntries(step.outcome.rows.map((r) => [r.id, r])));
  const tint = { good: 'text-teal', bad: 'text-vermilion font-bold', unknown: 'text-mute' } as const;
  const drawn = ['done', 'places']; // fields that the plate's drawing stands for

  // has is what the server has of a cell; row '' is the step's own fields.
  function has(row: string, f: string): string {
    if (row === '') return step.entry.fields[f] ?? '';
    return step.entry.rows.find((r) => r.id === row)?.cells[f] ?? '';
  }
  function key(row: string, f: string): string {
    return row ? `${row}.${f}` : f;
  }
  const cell = (row: string, f: string) => drafts.cells[key(row, f)] ?? has(row, f);
  const wrong = (row: string, f: string) => outbox.field === key(row, f);
  const started = $derived(drafts.clock === undefined ? step.entry.started : drafts.clock);

  function put(change: Change): void {
    send(path as '/api/jobs/{id}/steps/{step}', job.id, { fields: {}, rows: [], ...change });
  }

  function setField(f: string, value: string): void {
    if (cell('', f) !== value) put({ fields: { [f]: value } });
  }

  function setCell(row: { id: string; title: string }, f: string, value: string): void {
    if (cell(row.id, f) !== value) put({ rows: [{ id: row.id, title: row.title, cells: { [f]: value } }] });
  }

  function addRow(e: SubmitEvent): void {
    e.preventDefault();
    const title = wants.trim();
    if (title) put({ rows: [{ id: `row-${newId()}`, title, cells: {} }] });
    wants = '';
  }

  // elapsed is the time since the step's clock was started, as it is typed.
  const elapsed = () => `${(Math.max(0, now() - new Date(started!).getTime()) / 1000).toFixed(1)} s`;
  const fills = (f: Field) => step.ask.clock?.fills.includes(f.id) ?? false;
  // A word that means now is taken down as its time while the clock runs.
  const stamps = (f: Field, c: string) => started !== null && fills(f) && c === step.ask.clock?.stamps;
  const stands = (f: Field, c: string, value: string) =>
    value === c || (c === step.ask.clock?.stamps && fills(f) && value !== '' && !f.choices.includes(value));
  function word(f: Field, c: string, value: string): string {
    if (stamps(f, c)) return stands(f, c, value) ? value : elapsed();
    return value === c ? '' : c;
  }
  const nextTimed = $derived(step.ask.fields.find((f) => fills(f) && cell('', f.id) === ''));
</script>

{#snippet box(
  f: Field,
  value: string,
  set: (v: string) => void,
  id: string,
  label: string,
  wrong: boolean,
  instead = '',
)}
  {#if f.choices.length && f.kind === 'text'}
    <!-- A word by one touch, or what was measured. -->
    <span class="flex gap-2">
      {#each f.choices as c (c)}
        <button
          type="button"
          class="btn min-w-14 px-3 {stands(f, c, value) ? 'border-2 border-ink bg-brass-wash font-bold' : ''}"
          aria-pressed={stands(f, c, value)}
          aria-label="{label}: {c}{stamps(f, c) ? ', now' : ''}"
          data-stamps={stamps(f, c)}
          disabled={!open}
          onclick={() => set(word(f, c, value))}>{c}{stamps(f, c) ? ', now' : ''}</button
        >
      {/each}
      <input
        {id}
        class="field min-w-0 figures {wrong ? 'border-2 border-vermilion' : ''}"
        aria-label={label}
        aria-invalid={wrong}
        value={f.choices.includes(value) ? '' : value}
        disabled={!open}
        placeholder={f.help.replace(/^.*its /, 'its ')}
        maxlength="60"
        onchange={(e) => set(e.currentTarget.value.trim())}
      />
      {#if !step.ask.clock?.stamps}{@render press(f, set, label)}{/if}
    </span>
  {:else if f.choices.length}
    <span class="flex flex-wrap gap-2" role="group" aria-label={label}>
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
    <span class="flex gap-2">
      <input
        {id}
        class="field min-w-0 figures {wrong ? 'border-2 border-vermilion' : ''}"
        aria-label={label}
        aria-invalid={wrong}
        {value}
        disabled={!open}
        placeholder={instead || f.default || f.help.replace(/^.*such as /, '')}
        maxlength="60"
        onchange={(e) => set(e.currentTarget.value.trim())}
      />
      {@render press(f, set, label)}
    </span>
  {/if}
{/snippet}

{#snippet press(f: Field, set: (v: string) => void, label: string)}
  {#if open && started && fills(f)}
    <button type="button" class="btn shrink-0 px-3" aria-label="{label}: now" onclick={() => set(elapsed())}
      >Now</button
    >
  {/if}
{/snippet}

<Outcome {step} />
{#if step.ask.clock}
  <StepClock
    starts={step.ask.clock.starts}
    {started}
    next={nextTimed?.label}
    locked={!open}
    start={() => put({ clock: 'start' })}
    fill={() => nextTimed && setField(nextTimed.id, elapsed())}
    clear={() => put({ clock: 'clear' })}
  />
{/if}
{#if step.outcome.bolts.length}
  <div class="contents" data-kept={has('', 'done') || '0'}>
    <Bolts
      bolts={step.outcome.bolts}
      tapped={cell('', 'places') !== ''}
      done={Number(cell('', 'done') || 0)}
      set={(n) => setField('done', String(n))}
      place={(p) => setField('places', p)}
      finished={step.outcome.verdict === 'good'}
      locked={!open}
    />
  </div>
{/if}
{#if step.ask.fields.length}
  <div class="grid gap-x-5 gap-y-3 sm:grid-cols-2">
    {#each step.ask.fields as f (f.id)}
      {#if !(drawn.includes(f.id) && step.outcome.bolts.length)}
        <div>
          <label class="block" for="{step.id}-{f.id}">{f.label}</label>
          {@render box(
            f,
            cell('', f.id),
            (v) => setField(f.id, v),
            `${step.id}-${f.id}`,
            f.label,
            wrong('', f.id),
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
                wrong(row.id, f.id),
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
<Figures {step} />
{#each step.outcome.notes as n (n)}<p class="small">{n}</p>{/each}
