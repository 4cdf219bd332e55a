<script lang="ts">
  // The value at a height that is read across a shop, in both units, and the ring.
  import type { Hold } from '../lib/api/client';
  import { ringInk, ringWords } from '../lib/show';
  import Ring from './Ring.svelte';
  import Since from './Since.svelte';

  let { hold }: { hold: Hold } = $props();
  // What stands there is what was last believed.
  const old = $derived(hold.faults.some((f) => f.gauge === 1 && f.kind !== 'jumped'));
</script>

<div
  class="flex flex-wrap items-center gap-x-4 gap-y-1"
  data-hold={hold.state}
  data-call={hold.calls.at(-1)?.call ?? 'none'}
  data-ring={hold.ring}
  data-strokes={hold.strokes}
  data-seq={hold.last_seq}
  data-struck={hold.points.filter((x) => x.struck).length}
>
  <div class="grow">
    <p class="whitespace-nowrap">
      <span
        class="text-6xl leading-none font-bold figures sm:text-7xl {hold.over_limit
          ? 'text-vermilion'
          : old
            ? 'text-mute'
            : ''}">{hold.value?.text ?? '–'}</span
      >
      <span class="text-2xl font-bold">{hold.unit}</span>
    </p>
    <p class="text-xl text-mute figures">
      {hold.value?.other ?? 'no reading yet'}{#if old && hold.value}<span class="ml-2 text-base"
          >last believed</span
        >{/if}
    </p>
  </div>
  <div class="order-last basis-full sm:order-none sm:basis-auto sm:text-right">
    <p class="text-lg leading-tight font-bold {ringInk[hold.ring]}">
      {hold.ring === 'nicked' ? 'tight' : ringWords[hold.ring]}
    </p>
    <p class="small"><Since {hold} /></p>
    {#if hold.simulated}<p class="hidden small sm:block">simulated</p>{/if}
  </div>
  <Ring kind={hold.ring} size={80} />
</div>
