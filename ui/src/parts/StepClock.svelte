<script lang="ts">
  // The one clock of a step: started at one end, read at both.
  import { now } from '../lib/clock';
  import KeyButton from './KeyButton.svelte';
  import Main from './Main.svelte';

  let {
    starts,
    started,
    next = '',
    start,
    fill,
    clear,
    locked,
  }: {
    starts: string; // what happens when it is started
    started: string | null;
    next?: string; // label of the field that is filled next; empty: cells are filled where they stand
    start: () => void;
    fill: () => void;
    clear: () => void;
    locked: boolean;
  } = $props();
  let at = $state(now());
  $effect(() => {
    if (!started || locked) return;
    const t = setInterval(() => (at = now()), 100);
    return () => clearInterval(t);
  });
  const shown = $derived.by(() => {
    if (!started) return '';
    const s = Math.max(0, (at - new Date(started).getTime()) / 1000);
    if (s > 3600) return ''; // left standing: it tells nothing any more
    return s < 60
      ? `${s.toFixed(1)} s`
      : `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, '0')}`;
  });
</script>

{#if !locked}
  <div
    data-clock={shown ? 'running' : 'ready'}
    class="flex flex-wrap items-center gap-x-5 gap-y-2 border-t border-rule pt-2"
  >
    {#if shown}
      <p class="min-w-28 text-4xl font-bold figures" role="timer" aria-label="since: {starts}">{shown}</p>
      {#if next}<Main key=" " says={next} act={fill}>{next}</Main>{/if}
      <KeyButton key="x" says="Stop the clock, to start it again" act={clear} class="min-h-14"
        >Again</KeyButton
      >
      <p class="basis-full small">
        Since: {starts.toLowerCase()}. The same clock runs on every page of this job.
      </p>
    {:else}
      <Main key=" " says="Start the clock: {starts.toLowerCase()}" act={start}>{starts}: start the clock</Main
      >
    {/if}
  </div>
{/if}
