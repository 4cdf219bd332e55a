<script lang="ts">
  // The test in hand in words: what to change since the last one, in order, then where it comes out.
  import { untrack } from 'svelte';
  import type { Job, PassageChange, Passages, PassageTest } from '../lib/api/client';
  import { change, left, same, tried, undone } from '../lib/bores';
  import { lower } from '../lib/show';
  import { gated } from '../lib/job';
  import Cautions from './Cautions.svelte';
  import Gate from './Gate.svelte';
  import KeyButton from './KeyButton.svelte';
  import Main from './Main.svelte';

  let {
    job,
    view,
    test,
    out,
    taken,
    own,
    back,
  }: {
    job: Job;
    view: Passages;
    test: PassageTest;
    out: string[];
    taken: () => void;
    own: boolean; // it is not the one that is proposed
    back: () => void;
  } = $props();

  // The list as it was when the test came into hand: what is done stays in it, ticked.
  const first = untrack(() => test.changes);
  const levers = untrack(() => ({ ...view.stand.levers, ...view.stand.worked }));
  const states = $derived(left(job, view, test.changes));
  const all = $derived([...first, ...test.changes.filter((x) => !first.some((y) => same(x, y)))]);
  const done = (x: PassageChange) => !states.some((y) => same(x, y));
  const next = $derived(states[0]);
  function press(x: PassageChange): void {
    change(job, done(x) ? undone(x, levers[x.at] ?? '') : x);
  }
  function take(places: string[]): void {
    tried(job, test.id, places, { worked: test.worked });
    taken();
  }
  // The same on a section that was tried.
  // What must come before air goes in.
  const step = $derived(
    job.steps.find((s) => s.id === test.step) ??
      job.steps.find((s) => s.kind === 'hold' || s.kind === 'feed'),
  );
  const shut = $derived(step !== undefined && gated(step));
  const twin = $derived(view.tests.find((t) => t.done && t.like.some((x) => x.test === test.id)));
  const n = $derived(view.tests.slice(0, view.set).findIndex((t) => t.id === test.id) + 1);
</script>

<section
  class="rounded border-2 border-ink bg-page p-3"
  aria-label="Test in hand"
  data-bore-test={test.id}
  data-changes-left={states.length}
>
  <p class="small">
    {own ? 'Your own choice' : n ? `Next: test ${n} of ${view.set}` : 'Next test'} · {Math.round(
      test.minutes * 2,
    ) / 2} min
  </p>
  <p class="text-lg font-bold">{test.title}.</p>
  {#if test.at}<p data-bore-pressure={test.at_pa}>
      Raise it slowly to <b class="figures">{test.at}</b>{#if test.weakest}, no more: the {lower(
          test.weakest,
        )}
        is the weakest{/if}.
    </p>{/if}
  {#if twin}<p class="small" data-the-same={test.id}>
      The same as “{twin.title}” on the section beside it: compare.
    </p>{/if}
  {#if !own && view.why}<p class="small">{view.why}</p>{/if}
  {#if step && shut}<Gate {job} {step} />{/if}
  {#if test.mind.length}
    {#if next}
      <div class="mt-2 flex flex-col gap-1"><Cautions items={test.mind} /></div>
    {:else}
      <!-- They stood before the changes, or at the hold that has this set-up. -->
      <details>
        <summary class="flex min-h-11 items-center small">Cautions of this test ({test.mind.length})</summary>
        <div class="flex flex-col gap-1"><Cautions items={test.mind} /></div>
      </details>
    {/if}
  {/if}
  {#if all.length}
    <h3 class="mt-2 font-bold">At zero pressure, change in this order</h3>
    <ol class="divide-y divide-rule border-y border-rule">
      {#each all as x, i (x.does + x.at + x.to)}
        <li>
          <button
            class="flex min-h-12 w-full items-center gap-3 py-1 text-left"
            role="checkbox"
            aria-checked={done(x)}
            data-change={`${x.does}/${x.at}`}
            onclick={() => press(x)}
          >
            <span
              class="grid size-8 shrink-0 place-items-center rounded border-2 bg-page {done(x)
                ? 'border-teal'
                : 'border-edge'}"
            >
              {#if done(x)}<svg viewBox="0 0 20 20" class="size-6 text-teal" aria-hidden="true"
                  ><path d="M3 11 l5 5 L17 4" fill="none" stroke="currentColor" stroke-width="3" /></svg
                >{:else}<span class="small">{i + 1}</span>{/if}
            </span>
            <span class="grow {x === next ? 'font-bold' : done(x) ? 'text-mute' : ''}">{x.says}</span>
          </button>
        </li>
      {/each}
    </ol>
  {/if}
  {#if next}
    <div class="foot bg-page!">
      <Main says="The next change is done" disabled={shut} act={() => press(next)}>Done: {next.says}</Main>
    </div>
  {:else}
    <div class="foot bg-page!">
      <Main says="Take down where it comes out" disabled={shut || out.length === 0} act={() => take(out)}
        >{out.length ? `It comes out there (${out.length})` : 'Mark the place'}</Main
      >
      <KeyButton
        disabled={shut}
        key="x"
        says="It holds: nothing comes out"
        where="Hunt"
        class="min-h-14"
        act={() => take([])}>Nowhere: it holds</KeyButton
      >
    </div>
  {/if}
  {#if own}<button class="mt-2 btn" onclick={back}>Back to the proposed test</button>{/if}
</section>
