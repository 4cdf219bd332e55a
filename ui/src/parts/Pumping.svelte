<script lang="ts">
  // Strokes counted, the trapped air as it appears, the limit as a red edge.
  import type { Hold } from '../lib/api/client';
  import { event } from '../lib/job';
  import { both } from '../lib/show';
  import { me } from '../lib/me.svelte';
  import FarGauge from './FarGauge.svelte';
  import Faults from './Faults.svelte';
  import KeyButton from './KeyButton.svelte';
  import Main from './Main.svelte';
  import Reader from './Reader.svelte';
  import Strokes from './Strokes.svelte';

  let { hold, shut }: { hold: Hold; shut: () => void } = $props();
  const end = $derived(hold.far && me.far ? hold.far : hold);
  const close = $derived(hold.value !== null && Math.abs(hold.value.pa) >= Math.abs(hold.target.pa) * 0.97);
</script>

<div
  class="grid grid-cols-[1fr_auto] items-end gap-4"
  data-hold={hold.state}
  data-strokes={hold.strokes}
  data-seq={hold.last_seq}
  data-struck={hold.points.filter((x) => x.struck).length}
  data-over={hold.over_limit}
  data-there={close}
>
  <div>
    <p class="whitespace-nowrap">
      <span class="text-7xl leading-none font-bold figures {hold.over_limit ? 'text-vermilion' : ''}"
        >{hold.value?.text ?? '0'}</span
      >
      <span class="text-2xl font-bold">{hold.unit}</span>
    </p>
    <p class="text-xl text-mute figures">{hold.value?.other ?? 'no reading yet'}</p>
  </div>
  <p class="text-right">
    <span class="text-5xl font-bold figures">{hold.strokes}</span><br /><span class="small">strokes</span>
  </p>
</div>
<p class="text-lg font-bold {hold.over_limit ? 'text-vermilion' : ''}" role="status">{hold.sentence}</p>
<FarGauge {hold} />
<Faults {hold} />
<div class="flex flex-wrap gap-3">
  <!-- One place, one key: over the limit it is what saves the hose. -->
  {#if hold.over_limit}
    <Main key=" " also="v" says="Bleed back a little" act={() => event(hold.id, 'bleed')}>Bleed back</Main>
  {:else}
    <Main key=" " says="One stroke of the pump" act={() => event(hold.id, 'stroke')}>Stroke</Main>
  {/if}
  <KeyButton
    key="i"
    says="The supply is shut: isolated"
    act={() => {
      event(hold.id, 'isolate');
      shut();
    }}
    class={close ? 'border-ink font-bold' : ''}>Supply shut</KeyButton
  >
  <KeyButton
    key="v"
    says="Bleed back a little"
    act={() => event(hold.id, 'bleed')}
    disabled={hold.value === null || hold.over_limit}>Bleed back</KeyButton
  >
  <KeyButton
    key="h"
    says="First hiss: heard now"
    act={() => event(hold.id, 'first hiss')}
    disabled={hold.first_heard !== null}>First hiss</KeyButton
  >
  <KeyButton key="z" says="Bleed the pressure down" act={() => event(hold.id, 'release')}
    >Bleed down</KeyButton
  >
</div>
<Strokes {hold} />
<p data-air={hold.air !== null}>
  {hold.air?.says ?? 'Some strokes with a reading after each show how much air is trapped.'}
</p>
{#if hold.first_heard}<p data-heard>First heard at {both(hold.first_heard)}.</p>{/if}
{#if end.gauge.kind === 'needle'}<Reader {hold} far={end !== hold} />{/if}
