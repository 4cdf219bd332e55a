<script lang="ts">
  // The bar of a hold: what to press now follows from how the hold stands.
  import type { Hold } from '../lib/api/client';
  import { event, leaveRunning, reading } from '../lib/job';
  import { decimals, marksAhead, written, type Mark } from '../lib/marks';
  import { endOf, pending, standing } from '../lib/pending';
  import HeldButton from './HeldButton.svelte';
  import KeyButton from './KeyButton.svelte';
  import Reading from './Reading.svelte';
  import Slip from './Slip.svelte';
  import Thumb, { type Primary } from './Thumb.svelte';

  let { hold, shut, after }: { hold: Hold; shut?: () => void; after?: Primary | undefined } = $props();

  const waits = $derived(pending(hold));
  const end = $derived(endOf(hold));
  // The supply was shut here: the page is ahead of the server.
  const phase = $derived(hold.state === 'pumping' && waits.shut ? 'holding' : hold.state);
  const stood = $derived(standing(waits, hold.draws));
  const places = $derived(decimals(end.step));
  const byHand = $derived(!end.by_itself);
  const ahead = $derived(marksAhead(end.marks, stood, hold.state === 'pumping', hold.draws));
  let halves = $state(false);
  const likely = $derived(
    halves && hold.state === 'holding' ? ahead.find((m) => !m.up) : ahead.find((m) => m.likely),
  );
  // Pressed at the target here, though the server has not said so yet.
  const there = $derived(
    hold.at_target || (stood !== undefined && ahead.length > 0 && !ahead.some((m) => m.target)),
  );
  // A call that was taken back is none.
  const called = $derived(hold.calls.length > 0 && hold.ring !== 'dotted');
  const engine = $derived(
    hold.events.findLast((e) => e.kind === 'engine on' || e.kind === 'engine off')?.kind === 'engine on',
  );

  // A needle crosses a mark once on its way: pressed again, it is asked about.
  let twice = $state<Mark>();
  const crossed = $derived.by(() => {
    const last = waits.readings.at(-1);
    if (last) return last.how === 'mark' ? last.value : undefined;
    const point = (end.far ? end.points : hold.points).findLast((p) => !p.struck);
    return point?.how === 'mark' ? point.pa / end.unit_pa : undefined;
  });
  function cross(m: Mark, sure = false): void {
    if (!sure && crossed !== undefined && Math.abs(m.value - crossed) < end.step / 100) {
      twice = m;
      return;
    }
    twice = undefined;
    reading(hold.id, { value: m.value, how: 'mark', ...(end.far ? { gauge: 2 } : {}) }, m.text);
  }

  const primary = $derived.by((): Primary | undefined => {
    if (hold.over_limit) {
      const act = () => event(hold.id, 'bleed');
      return { id: 'bleed', label: 'Bleed back', says: 'Bleed back a little', act, also: 'v' };
    }
    if (phase === 'pumping' && there)
      return {
        id: 'shut',
        label: 'Supply shut',
        says: 'The supply is shut: isolated',
        act: close,
        also: 'i',
      };
    if (phase === 'pumping') {
      const act = () => event(hold.id, 'stroke');
      return { id: 'stroke', label: 'Stroke', says: 'One stroke of the pump', act };
    }
    if (called && after) return after;
    if (likely) {
      const mark = likely;
      return {
        id: 'mark',
        label: `Crosses ${mark.text}`,
        small: mark.half
          ? `${end.unit}, half-way: press at that moment`
          : `${end.unit}: press at that moment`,
        says: 'The needle crosses the next mark',
        act: () => cross(mark),
        long: () => (halves = !halves),
      };
    }
    return undefined;
  });
  function close(): void {
    event(hold.id, 'isolate');
    shut?.();
  }
  const down = () => event(hold.id, 'release');
  const released = $derived(hold.draws ? 'Let air in' : 'Bleed down');
  const letDown = $derived(hold.draws ? 'Let air in' : 'Bleed the pressure down');
  const idle = $derived(
    byHand
      ? 'Type what the gauge shows, as often as it changes'
      : called
        ? 'Called. The gauge reads on by itself'
        : 'The gauge reads itself. Look and listen meanwhile',
  );
</script>

<Thumb of={hold.id} {primary} {idle} {rows} {sheet} />

{#snippet rows()}
  {#if twice}
    <div class="border-l-4 border-brass bg-page py-1 pl-2" role="alert" data-twice={twice.value}>
      <p>{twice.text} is noted already. Has the needle gone back and crossed it again?</p>
      <div class="mt-1 flex flex-wrap gap-2">
        <button class="btn" onclick={() => (twice = undefined)}>No</button>
        <button class="btn" onclick={() => twice && cross(twice, true)}>Note it again</button>
      </div>
    </div>
  {/if}
  {#if byHand}
    <Reading {hold} {end} marks={ahead} {likely} kept={waits.readings} at={stood} {cross} />
  {/if}
{/snippet}

{#snippet sheet()}
  {#if phase === 'pumping'}
    {#if primary?.id !== 'shut'}
      <KeyButton key="i" says="The supply is shut: isolated" act={close}>Supply shut</KeyButton>
    {:else}
      <button class="btn" onclick={() => event(hold.id, 'stroke')}>One more stroke</button>
    {/if}
    <KeyButton
      key="v"
      says="Bleed back a little"
      act={() => event(hold.id, 'bleed')}
      disabled={hold.value === null || hold.over_limit}>Bleed back</KeyButton
    >
  {:else}
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
      act={() => event(hold.id, engine ? 'engine off' : 'engine on')}
      >{engine ? 'Engine off' : 'Engine on'}</KeyButton
    >
  {/if}
  {#if hold.first_heard === null}
    <KeyButton
      key="h"
      says="First hiss: heard now"
      where="During a hold"
      act={() => event(hold.id, 'first hiss')}>First hiss</KeyButton
    >
  {/if}
  {#if phase === 'holding'}
    <KeyButton
      key="l"
      says="Leave it running, or take it up again"
      where="During a hold"
      pressed={hold.laid_by}
      act={() => leaveRunning(hold)}>{hold.laid_by ? 'Take it up again' : 'Leave it running'}</KeyButton
    >
  {/if}
  {#if hold.over_limit}
    <KeyButton key="z" says={letDown} where="During a hold" act={down}>{released}</KeyButton>
  {:else if primary?.id !== 'down'}
    <HeldButton key="z" says={letDown} where="During a hold" act={down}>{released}</HeldButton>
  {/if}
  {#if phase === 'holding' && byHand && !end.far}<Slip
      {hold}
      unit={end.unit}
      example={written(end.step * 40, places)}
    />{/if}
{/snippet}
