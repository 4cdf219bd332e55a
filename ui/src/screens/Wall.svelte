<script lang="ts">
  // The wall: what is under pressure, read across a shop. Nothing on it is pressed.
  import { awake } from '../lib/awake';
  import { live } from '../lib/live.svelte';
  import { ringInk, ringWords } from '../lib/show';
  import { ticking } from '../lib/ticking';
  import Ring from '../parts/Ring.svelte';
  import Since from '../parts/Since.svelte';

  // As many as can be read; the others take their turn, and one that alarms stays.
  const most = 6;
  const turnS = 10;
  let width = $state(1920);
  let height = $state(1080);
  const columns = $derived(width >= 1600 ? 2 : 1);
  const fit = $derived(Math.min(most, columns * Math.max(1, Math.floor(height / 350))));
  const all = $derived([...live.running].sort((a, b) => Number(b.alarm !== '') - Number(a.alarm !== '')));
  const pages = $derived(Math.max(1, Math.ceil(all.length / fit)));
  const page = $derived(all[0]?.alarm || pages === 1 ? 0 : Math.floor(ticking() / 1000 / turnS) % pages);
  const shown = $derived(all.slice(page * fit, (page + 1) * fit));
  $effect(awake);
</script>

<svelte:window bind:innerWidth={width} bind:innerHeight={height} />

<div
  data-view="wall"
  data-ready="true"
  data-holds={shown.length}
  class="grid h-screen auto-rows-fr gap-x-8 overflow-hidden px-6 {columns > 1 && shown.length > 1
    ? 'grid-cols-2'
    : 'grid-cols-1'}"
>
  <h1 class="sr-only">Under pressure now</h1>
  {#each shown as h (h.id)}
    <section
      class="flex min-w-0 flex-col justify-center gap-1 border-b-2 border-rule py-3"
      data-wall={h.ring}
      aria-label={h.machine}
    >
      <p class="truncate text-[40px] leading-tight">
        {h.machine}{h.purpose === 'rig proof' ? ', rig proof' : ''}{#if pages > 1}<span class="text-mute">
            · {page + 1} of {pages}</span
          >{/if}
      </p>
      <div class="flex flex-wrap items-center gap-x-8">
        <p class="whitespace-nowrap">
          <span
            class="text-[120px] leading-none font-bold figures {h.over_limit ? 'text-vermilion' : ''}"
            data-wall-value>{h.value?.text ?? '–'}</span
          >
          <span class="text-[48px] font-bold">{h.unit}</span>
        </p>
        <p
          class="flex items-center gap-4 text-[64px] leading-none font-bold {ringInk[h.ring]}"
          data-wall-verdict
        >
          <Ring kind={h.ring} size={96} />
          {h.ring === 'nicked' ? 'tight' : ringWords[h.ring]}
        </p>
      </div>
      <p class="text-[40px] leading-tight" data-wall-says>
        {h.alarm ? h.alarm_text : h.sentence}
        <span class="text-mute"><Since hold={h} />{h.simulated ? ', simulated' : ''}</span>
      </p>
    </section>
  {:else}
    <p class="self-center text-center text-[64px] text-mute">Nothing is under pressure.</p>
  {/each}
</div>
