<script lang="ts">
  import type { Job, Stage } from '../lib/api/client';
  import { go, testOf } from '../lib/job';
  import { pending } from '../lib/pending';
  import HeldUnder from '../parts/HeldUnder.svelte';
  import Holding from '../parts/Holding.svelte';
  import Foot from '../parts/Foot.svelte';
  import Main from '../parts/Main.svelte';
  import Pumping from '../parts/Pumping.svelte';

  let { job, stage }: { job: Job; stage: Stage } = $props();
  const hold = $derived(testOf(job, stage.step));
  const see = $derived(
    hold?.calls.length
      ? { id: 'call', label: 'See the call', says: 'See the call', act: () => go(job, 'call'), also: 'Enter' }
      : undefined,
  );
</script>

{#if !hold}
  <p>{stage.text} Nothing is pumped up yet.</p>
  <div><button class="btn" onclick={() => go(job, 'pressurise')}>Pressurise</button></div>
{:else if hold.state === 'pumping' && !pending(hold).shut}
  <Pumping {hold} shut={() => {}} />
  <p>The supply is still open: a gauge on an open supply cannot fall.</p>
{:else}
  <Holding {hold} after={see} />
  <HeldUnder {job} {hold} />
  {#if hold.state === 'ended' && see}
    <Foot><Main says={see.says} act={see.act}>{see.label}</Main></Foot>
  {/if}
{/if}
