<script lang="ts">
  // Where it leaks: the next check with its answers, the map, and the suspects as they move.
  import { createQuery } from '@tanstack/svelte-query';
  import type { Job, Proposal, Stage } from '../lib/api/client';
  import { readPassages } from '../lib/bores';
  import { go, holdNext, lastAct, testOf } from '../lib/job';
  import { keys } from '../lib/keys.svelte';
  import { send } from '../lib/outbox.svelte';
  import { figure } from '../lib/show';
  import ActStrip from '../parts/ActStrip.svelte';
  import Bores from '../parts/Bores.svelte';
  import CheckCard from '../parts/CheckCard.svelte';
  import DripOrHiss from '../parts/DripOrHiss.svelte';
  import Ear from '../parts/Ear.svelte';
  import Elsewhere from '../parts/Elsewhere.svelte';
  import Found from '../parts/Found.svelte';
  import HuntGround from '../parts/HuntGround.svelte';
  import HuntMap from '../parts/HuntMap.svelte';
  import KeyButton from '../parts/KeyButton.svelte';
  import Listen from '../parts/Listen.svelte';
  import Main from '../parts/Main.svelte';
  import Remind from '../parts/Remind.svelte';
  import RigSeen from '../parts/RigSeen.svelte';
  import Suspects from '../parts/Suspects.svelte';

  let { job }: { job: Job; stage: Stage } = $props();
  const hunt = $derived(job.hunt);
  const open = $derived(job.state === 'open');
  // A housing is hunted passage by passage, unless looks are asked for.
  let looks = $state(false);
  const bores = createQuery(() => ({
    queryKey: ['job', job.id, 'passages'],
    queryFn: () => readPassages(job.id),
    enabled: job.bores,
  }));
  const passages = $derived(job.bores && !looks ? bores.data : undefined);
  // Held on to by its id: what others see meanwhile may put the suspects in another order.
  let held = $state('');
  let skipped = $state<string[]>([]);
  let way = $state('');
  let answered = $state(''); // a choice of one's own that was answered stands back
  const name = (c: Proposal) => `${c.kind}/${c.part ?? c.act ?? c.step ?? c.condition}/${c.method ?? ''}`;
  const proposed = $derived(
    [...(hunt.next ? [hunt.next] : []), ...hunt.then].find((c) => !skipped.includes(name(c))),
  );
  const here = $derived(job.suspects.find((s) => s.id === held));
  // A suspect that was chosen is looked at by the method that is proposed for it, or by eye.
  const ways = $derived(hunt.methods.filter((m) => !hunt.struck.some((x) => x.method === m.id)));
  const method = $derived(
    way ||
      ([hunt.next, ...hunt.then].find((c) => c?.part === held)?.method ??
        ways.find((m) => m.id === 'soap')?.id ??
        ways[0]?.id ??
        'eyes'),
  );
  const own = $derived<Proposal | undefined>(
    here === undefined || answered === held
      ? undefined
      : {
          kind: 'look',
          part: here.id,
          method,
          act: null,
          step: null,
          condition: null,
          opens: null,
          tries: [here.id],
          minutes: hunt.methods.find((m) => m.id === method)?.wait_minutes ?? 0,
          hands_on_minutes: 0,
          if_there: 0,
          chance: 0,
          says: `${here.title}: ${hunt.methods.find((m) => m.id === method)?.title.toLowerCase() ?? method}.`,
          why: here.look,
        },
  );
  const check = $derived(own ?? proposed);
  function choose(id: string): void {
    held = id;
    way = answered = '';
    if (id) document.getElementById(`suspect-${id}`)?.scrollIntoView({ block: 'nearest' });
  }
  function move(by: number): void {
    const at = job.suspects.findIndex((s) => s.id === held);
    choose(job.suspects[Math.max(0, Math.min(job.suspects.length - 1, at + by))]?.id ?? '');
  }
  function skip(): void {
    if (own) choose('');
    else if (check) skipped = [...skipped, name(check)];
  }
  const slow = $derived(check?.method && check.minutes - check.hands_on_minutes > 20 ? check : undefined);
  const test = $derived(testOf(job));
  const running = $derived(test?.state === 'holding' ? test : undefined);
  const acting = $derived(hunt.acts.find((a) => `act:${a.id}` === lastAct(running)));
  const known = $derived(job.facts.length + job.suspects.reduce((n, s) => n + s.seen.length, 0));
  $effect(() =>
    passages
      ? undefined
      : keys([
          { key: 'ArrowDown', says: 'Next suspect', where: 'Hunt', do: () => move(1) },
          { key: 'ArrowUp', says: 'Suspect before', where: 'Hunt', do: () => move(-1) },
        ]),
  );
</script>

<Found {job} />
<p class="sr-only" data-known={known}>{known} things known</p>
{#if job.bores}
  <div class="flex flex-wrap gap-2" role="group" aria-label="How it is hunted">
    <button
      class="btn {looks ? '' : 'border-2 border-ink font-bold'}"
      aria-pressed={!looks}
      data-by="bores"
      onclick={() => (looks = false)}>Passage by passage</button
    >
    <button
      class="btn {looks ? 'border-2 border-ink font-bold' : ''}"
      aria-pressed={looks}
      data-by="looks"
      onclick={() => (looks = true)}>Looks and acts</button
    >
  </div>
{/if}
{#if passages}
  {#if hunt.retest && open}
    <button
      class="btn min-h-14 self-start"
      data-hold-again
      onclick={() => go(job, job.steps.find((s) => s.id === test?.test)?.stage ?? 'pressurise')}
      >Hold it again</button
    >
  {/if}
  <Bores {job} view={passages} />
  <Suspects {job} at={held} {choose} />
{:else}
  <!-- The map is two thirds; on the phone: check, answers, map, list. -->
  <div class="grid gap-4 two:grid-cols-[minmax(0,7fr)_minmax(0,5fr)] two:grid-rows-[auto_1fr]">
    <div class="flex min-w-0 flex-col gap-3 two:col-start-2 two:row-start-1">
      {#if acting && running}
        <section
          class="rounded border-2 border-ink bg-page p-3"
          aria-label="An act is on"
          data-check="acting"
        >
          <p class="small">Watch the gauge, then undo it</p>
          <p class="text-lg font-bold">{acting.title}</p>
          <ActStrip {job} hold={running} act={acting} />
        </section>
      {:else if open && !hunt.retest && (own || !hunt.named?.seen || hunt.next)}
        {#if check}
          {#key name(check)}<CheckCard
              {job}
              {check}
              {skip}
              own={own !== undefined}
              answered={() => (answered = held)}
            />{/key}
          {#if own}
            <div class="flex flex-wrap items-center gap-2">
              <label class="flex min-w-[min(14rem,100%)] grow items-center gap-2"
                ><span class="shrink-0 small">Look by</span>
                <select class="field" value={method} onchange={(e) => (way = e.currentTarget.value)}>
                  {#each hunt.methods as m (m.id)}<option value={m.id}
                      >{m.title}{hunt.struck.some((x) => x.method === m.id) ? ' (not offered)' : ''}</option
                    >{/each}
                </select></label
              >
              <button class="btn" onclick={() => choose('')}>Back to the proposed check</button>
            </div>
          {/if}
        {:else}
          <section class="rounded border-2 border-ink bg-page p-3" data-check="none">
            <p class="text-lg font-bold">No check that is offered here would show it from outside.</p>
            <p>
              Look inside: a lamp in each bore, oil in the water, the carpet. Or hold it full, hot, or
              overnight.
            </p>
            <div class="mt-2 flex flex-wrap gap-2">
              {#if skipped.length}<KeyButton
                  key="s"
                  says="Take up the skipped checks"
                  where="Hunt"
                  act={() => (skipped = [])}>Take up {skipped.length} skipped checks</KeyButton
                >{/if}
              <button class="btn" onclick={() => holdNext(job, 'hot')}>Hold it hot</button>
            </div>
          </section>
        {/if}
        {#if slow}
          <button
            class="btn"
            data-slow={slow.method}
            onclick={() =>
              send('/api/jobs/{id}/reminders', job.id, {
                text: `${hunt.methods.find((m) => m.id === slow.method)?.title ?? ''}: ${job.suspects.find((s) => s.id === slow.part)?.title ?? ''}`,
                minutes: 60,
                every: 60,
                until: 2880,
              })}>Start it, and remind me every hour for two days, not at night</button
          >
        {/if}
        {#if hunt.expected_minutes !== null && !own}
          <p class="small" data-expected={hunt.expected_minutes.toFixed(1)}>
            About {hunt.expected_minutes < 90
              ? `${figure(Math.max(1, hunt.expected_minutes))} min`
              : `${figure(hunt.expected_minutes / 60)} h`} until it is seen. Two leaks at once: {Math.round(
              100 * hunt.two_leaks,
            )} in 100. None of these parts: {Math.round(100 * hunt.elsewhere)} in 100.
          </p>
        {/if}
      {/if}
      {#if open}<Listen />{/if}
      {#if job.warms && open}<DripOrHiss {job} />{/if}
      <RigSeen {job} />
    </div>
    <div class="min-w-0 two:col-start-1 two:row-span-2 two:row-start-1">
      <HuntMap {job} at={held || (proposed?.part ?? '')} {choose} />
    </div>
    <div class="flex min-w-0 flex-col gap-2 two:col-start-2">
      <Suspects {job} at={held} {choose} />
      <div>
        {#if hunt.retest || hunt.mend}
          {#if hunt.retest}<Main
              says="Hold it again"
              act={() => go(job, job.steps.find((s) => s.id === test?.test)?.stage ?? 'pressurise')}
              >Hold it again</Main
            >{:else}<Main says="Bleed down and put right" act={() => go(job, 'put-right')}>Put right</Main
            >{/if}
        {:else}
          <KeyButton key="p" says="Bleed down and put right" act={() => go(job, 'put-right')} class="min-h-14"
            >Bleed down</KeyButton
          >
        {/if}
      </div>
    </div>
  </div>
{/if}
{#if open && !passages}
  <Ear {job} part={held || (check?.part ?? '')} />
  <Elsewhere {job} />
  <HuntGround {job} />
{/if}
{#if hunt.struck.length && !passages}
  <details class="border-t border-rule pt-1">
    <summary class="flex min-h-11 items-center">Methods that are not offered ({hunt.struck.length})</summary>
    <ul class="list-disc pl-6">
      {#each hunt.struck as s (s.method)}<li>
          {hunt.methods.find((m) => m.id === s.method)?.title ?? s.method}: {s.why}.
        </li>{/each}
    </ul>
  </details>
{/if}
{#if open}<Remind {job} />{/if}
