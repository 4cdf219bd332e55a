<script lang="ts">
  // The value at a height that is read across a shop, with its age, and when to read next.
  import type { Hold } from '../lib/api/client';
  import { eye } from '../lib/eye.svelte';
  import { undo } from '../lib/job';
  import { decimals, written } from '../lib/marks';
  import { me } from '../lib/me.svelte';
  import { notedOn } from '../lib/noted.svelte';
  import { outbox } from '../lib/outbox.svelte';
  import { endOf, pending } from '../lib/pending';
  import { clock, ringInk, ringWords } from '../lib/show';
  import { into } from '../lib/ticking';
  import Ring from './Ring.svelte';
  import Since from './Since.svelte';

  let { hold }: { hold: Hold } = $props();
  const waits = $derived(pending(hold));
  const end = $derived(endOf(hold));
  const places = $derived(decimals(end.step));
  const kept = $derived(waits.readings.at(-1));
  const shown = $derived(
    kept
      ? (kept.text ?? written(kept.value ?? 0, places))
      : (end.value?.text ?? (hold.state === 'pumping' ? '0' : '–')),
  );
  const strokes = $derived(hold.strokes + waits.strokes);
  const t = $derived(into(hold));

  // How old the value is, s; while a pump works, how many strokes were made since.
  const last = $derived(
    kept
      ? (new Date(kept.at).getTime() - new Date(hold.started_at).getTime()) / 1000
      : (end.points.findLast((p) => !p.struck)?.t ?? null),
  );
  const age = $derived(last === null ? null : Math.max(0, t - last));
  const since = $derived(
    hold.state !== 'pumping' || kept
      ? 0
      : waits.strokes + hold.events.filter((e) => e.kind === 'stroke' && e.t > (last ?? -1)).length,
  );
  const filmed = $derived(eye.of(hold) && eye.stage === 'reading' && !end.far);
  const next = $derived(end.far || filmed ? null : hold.read_next);
  const due = $derived(hold.state === 'holding' && next !== null && !kept && t > next.t);
  const oldest = 300; // s: an old value where nothing more is wanted
  const faulty = $derived(hold.faults.some((f) => f.gauge === (end.far ? 2 : 1) && f.kind !== 'jumped'));
  const old = $derived(
    faulty ||
      (!end.by_itself &&
        ((hold.state === 'pumping' && since > 0 && last !== null) ||
          (hold.state === 'holding' && age !== null && (next ? due && age > 60 : age > oldest)))),
  );

  const noted = $derived(notedOn(hold.id));
  let late = $state(false); // said only once it takes long
  const writes = $derived(outbox.waitingOn(hold.id).length);
  $effect(() => {
    if (!writes) return;
    const wait = setTimeout(() => (late = true), 2000);
    return () => {
      clearTimeout(wait);
      late = false;
    };
  });
</script>

<div
  class="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-4 {end.far
    ? 'border-l-8 border-slate pl-3'
    : ''}"
  data-hold={hold.state}
  data-call={hold.calls.at(-1)?.call ?? 'none'}
  data-ring={hold.ring}
  data-strokes={hold.strokes}
  data-seq={hold.last_seq}
  data-struck={hold.points.filter((x) => x.struck).length}
  data-over={hold.over_limit}
  data-there={hold.at_target}
  data-old={old}
  data-laid-by={hold.laid_by}
>
  <div class="min-w-0">
    {#if hold.far}<p class="leading-none font-bold {end.far ? 'text-slate' : 'text-brass'}">
        {end.far ? 'Far gauge' : 'Near gauge'}
      </p>{/if}
    <p class="whitespace-nowrap">
      <span
        class="text-[min(3.75rem,17vw)] leading-none font-bold figures sm:text-[min(4.5rem,17vw)] {hold.over_limit
          ? 'text-vermilion'
          : old
            ? 'text-mute'
            : ''}"
        data-value={end.value?.text ?? ''}>{shown}</span
      >
      <span class="text-[min(1.5rem,8vw)] font-bold"
        >{kept?.text && /[^\d.,+−-]/.test(kept.text) ? '' : end.unit}</span
      >
    </p>
    <p class="truncate text-lg text-mute figures">
      {#if hold.state === 'pumping'}of {hold.target_shown.text}
        {hold.target_shown.unit}{#if end.value && !kept}, {end.value.other}{/if}{:else}{kept
          ? ''
          : (end.value?.other ?? 'no reading yet')}{/if}
    </p>
  </div>
  {#if hold.state === 'pumping'}
    <p class="text-right">
      <span class="text-[min(3rem,14vw)] leading-none font-bold figures">{strokes}</span><br /><span
        class="small">{strokes === 1 ? 'stroke' : 'strokes'}</span
      >
    </p>
  {:else}
    <div
      class="flex items-center gap-3 phone:w-[min(6rem,30vw)] phone:flex-col-reverse phone:items-end phone:gap-0"
    >
      <div class="max-w-40 text-right">
        <p class="leading-tight font-bold {ringInk[hold.ring]}">
          {hold.ring === 'nicked' ? 'tight' : ringWords[hold.ring]}
        </p>
        <p class="small"><Since {hold} /></p>
        {#if hold.simulated}<p class="hidden small sm:block">simulated</p>{/if}
      </div>
      <Ring kind={hold.ring} size={64} />
    </div>
  {/if}
  <!-- One line whose height is kept: nothing below it moves when it changes. -->
  <div
    class="col-span-2 flex h-11 items-center gap-2 overflow-hidden leading-tight"
    data-noted={noted ? !noted.undone : ''}
  >
    {#if noted && me.far === end.far}
      <span class="min-w-0 truncate figures"
        >{noted.undone
          ? `${noted.text || 'Last reading'} ignored.`
          : `${noted.text} noted${hold.isolated_s !== null ? ` at ${clock((noted.at - new Date(hold.started_at).getTime()) / 1000 - hold.isolated_s)} in` : ''}.`}</span
      >
      {#if !end.far}
        <button
          class="btn shrink-0 py-0 underline"
          data-undo
          onclick={() => undo(hold.id, noted.text, noted.undone)}
          >{noted.undone ? 'Count it again' : 'Undo'}</button
        >
      {/if}
    {:else if late && writes}
      <span data-kept-here={writes}
        >Kept here until the server answers: {waits.readings.length
          ? waits.readings.map((w) => w.text ?? written(w.value ?? 0, places)).join(', ') + ' ' + end.unit
          : `${writes} ${writes === 1 ? 'entry' : 'entries'}`}</span
      >
    {:else if faulty && hold.value}
      <span class="small">Last believed {clock(age ?? 0)} ago.</span>
    {:else if hold.state === 'pumping' && !end.by_itself}
      <span class="small"
        >{last === null
          ? 'No reading yet: press a mark as the needle crosses it, or type the figure.'
          : since > 0
            ? `Read ${since} ${since === 1 ? 'stroke' : 'strokes'} ago. Read it again.`
            : 'Read after the last stroke.'}</span
      >
    {:else if due && next}
      <span class="font-bold" data-due
        >{age === null || last === null || last < (hold.isolated_s ?? 0)
          ? 'Read the gauge now.'
          : `No reading for ${clock(age)} min: read the gauge now.`}</span
      >
    {:else if next}
      <span class="small" data-next={next.why}
        >{age === null ? '' : `Read ${clock(age)} ago. `}Read again in
        <b class="figures">{clock(next.t - t)}</b>: {next.says}.</span
      >
    {:else if !end.by_itself && hold.state === 'holding' && age !== null}
      <span class="small">Read {clock(age)} ago.</span>
    {/if}
  </div>
</div>
