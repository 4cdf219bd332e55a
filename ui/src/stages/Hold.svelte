<script lang="ts">
  import type { Job, Stage } from '../lib/api/client';
  import { event, go, testOf } from '../lib/job';
  import HeldUnder from '../parts/HeldUnder.svelte';
  import Holding from '../parts/Holding.svelte';
  import KeyButton from '../parts/KeyButton.svelte';
  import Main from '../parts/Main.svelte';

  let { job, stage }: { job: Job; stage: Stage } = $props();
  const hold = $derived(testOf(job, stage.step));
</script>

{#if !hold}
  <p>{stage.text} Nothing is pumped up yet.</p>
  <div><Main says="To pressurise" act={() => go(job, 'pressurise')}>Pressurise</Main></div>
{:else if hold.state === 'pumping'}
  <p>The supply is still open: a gauge on an open supply cannot fall.</p>
  <div>
    <KeyButton
      key="i"
      says="The supply is shut: isolated"
      act={() => event(hold.id, 'isolate')}
      class="min-h-14 btn-main px-6 text-lg">Supply shut</KeyButton
    >
  </div>
{:else}
  <Holding {hold} />
  <HeldUnder {job} {hold} />
  {#if hold.calls.length}
    <div><Main says="See the call" act={() => go(job, 'call')}>See the call</Main></div>
  {/if}
{/if}
