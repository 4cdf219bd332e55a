<script lang="ts">
  // The hold itself: value, bar, fork, ring, and what may happen meanwhile.
  import type { Hold } from '../lib/api/client';
  import { eye } from '../lib/eye.svelte';
  import { me } from '../lib/me.svelte';
  import Eye from './Eye.svelte';
  import FarGauge from './FarGauge.svelte';
  import Faults from './Faults.svelte';
  import Fork from './Fork.svelte';
  import HoldBar from './HoldBar.svelte';
  import type { Primary } from './Thumb.svelte';
  import Value from './Value.svelte';
  import Warmth from './Warmth.svelte';

  let { hold, height = 280, after }: { hold: Hold; height?: number; after?: Primary | undefined } = $props();
  const ended = $derived(hold.state === 'ended');
  const filmed = $derived(eye.of(hold) && eye.stage === 'reading' && !me.far);
  const gap = $derived(hold.gaps.at(-1));
</script>

<Value {hold} />
{#if !ended}
  <!-- While it reads, the camera comes before what is pressed by hand. -->
  {#if filmed}<Eye {hold} />{/if}
  <HoldBar {hold} {after} />
  {#if !filmed && !hold.by_itself && !me.far}<Eye {hold} />{/if}
{/if}
<p class="text-lg font-bold {hold.over_limit ? 'text-vermilion' : ''}">{hold.sentence}</p>
<FarGauge {hold} />
<Faults {hold} />
<Warmth {hold} />
<Fork {hold} height={hold.by_itself ? height : Math.min(height, 210)} />
<p class="small">
  Allowed: {hold.allowance.says}{#if hold.under_text}<span class="ml-1">Held {hold.under_text}.</span>{/if}
</p>
{#if ended && hold.report?.next}<p class="font-bold">{hold.report.next}</p>{/if}
{#if gap}<p class="small" data-gaps={hold.gaps.length}>
    The gap in the chart: {gap.why}. The hold went on.
  </p>{/if}
