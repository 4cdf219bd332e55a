<script lang="ts">
  // A housing passage by passage: the test in hand, where it comes out, and what that leaves.
  import type { Job, Passages } from '../lib/api/client';
  import { left, tried } from '../lib/bores';
  import { lower } from '../lib/show';
  import { keys } from '../lib/keys.svelte';
  import BoreHand from './BoreHand.svelte';
  import BoreMap from './BoreMap.svelte';
  import BoreNamed from './BoreNamed.svelte';
  import BoreTests from './BoreTests.svelte';
  import KeyButton from './KeyButton.svelte';

  let { job, view }: { job: Job; view: Passages } = $props();
  let chosen = $state(''); // a test of one's own choice
  let out = $state<string[]>([]);
  let cursor = $state('');
  const test = $derived(view.tests.find((t) => t.id === (chosen || view.hand)));
  const open = $derived(job.state === 'open');
  const last = $derived(view.tests.findLast((t) => t.done));
  // The same on another section, where the one was done and the other was not.
  const like = $derived(
    view.tests
      .filter((t) => t.done)
      .flatMap((t) => t.like.map((x) => ({ of: t, like: x })))
      .find((x) => view.tests.some((t) => t.id === x.like.test && !t.done && t.id !== test?.id)),
  );
  function toggle(place: string): void {
    cursor = place;
    out = out.includes(place) ? out.filter((x) => x !== place) : [...out, place];
  }
  function choose(id: string): void {
    chosen = id === view.hand ? '' : id;
    out = [];
    cursor = '';
  }
  function step(by: number): void {
    const ids = test?.places.map((p) => p.id) ?? [];
    const at = ids.indexOf(cursor);
    cursor = ids[at < 0 ? (by > 0 ? 0 : ids.length - 1) : (at + by + ids.length) % ids.length] ?? '';
    document.querySelector(`[data-place="${CSS.escape(cursor)}"]`)?.scrollIntoView({ block: 'nearest' });
  }
  // Any other part or opening, where it comes out and nothing would let it.
  const elsewhere = $derived(
    view.parts.filter((p) => !p.meant && !test?.places.some((x) => x.id === p.id) && !out.includes(p.id)),
  );
  const marking = $derived(open && test !== undefined);
  $effect(() =>
    keys([
      { key: 'ArrowDown', says: 'Next place', where: 'Hunt', do: () => step(1), when: () => marking },
      { key: 'ArrowUp', says: 'Place before', where: 'Hunt', do: () => step(-1), when: () => marking },
      {
        key: 'y',
        says: 'It comes out at this place',
        where: 'Hunt',
        do: () => toggle(cursor),
        when: () => marking && cursor !== '',
      },
    ]),
  );
</script>

<div
  class="grid gap-4 two:grid-cols-[minmax(0,7fr)_minmax(0,5fr)]"
  data-bores-of={job.circuit_id}
  data-bores-done={view.tests.filter((t) => t.done).length}
>
  <div class="flex min-w-0 flex-col gap-3 two:col-start-2 two:row-start-1">
    {#if view.work && open}
      <section class="rounded border-2 border-ink bg-page p-3" data-work-first={view.work.test}>
        <p class="font-bold">{view.work.says}</p>
        <div class="mt-2 grid grid-cols-[repeat(auto-fit,minmax(min(9rem,100%),1fr))] gap-2">
          <KeyButton
            key="s"
            says="Worked, and it still comes out"
            where="Hunt"
            class="min-h-14"
            act={() =>
              tried(
                job,
                view.work?.test ?? '',
                view.tests.find((t) => t.id === view.work?.test)?.found ?? [],
                {
                  worked: true,
                },
              )}>Still leaks after that</KeyButton
          >
          <KeyButton
            key="d"
            says="Worked, and now it holds"
            where="Hunt"
            class="min-h-14"
            act={() => tried(job, view.work?.test ?? '', [], { worked: true })}>Holds after that</KeyButton
          >
        </div>
      </section>
    {/if}
    {#if like && open && !view.named.length}
      <button class="btn w-full" data-the-same={like.like.test} onclick={() => choose(like.like.test)}
        >The same on the next section: {lower(like.like.title)}</button
      >
    {/if}
    {#if view.named.length || view.sound}<BoreNamed {job} {view} />{/if}
    {#if test && open && (chosen || !(view.named.length || view.sound))}
      {#key test.id}<BoreHand
          {job}
          {view}
          {test}
          {out}
          own={chosen !== ''}
          taken={() => choose('')}
          back={() => choose('')}
        />{/key}
    {/if}
  </div>
  <div class="flex min-w-0 flex-col gap-3 two:col-start-1 two:row-span-2 two:row-start-1">
    {#if test ?? last}
      {@const shown = test ?? last}
      {#if test && open}
        <div>
          <h3 class="font-bold">
            {left(job, view, test.changes).length
              ? 'Set it up, then raise the pressure'
              : 'Where does it come out?'}
          </h3>
          <p class="small">
            Tap every place where air comes out, the quiet ones too. <span class="key-hint"
              >Arrow keys walk the places, Y marks one.</span
            >
          </p>
        </div>
      {/if}
      {#if shown}<BoreMap
          {job}
          {view}
          test={shown}
          out={test ? out : shown.found}
          at={cursor}
          {toggle}
          locked={!open || test === undefined}
        />{/if}
      {#if test && open}
        <label class="flex flex-wrap items-center gap-2">
          <span class="small">It comes out somewhere else:</span>
          <select
            class="field w-auto! min-w-[min(16rem,100%)] grow"
            data-elsewhere
            value=""
            onchange={(e) => {
              if (e.currentTarget.value) toggle(e.currentTarget.value);
              e.currentTarget.value = '';
            }}
          >
            <option value="">at a plug, or at another part…</option>
            {#each elsewhere as p (p.id)}<option value={p.id}>{p.title}</option>{/each}
          </select>
        </label>
      {/if}
    {/if}
    <details class="border-t border-rule pt-1" open>
      <summary class="flex min-h-11 items-center"
        >Tests: {view.tests.filter((t) => t.done).length} done, the whole set is {view.set} in about {Math.round(
          view.minutes,
        )} min</summary
      >
      <BoreTests {job} {view} {choose} />
      <a class="mt-2 btn" href="/api/jobs/{job.id}/paper#passages" target="_blank" rel="noopener"
        >The whole set on paper</a
      >
    </details>
  </div>
</div>
