<script lang="ts">
  // All tests of a housing with what they showed, the same on two sections side by side; any may be taken in hand.
  import type { Job, Passages, PassageTest } from '../lib/api/client';
  import { tried } from '../lib/bores';
  import { lower } from '../lib/show';

  let { job, view, choose }: { job: Job; view: Passages; choose: (test: string) => void } = $props();
  const of = (id: string) => view.tests.find((t) => t.id === id);
  const place = (t: PassageTest, id: string) =>
    t.places.find((p) => p.id === id)?.title ?? names.get(id) ?? id;
  // A test whose like was done before it stands in that one's row.
  const rows = $derived.by(() => {
    const placed: string[] = [];
    return view.tests.flatMap((t) => {
      if (placed.includes(t.id)) return [];
      const like = t.like.map((x) => of(x.test)).filter((x) => x !== undefined);
      const beside = like.filter((x) => !placed.includes(x.id) && (t.done || t.fell || x.done || x.fell));
      placed.push(t.id, ...beside.map((x) => x.id));
      return [[t, ...beside]];
    });
  });
  const names = $derived(new Map(view.parts.map((p) => [p.id, p.title])));
  const spaces = $derived(new Map(view.chambers.map((c) => [c.id, c.title])));
</script>

{#snippet one(t: PassageTest)}
  <div
    class="min-w-0 grow basis-56 py-1"
    data-bore-row={t.id}
    data-done={t.done}
    data-found={t.found.join(' ')}
  >
    <p class="font-bold">{t.title}</p>
    {#if t.done}
      <p class={t.found.length ? 'text-vermilion' : 'text-teal'}>
        {t.found.length ? t.found.map((id) => place(t, id)).join(', ') : 'It holds'}{t.worked
          ? ', valves worked'
          : ''}{t.by_hold ? ', by its hold' : ''}
      </p>
    {:else if t.fell}
      <p class="text-vermilion">The hold leaks; where is not known yet</p>
    {:else if t.excused}
      <p class="small">Not needed after what was seen</p>
    {:else}
      <p class="small">Not done, {Math.round(2 * t.minutes) / 2} min from here</p>
    {/if}
    {#if t.ways.length}
      <p class="mt-1 small">How the air may get there, likeliest first:</p>
      <ol class="list-decimal pl-5">
        {#each t.ways as w (w.leaks.join(' '))}
          <li data-way={w.leaks.join(' ')}>
            <span class="flex flex-wrap items-center gap-1 text-[13px]">
              {#each w.through as c, i (c)}
                {#if i > 0}<span aria-hidden="true">→</span>{/if}<span
                  class="border border-edge px-1 {i === 0 ? 'bg-brass-wash' : ''}">{spaces.get(c)}</span
                >
              {/each}
            </span>
            through <b>{w.leaks.map((id) => lower(names.get(id) ?? id)).join(', then ')}</b>: {Math.round(
              100 * w.share,
            )} in 100
          </li>
        {/each}
      </ol>
    {/if}
    {#if job.state === 'open'}
      <div class="mt-1 flex flex-wrap gap-2">
        {#if t.done && t.id !== view.hand}
          <button class="btn px-2" data-again={t.id} onclick={() => choose(t.id)}>Again</button>
          {#if !t.by_hold}<button
              class="btn px-2"
              data-take-back={t.id}
              onclick={() => tried(job, t.id, [], { undone: true })}>Take back</button
            >{/if}
        {:else if t.id !== view.hand}
          <button class="btn px-2" data-choose={t.id} onclick={() => choose(t.id)}>Do this one</button>
        {/if}
      </div>
    {/if}
  </div>
{/snippet}

<ol class="divide-y divide-rule border-y border-rule" aria-label="Tests">
  {#each rows as row (row[0]?.id)}
    <li class="flex flex-wrap gap-x-6">
      {#each row as t (t.id)}{@render one(t)}{/each}
    </li>
  {/each}
</ol>
