<script lang="ts">
  // Strokes counted, the trapped air as it appears, the limit as a red edge.
  import type { Hold } from '../lib/api/client';
  import { me } from '../lib/me.svelte';
  import { both } from '../lib/show';
  import Eye from './Eye.svelte';
  import FarGauge from './FarGauge.svelte';
  import Faults from './Faults.svelte';
  import HoldBar from './HoldBar.svelte';
  import Strokes from './Strokes.svelte';
  import Value from './Value.svelte';

  let { hold, shut }: { hold: Hold; shut: () => void } = $props();
</script>

<Value {hold} />
<HoldBar {hold} {shut} />
{#if !hold.by_itself && !me.far}<Eye {hold} />{/if}
<p class="text-lg font-bold {hold.over_limit ? 'text-vermilion' : ''}">{hold.sentence}</p>
<FarGauge {hold} />
<Faults {hold} />
<Strokes {hold} />
<p data-air={hold.air !== null}>
  {hold.air?.says ?? 'Some strokes with a reading after each show how much air is trapped.'}
</p>
{#if hold.first_heard}<p data-heard>First heard at {both(hold.first_heard)}.</p>{/if}
