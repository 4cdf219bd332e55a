<script lang="ts">
  import type { Job, Stage } from '../lib/api/client';
  import { event, firstStroke, gated, go, heldNext, onward, planOf, proofOf, testOf } from '../lib/job';
  import { outbox } from '../lib/outbox.svelte';
  import { both } from '../lib/show';
  import Ahead from '../parts/Ahead.svelte';
  import Gate from '../parts/Gate.svelte';
  import HeldUnder from '../parts/HeldUnder.svelte';
  import KeyButton from '../parts/KeyButton.svelte';
  import Foot from '../parts/Foot.svelte';
  import Main from '../parts/Main.svelte';
  import Pumping from '../parts/Pumping.svelte';
  import Strokes from '../parts/Strokes.svelte';
  import Thumb from '../parts/Thumb.svelte';

  let { job, stage }: { job: Job; stage: Stage } = $props();
  const hold = $derived(testOf(job, stage.step));
  const plan = $derived(planOf(job, stage.step));
  const proof = $derived(proofOf(job));
  const rigUp = $derived(proof !== undefined && proof.state !== 'ended');
  let picked = $state<number>(); // among the conditions; -1: none
  const step = $derived(job.steps.find((s) => s.id === stage.step) ?? job.steps[0]);
  const waits = $derived(step !== undefined && gated(step));
  // Where a step is held under two conditions, the one that is still wanted is next.
  const wanted = $derived(step?.held_under.findIndex((c) => c.condition.under === step.pending[0]?.id) ?? -1);
  const condition = $derived(picked ?? (step?.pending.length ? wanted : heldNext(job, step)));
  // A step that compares two is held under one of them: that is said first.
  const either = $derived((step?.conditions.length ?? 0) > 0);
  const unsaid = $derived(either && condition < 0);

  // What was pressed right after the first stroke is done to its hold, though the page has
  // not heard of that yet.
  let begun = $state('');
  const counted = $derived(
    begun && !outbox.refused(begun)
      ? outbox.waitingOn(begun).filter((w) => (w.body as { kind?: string }).kind === 'stroke').length
      : 0,
  );
  function stroke(): void {
    const under = step?.held_under[condition];
    begun = firstStroke(job, hold ? 'repeat' : 'test', stage.step, under?.condition);
  }
</script>

{#if hold && hold.state === 'pumping'}
  <Pumping {hold} shut={() => stage.id === 'pressurise' && onward(job, stage.id)} />
  <HeldUnder {job} {hold} />
{:else if !plan}
  <p>The limit comes first.</p>
  <div><button class="btn" onclick={() => go(job, 'limit')}>Know the limit</button></div>
{:else if !hold || (hold.state === 'ended' && job.state === 'open')}
  <div class="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-4">
    <div>
      <p class="text-mute">{plan.draws ? 'Draw down to' : 'Pump to'}</p>
      <p class="whitespace-nowrap">
        <span class="text-[min(3.75rem,17vw)] leading-none font-bold figures sm:text-[min(4.5rem,17vw)]"
          >{plan.target_shown.text}</span
        >
        <span class="text-[min(1.5rem,8vw)] font-bold">{plan.target_shown.unit}</span>
      </p>
    </div>
    <p class="text-right">
      <span class="text-[min(3rem,14vw)] leading-none font-bold figures">{counted}</span><br /><span
        class="small">{counted === 1 ? 'stroke' : 'strokes'}</span
      >
    </p>
    <p class="col-span-2 flex h-11 items-center overflow-hidden leading-tight">
      {plan.target_shown.other}, never past the {plan.weakest.of === 'step'
        ? 'limit of this step'
        : plan.weakest.of}. The first stroke starts the hold.
    </p>
  </div>
  <div class="contents" data-first={hold ? 'again' : 'new'}>
    <Thumb
      of={job.id}
      primary={{
        id: 'first',
        label: counted ? 'Stroke' : 'First stroke',
        says: 'First stroke: the hold begins',
        act: stroke,
        also: 'Enter',
        disabled: rigUp || waits || unsaid,
      }}
      sheet={counted ? sheet : undefined}
    />
  </div>
  {#if rigUp}<p class="font-bold text-vermilion">
      The rig proof is still under pressure: bleed it down first.
    </p>{/if}
  {#if step}<Gate {job} {step} />{/if}
  {#if hold}
    <p>
      The last hold reached {hold.highest ? both(hold.highest) : 'nothing'} and was bled down. A repeat is kept
      beside it.
    </p>
  {/if}
  <fieldset class="flex flex-wrap items-center gap-2" hidden={!step?.held_under.length}>
    <legend class="float-left mr-1 text-mute">Held</legend>
    {#each step?.held_under ?? [] as c, i (i)}
      <button
        class="btn {condition === i ? 'border-2 border-ink bg-brass-wash font-bold' : ''}"
        aria-pressed={condition === i}
        onclick={() => (picked = condition === i && !either ? -1 : i)}>{c.title}</button
      >
    {/each}
    {#if step?.held_under[condition]?.says}
      <p class="basis-full border-l-4 border-vermilion bg-page p-3 font-bold" data-heats>
        {step.held_under[condition].says}
      </p>
    {/if}
    {#if unsaid}<p class="font-bold" data-unsaid>Say first how it is held.</p>{/if}
  </fieldset>
  {#if !step?.held_under[condition]?.says}<Ahead {job} step={stage.step} />{/if}
{:else}
  <p>
    {hold.strokes}
    {hold.strokes === 1 ? 'stroke' : 'strokes'}, highest reached {hold.highest
      ? both(hold.highest)
      : 'not read'}{hold.first_heard ? `, first heard at ${both(hold.first_heard)}` : ''}. {hold.air?.says ??
      'Too few readings between the strokes to show the trapped air.'}
  </p>
  <Strokes {hold} height={280} />
  <Foot><Main says="On to the hold" act={() => onward(job, stage.id)}>Settle and hold</Main></Foot>
{/if}

{#snippet sheet()}
  <!-- Pressed right after the first stroke, before the page has heard of its hold. -->
  <KeyButton
    key="i"
    says="The supply is shut: isolated"
    act={() => {
      event(begun, 'isolate');
      if (stage.id === 'pressurise') onward(job, stage.id);
    }}>Supply shut</KeyButton
  >
{/snippet}
