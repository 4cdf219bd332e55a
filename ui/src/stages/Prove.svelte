<script lang="ts">
  // A short dead-head hold of the rig alone; or said to be left out.
  import type { Job, Stage } from '../lib/api/client';
  import { event, firstStroke, onward, planOf, proofOf } from '../lib/job';
  import { send } from '../lib/outbox.svelte';
  import Holding from '../parts/Holding.svelte';
  import KeyButton from '../parts/KeyButton.svelte';
  import Foot from '../parts/Foot.svelte';
  import Main from '../parts/Main.svelte';
  import Pumping from '../parts/Pumping.svelte';
  import Thumb from '../parts/Thumb.svelte';

  let { job, stage }: { job: Job; stage: Stage } = $props();
  const hold = $derived(proofOf(job));
  const plan = $derived(planOf(job));
  const running = $derived(job.holds.some((h) => h.state !== 'ended' && h.purpose !== 'rig proof'));

  function stroke(): void {
    firstStroke(job, 'rig proof');
  }
  function skip(): void {
    send('/api/jobs/{id}/skip-proof', job.id, {});
    onward(job, stage.id);
  }
</script>

{#if hold && hold.state === 'pumping'}
  <Pumping {hold} shut={() => {}} />
  <p>Only the tester is under pressure: its end is closed.</p>
{:else if hold && hold.state === 'holding'}
  <Holding
    {hold}
    height={220}
    after={{
      id: 'down',
      label: hold.draws ? 'Let air in' : 'Bleed down',
      says: hold.draws ? 'Let air in' : 'Bleed the pressure down',
      act: () => event(hold.id, 'release'),
      also: 'z',
    }}
  />
{:else if hold}
  <Holding {hold} height={200} />
  <Foot>
    <Main says="On to the next stage" act={() => onward(job, stage.id)}>Pressurise</Main>
    {#if job.state === 'open'}
      <KeyButton key=" " says="Prove it again: first stroke" act={stroke} disabled={running}
        >Prove again</KeyButton
      >
    {/if}
  </Foot>
{:else if job.state === 'open' && plan}
  <p>
    Close the tester's own end. The first stroke begins the proof, to {plan.target_shown.text}
    {plan.target_shown.unit}. {plan.gauge.kind === 'needle'
      ? 'Hold it for a minute and read the gauge three times, half a minute apart.'
      : 'Hold it for about a minute.'}
  </p>
  <Thumb
    of={job.id}
    primary={{
      id: 'first',
      label: 'First stroke',
      says: 'Begin the rig proof: first stroke',
      act: stroke,
      also: 'Enter',
      disabled: running,
    }}
  />
  {#if running}<p class="font-bold text-vermilion">
      A hold of this job is under pressure: bleed it down first.
    </p>{/if}
  <div>
    <KeyButton key="s" says="Go on without a rig proof" act={skip}>Skip the rig proof</KeyButton>
  </div>
  <p class="small">If you skip this, a leaking call is marked "rig not proven".</p>
{:else if !plan}
  <p>The limit comes first{job.marked ? `: type the mark on the ${job.mark_on}` : ''}.</p>
{:else}
  <p>The rig was not proven.</p>
{/if}
