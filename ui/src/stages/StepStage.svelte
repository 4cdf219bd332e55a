<script lang="ts">
  // One step of a circuit of several: a hold, or what is found at it.
  import type { Job, Stage } from '../lib/api/client';
  import { gated, go, testOf } from '../lib/job';
  import { refresh } from '../lib/query';
  import Gate from '../parts/Gate.svelte';
  import HeldUnder from '../parts/HeldUnder.svelte';
  import Holding from '../parts/Holding.svelte';
  import KeyButton from '../parts/KeyButton.svelte';
  import Foot from '../parts/Foot.svelte';
  import Main from '../parts/Main.svelte';
  import Figures from '../parts/Figures.svelte';
  import Outcome from '../parts/Outcome.svelte';
  import PlanChoices from '../parts/PlanChoices.svelte';
  import StepForm from '../parts/StepForm.svelte';
  import Ticks from '../parts/Ticks.svelte';
  import Tries from '../parts/Tries.svelte';
  import Pressurise from './Pressurise.svelte';
  import { event } from '../lib/job';

  let { job, stage }: { job: Job; stage: Stage } = $props();
  const step = $derived(job.steps.find((s) => s.id === stage.step)!);
  const hold = $derived(testOf(job, stage.step));
  const open = $derived(job.state === 'open');
  const running = $derived(step.kind === 'hold' && (hold?.state === 'pumping' || hold?.state === 'holding'));
  const bad = $derived(hold?.state === 'holding' && hold.calls.length > 0 && step.outcome.verdict === 'bad');
  const after = $derived(
    hold && {
      id: 'down',
      label: hold.draws ? 'Let air in' : 'Bleed down',
      says: hold.draws ? 'Let air in' : 'Bleed the pressure down',
      act: () => event(hold.id, 'release'),
      also: 'z',
    },
  );
  let describing = $state(false);
  let again = $state(false);
  const next = $derived(job.stages[job.stages.findIndex((s) => s.id === stage.id) + 1]);

  // What a hold has said changes what its step says: the sheet is read again.
  const called = $derived(hold?.calls.length ?? 0);
  let seen = -1;
  $effect(() => {
    if (seen >= 0 && called !== seen) refresh(job.id);
    seen = called;
  });
</script>

{#snippet ground()}
  {#if step.state.length}
    <p><span class="text-mute">State:</span> <b>{step.state.join('; ')}</b></p>
  {/if}
  {#if step.changes.length}
    <p><span class="text-mute">Change first:</span> {step.changes.join('; ')}</p>
  {/if}
  {#if step.plan && (step.closures.length || step.meant.length)}
    <details class="border-y border-rule py-1">
      <summary class="flex min-h-11 items-center"
        >{step.plan.draws ? 'Drawn' : 'Pumped in'} at the {step.port}{step.closures.length
          ? `; ${step.closures.length} to be shut`
          : ''}{step.meant.length ? `; ${step.meant.length} meant to pass` : ''}</summary
      >
      <ol class="list-decimal pb-2 pl-7">
        {#each step.closures as c (c.part)}
          <li>
            {c.title}: {c.with}{#if c.already}<span class="small">, shut already</span>{/if}
          </li>
        {/each}
      </ol>
      {#if step.meant.length}<p class="pb-2">Meant to pass: {step.meant.join(', ')}.</p>{/if}
    </details>
  {/if}
  {#if stage.ticks.length}
    <Ticks {job} items={stage.ticks} />
  {/if}
{/snippet}

{#snippet before()}
  {#if step.conditions.length}
    <Outcome {step} />
    <Figures {step} />
  {/if}
  {#if step.problem}<p class="font-bold text-vermilion" role="alert">{step.problem}</p>{/if}
  {#if step.energy && (!hold || hold.state === 'ended') && open}
    <p class="border-l-4 border-vermilion bg-page p-3 font-bold">{step.energy}</p>
  {/if}
{/snippet}

<!-- While it is under pressure the value and the bar come first. -->
{#if !running}{@render ground()}{/if}
{#if step.kind === 'hold'}
  {#if !running}{@render before()}{/if}
  {#if hold && hold.state !== 'pumping'}
    <Holding {hold} height={240} {after} />
    {#if bad}
      <div>
        <KeyButton key="y" says="Hunt while it is under pressure" act={() => go(job, 'hunt')} class="min-h-14"
          >Hunt</KeyButton
        >
      </div>
    {/if}
    <HeldUnder {job} {hold} />
    <Tries {job} {hold} />
  {/if}
  {#if !hold || hold.state === 'pumping' || (hold.state === 'ended' && open)}
    {#if hold?.state === 'ended' && !step.pending.length}
      <details bind:open={again}>
        <summary class="flex min-h-11 items-center">Hold it again</summary>
        {#if again}<div class="flex flex-col gap-3"><Pressurise {job} {stage} /></div>{/if}
      </details>
    {:else}
      <Pressurise {job} {stage} />
    {/if}
  {/if}
  {#if step.plan && open && (!hold || hold.state === 'ended')}
    <details>
      <summary class="flex min-h-11 items-center"
        >How far, on which gauge, with which pump, what may be lost</summary
      >
      <p class="font-bold">{step.plan.target.says}</p>
      <ul class="text-sm {step.plan.fit.fits ? '' : 'text-vermilion'}">
        {#each step.plan.fit.says as s (s)}<li>{s}</li>{/each}
      </ul>
      <PlanChoices {job} plan={step.plan} bind:describing />
      <button class="mt-2 btn" onclick={() => (describing = !describing)} aria-expanded={describing}
        >Describe another gauge</button
      >
    </details>
  {/if}
  {#if running}
    {@render before()}
    {@render ground()}
  {/if}
{:else}
  <Gate {job} {step} />
  {#if step.plan && step.kind !== 'floor'}
    <p class="text-xl font-bold">
      {step.plan.target.says}
    </p>
  {/if}
  {#if step.problem}<p class="font-bold text-vermilion" role="alert">{step.problem}</p>{/if}
  <StepForm {job} {step} />
{/if}
{#if next && !(open && gated(step)) && (step.outcome.verdict !== 'unknown' || step.optional) && hold?.state !== 'pumping' && hold?.state !== 'holding'}
  <Foot>
    {#if step.outcome.verdict === 'unknown'}
      <button class="btn" onclick={() => go(job, next.id)}>Without it, on to: {next.title}</button>
    {:else}
      <Main says="On to the next stage" act={() => go(job, next.id)}>{next.title}</Main>
    {/if}
  </Foot>
{/if}
