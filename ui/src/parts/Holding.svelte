<script lang="ts">
  // The hold itself: value, fork, ring, the pad, and what may happen meanwhile.
  import type { Hold } from '../lib/api/client';
  import { event, leaveRunning } from '../lib/job';
  import { me } from '../lib/me.svelte';
  import FarGauge from './FarGauge.svelte';
  import Faults from './Faults.svelte';
  import Fork from './Fork.svelte';
  import KeyButton from './KeyButton.svelte';
  import Main from './Main.svelte';
  import Reader from './Reader.svelte';
  import Value from './Value.svelte';
  import Warmth from './Warmth.svelte';

  let { hold, height = 280 }: { hold: Hold; height?: number } = $props();
  let engine = $state(false);
  const ended = $derived(hold.state === 'ended');
  const gap = $derived(hold.gaps.at(-1));
  // The pad is for the gauge at which this page is; one that speaks by itself has none,
  // unless it is at fault and marks must do.
  const end = $derived(hold.far && me.far ? hold.far : hold);
</script>

<Value {hold} />
<FarGauge {hold} />
<Faults {hold} />
<p class="text-lg font-bold" role="status">{hold.sentence}</p>
<Warmth {hold} />
<Fork {hold} height={hold.gauge.kind === 'needle' ? Math.min(height, 210) : height} />
<p class="small">
  Allowed: {hold.allowance.says}{#if hold.under_text}<span class="ml-1">Held {hold.under_text}.</span>{/if}
</p>
{#if ended && hold.report?.next}<p class="font-bold">{hold.report.next}</p>{/if}
{#if gap}<p class="small" data-gaps={hold.gaps.length}>
    The gap in the chart: {gap.why}. The hold went on.
  </p>{/if}
{#if hold.over_limit}
  <div>
    <Main key=" " also="v" says="Bleed back a little" act={() => event(hold.id, 'bleed')}>Bleed back</Main>
  </div>
{/if}
{#if hold.state === 'holding'}
  {#if end.gauge.kind === 'needle'}<Reader {hold} far={end !== hold} />{/if}
  <div class="flex flex-wrap gap-2" data-laid-by={hold.laid_by}>
    <KeyButton key="w" says="Something was moved" where="During a hold" act={() => event(hold.id, 'moved')}
      >Moved</KeyButton
    >
    {#if hold.stage.startsWith('step-')}
      <KeyButton
        key="u"
        says="Something was turned: a shaft, a lever"
        where="During a hold"
        act={() => event(hold.id, 'turned')}>Turned</KeyButton
      >
    {/if}
    <KeyButton
      key="t"
      says="Topped up, supply shut again"
      where="During a hold"
      act={() => event(hold.id, 'top-up')}>Topped up</KeyButton
    >
    <KeyButton
      key="e"
      says="Engine on, or off"
      where="During a hold"
      act={() => {
        engine = !engine;
        event(hold.id, engine ? 'engine on' : 'engine off');
      }}>{engine ? 'Engine off' : 'Engine on'}</KeyButton
    >
    {#if hold.first_heard === null}
      <KeyButton
        key="h"
        says="First hiss: heard now"
        where="During a hold"
        act={() => event(hold.id, 'first hiss')}>First hiss</KeyButton
      >
    {/if}
    <KeyButton
      key="l"
      says="Leave it running, or take it up again"
      where="During a hold"
      pressed={hold.laid_by}
      act={() => leaveRunning(hold)}>{hold.laid_by ? 'Take it up again' : 'Leave it running'}</KeyButton
    >
  </div>
{/if}
