<script lang="ts">
  // A stage that is a short list of things to do: make safe, rig up.
  import type { Job, Stage } from '../lib/api/client';
  import { onward, ticksOf } from '../lib/job';
  import Foot from '../parts/Foot.svelte';
  import Main from '../parts/Main.svelte';
  import Matters from '../parts/Matters.svelte';
  import Fitted from '../parts/Fitted.svelte';
  import Remind from '../parts/Remind.svelte';
  import Ticks from '../parts/Ticks.svelte';

  let { job, stage }: { job: Job; stage: Stage } = $props();
  const ticks = $derived(ticksOf(job, stage.ticks));
  const must = $derived(ticks.filter((t) => t.must && !t.ticked).length);
  const counted = $derived(ticks.filter((t) => t.count));
  const next = $derived(job.stages[job.stages.findIndex((s) => s.id === stage.id) + 1]);
</script>

{#if stage.ticks.length}<Ticks {job} items={stage.ticks} />{/if}
{#if counted.length}
  <p>
    <b class="figures">{counted.filter((t) => t.ticked).length} of {counted.length}</b> closed and counted. They
    are counted out again at the end.
  </p>
{/if}
{#if stage.id === 'rig'}
  {#if !job.stages.some((s) => s.id === 'limit')}<Matters {job} />{/if}
  <Fitted {job} />
{/if}
<Foot>
  <Main says="On to the next stage" act={() => onward(job, stage.id)} disabled={must > 0}
    >{next?.title ?? 'On'}</Main
  >
  {#if must > 0}<p>First tick what must be so.</p>{/if}
</Foot>
{#if stage.id === 'make-safe' && job.warms && job.state === 'open' && must > 0}
  <Remind {job} about="whether it is cool enough to open" />
{/if}
