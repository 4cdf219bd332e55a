<script lang="ts">
  import { untrack } from 'svelte';
  import type { Job, Stage } from '../lib/api/client';
  import { Ask } from '../lib/ask.svelte';
  import { keepJob, onward, tick } from '../lib/job';
  import { send } from '../lib/outbox.svelte';
  import Choice from '../parts/Choice.svelte';
  import Foot from '../parts/Foot.svelte';
  import Main from '../parts/Main.svelte';
  import Parties from '../parts/Parties.svelte';

  let { job, stage }: { job: Job; stage: Stage } = $props();
  let text = $state('');
  const ask = new Ask();
  // Asked at once where it tells most; then it stays as it was left.
  let asking = $state(
    untrack(() => job.state === 'open' && job.warms && !job.facts.some((f) => f.subject === 'topped up')),
  );
  let added = $state('');
  let within = $state('');
  let hours = $state(8);
  const topUps = new Ask();
  const said = $derived(job.facts.findLast((f) => f.subject === 'topped up' && !f.superseded));
  const first = $derived(job.suspects[0]);
  const parts = $derived(
    job.suspects
      .filter((s) => s.signs.length)
      .map((s) => ({ id: s.id, title: s.title, why: '' }))
      .sort((a, b) => a.title.localeCompare(b.title)),
  );
  const seen = $derived(job.facts.filter((f) => f.subject === 'remark' && f.stage === stage.id));

  // Looked at is looked at, whether anything was seen or not.
  function on(): void {
    if (job.state === 'open') for (const t of stage.ticks.filter((x) => !x.ticked)) tick(job, t.id, true);
    onward(job, stage.id);
  }

  async function add(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const j = await ask.sheet('/api/jobs/{id}/remarks', { stage: stage.id, text }, job.id);
    if (j) {
      keepJob(j);
      text = '';
    }
  }

  async function topUp(e: SubmitEvent): Promise<void> {
    e.preventDefault();
    const j = await topUps.sheet('/api/jobs/{id}/topped-up', { added, within, hours }, job.id);
    if (j) {
      keepJob(j);
      added = within = '';
      asking = false;
    }
  }
</script>

<dl class="grid grid-cols-[minmax(0,8rem)_minmax(0,1fr)] gap-x-2 gap-y-1 border-y border-rule py-2">
  <dt class="text-mute">Machine</dt>
  <dd class="font-bold">{job.machine}</dd>
  <dt class="text-mute">Complaint</dt>
  <dd>{job.complaint}</dd>
  <dt class="text-mute">Circuit</dt>
  <dd>{job.circuit}</dd>
</dl>
<Parties {job} />
{#if said}<p>{said.sentence} <span class="small">{said.by}</span></p>{/if}
<details class="border-b border-rule pb-1" bind:open={asking}>
  <summary class="flex min-h-11 items-center">How much is topped up?</summary>
  <form onsubmit={topUp} class="mt-1 flex flex-wrap items-end gap-3" autocomplete="off">
    <label class="w-28"
      >Added <input
        id="added"
        class="mt-1 field figures"
        bind:value={added}
        placeholder="0.5 L"
        maxlength="30"
      /></label
    >
    <label class="w-28"
      >Within <input
        id="within"
        class="mt-1 field figures"
        bind:value={within}
        placeholder="14 d"
        maxlength="30"
      /></label
    >
    <label class="w-44"
      >Hours a day under pressure <input
        class="mt-1 field figures"
        type="number"
        min="0.5"
        max="24"
        step="0.5"
        bind:value={hours}
      /></label
    >
    <button class="btn" disabled={!added.trim() || !within.trim() || topUps.busy || job.state !== 'open'}
      >Add</button
    >
  </form>
  <p class="small">The leak is then compared with it: too small to be the cause, or enough.</p>
  {#if topUps.says}<p class="text-vermilion" role="alert">{topUps.says}</p>{/if}
</details>
{#if job.signs.length}
  <section aria-label="Signs">
    <h2 class="text-base font-bold">Visible before any test</h2>
    <ul class="mt-1 flex flex-wrap gap-2">
      {#each job.signs as s (s.id)}
        <li>
          <button
            class="btn {s.seen ? 'border-2 border-ink bg-brass-wash font-bold' : ''}"
            aria-pressed={s.seen}
            disabled={job.state !== 'open'}
            onclick={() => send('/api/jobs/{id}/signs', job.id, { sign: s.id, seen: !s.seen })}
            >{s.title}</button
          >
        </li>
      {/each}
    </ul>
    {#each job.signs.filter((s) => s.seen) as s (s.id)}
      {#each job.imitators.filter((m) => m.sign === s.id) as m (m.id)}
        <p class="mt-1 border-l-4 border-slate pl-2" data-imitates={s.id}>{m.says}</p>
      {/each}
    {/each}
    <p class="mt-2 small" data-likeliest={first?.id}>
      Each sign makes the parts it points to more likely.
      {#if first && (job.signs.some((s) => s.seen) || job.hunch)}
        Likeliest now: <b>{first.title}</b>, {Math.round(first.share * 100)} in 100.
      {/if}
    </p>
    {#if job.state === 'open'}
      <Choice
        label="Your guess"
        options={[{ id: 'none', title: 'none', why: '' }, ...parts]}
        value={job.hunch || 'none'}
        choose={(v) => send('/api/jobs/{id}/hunch', job.id, { part: v === 'none' ? '' : v })}
      />
    {/if}
  </section>
{/if}
<form onsubmit={add} class="flex flex-wrap items-end gap-3">
  <label class="grow">
    <span>What else you saw, heard or were told</span>
    <input
      class="mt-1 field"
      bind:value={text}
      maxlength="600"
      disabled={job.state !== 'open'}
      placeholder="crust below the top hose; topped up twice this month"
    />
  </label>
  <button class="btn" disabled={!text.trim() || ask.busy}>Add</button>
</form>
{#if ask.says}<p class="text-vermilion" role="alert">{ask.says}</p>{/if}
{#if seen.length}
  <ul class="list-disc pl-6">
    {#each seen as f (f.id)}<li>{f.sentence} <span class="small">{f.by}</span></li>{/each}
  </ul>
{/if}
<Foot><Main says="Looked round: on to the next stage" act={on}>Make safe</Main></Foot>
