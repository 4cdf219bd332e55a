<script lang="ts">
  // The check in hand: one sentence with its price and chance, and three answers. A look is answered
  // by eye; an act by the gauge, or by what was noticed.
  import type { Job, Proposal } from '../lib/api/client';
  import { event, go, holdNext, testOf } from '../lib/job';
  import { send } from '../lib/outbox.svelte';
  import ActStrip from './ActStrip.svelte';
  import KeyButton from './KeyButton.svelte';
  import Main from './Main.svelte';

  let {
    job,
    check,
    skip,
    own,
    answered,
  }: { job: Job; check: Proposal; skip: () => void; own: boolean; answered: () => void } = $props();
  let note = $state('');
  let kind = $state<'fault' | 'from above' | 'meant' | 'forgotten opening'>('fault');
  const look = $derived(check.part !== null && check.method !== null);
  const act = $derived(job.hunt.acts.find((a) => a.id === check.act));
  const here = $derived(job.suspects.find((s) => s.id === check.part));
  const held = $derived(testOf(job));
  const holding = $derived(held?.state === 'holding' ? held : undefined);

  function answer(seen: boolean): void {
    send('/api/jobs/{id}/looks', job.id, {
      part: check.part,
      method: check.method,
      seen,
      class: seen ? kind : '',
      note: seen ? note : '',
    });
    note = '';
    kind = 'fault';
    answered();
  }
  const noticed = (seen: string) => send('/api/jobs/{id}/answers', job.id, { act: check.act, seen });
</script>

<section
  class="rounded border-2 border-ink bg-page p-3 low:grid low:grid-cols-2 low:gap-4"
  aria-label="Next check"
  data-check={[check.kind, check.part ?? check.act ?? check.step ?? check.condition, check.method]
    .filter(Boolean)
    .join('/')}
>
  <div>
    <p class="small">
      {own
        ? 'Your own choice'
        : check.kind === 'confirm'
          ? 'Confirm by eye before you strip it'
          : 'Next check'}
    </p>
    <p class="text-lg font-bold">{check.says}</p>
    <p>{check.why}</p>
    {#if here?.cover && !check.opens}<p class="small" data-cover>
        {here.cover.charAt(0).toUpperCase() + here.cover.slice(1)}.{#if here.within}
          There: {here.within}{/if}
      </p>{/if}
    {#each job.imitators.filter((m) => m.parts?.includes(check.part ?? '')) as m (m.id)}<p
        class="small"
        data-alike
      >
        {m.says}
      </p>{/each}
    {#if act?.needs}<p class="small">You need: {act.needs}.</p>{/if}
  </div>
  <div>
    {#if act?.mind}<p class="border-l-4 border-vermilion pl-2" data-mind>{act.mind}</p>{/if}
    {#if look}
      <div class="mt-2 grid grid-cols-[repeat(auto-fit,minmax(min(5.5rem,100%),1fr))] gap-2">
        <KeyButton
          key="y"
          says="It leaks here"
          where="Hunt"
          class="min-h-14 btn-main"
          act={() => answer(true)}>Leaks here</KeyButton
        >
        <KeyButton key="x" says="Nothing seen here" where="Hunt" class="min-h-14" act={() => answer(false)}
          >Nothing</KeyButton
        >
        <KeyButton key="s" says="Skip this check" where="Hunt" class="min-h-14" act={skip}>Skip</KeyButton>
      </div>
      {#if job.warms}
        <KeyButton
          key="a"
          says="Wet here, from higher up"
          where="Hunt"
          class="mt-2 w-full"
          act={() => {
            kind = 'from above';
            answer(true);
          }}>Wet, but it ran down from above</KeyButton
        >
      {/if}
      <details class="mt-2">
        <summary class="flex min-h-11 items-center small">What was seen, and whether it belongs there</summary
        >
        <div class="flex flex-wrap gap-2">
          <label class="grow"
            ><span class="sr-only">Note</span><input
              class="field"
              bind:value={note}
              placeholder="what was seen, where exactly"
              maxlength="300"
            /></label
          >
          <label class="w-44">
            <span class="sr-only">What kind of escape</span>
            <select class="field" bind:value={kind}>
              <option value="fault">a fault</option>
              <option value="from above">ran down from above</option>
              <option value="meant">meant to be</option>
              <option value="forgotten opening">an opening forgotten</option>
            </select>
          </label>
        </div>
      </details>
    {:else if act}
      {#if holding}
        <ActStrip {job} hold={holding} {act} />
      {:else}
        <p class="mt-1 small">Under pressure only: hold it again, or answer by what you noticed.</p>
      {/if}
      <ul class="mt-2 flex flex-col gap-2">
        {#each act.answers as a (a.seen)}
          <li>
            <button
              class="btn w-full justify-start text-left"
              data-answer={a.seen}
              onclick={() => noticed(a.seen)}>{a.says}</button
            >
          </li>
        {/each}
      </ul>
      <div class="mt-2 flex flex-wrap gap-2">
        {#if !holding}<Main says="Hold it again" act={() => go(job, 'pressurise')}>Hold it again</Main>{/if}
        <KeyButton key="s" says="Skip this check" where="Hunt" class="min-h-14" act={skip}>Skip</KeyButton>
      </div>
    {:else}
      <div class="mt-2 flex flex-wrap gap-2">
        {#if check.step}
          <Main
            says="Go to this step"
            act={() => go(job, job.steps.find((s) => s.id === check.step)?.stage ?? 'hold')}
            >Go to this step</Main
          >
        {:else if check.condition === 'hot'}
          <Main says="Hold it hot" act={() => holdNext(job, 'hot')}>Hold it hot</Main>
        {:else if holding}
          <Main says="Something was moved" key="w" act={() => event(holding.id, 'moved')}>Moved</Main>
        {/if}
        <KeyButton key="s" says="Skip this check" where="Hunt" class="min-h-14" act={skip}>Skip</KeyButton>
      </div>
    {/if}
  </div>
</section>
