<script lang="ts">
  // How a person gives readings: the crossing pad, for the moment the needle passes
  // a printed mark, and the stepper, for where it stands. The last press can be undone.
  import type { Hold } from '../lib/api/client';
  import { keys } from '../lib/keys.svelte';
  import { reading, undo } from '../lib/job';
  import { decimals, marksFrom } from '../lib/marks';
  import { outbox } from '../lib/outbox.svelte';

  let { hold, far = false }: { hold: Hold; far?: boolean } = $props();
  // The gauge at this end: the hold's own, or the one at the other end.
  const end = $derived(
    (far && hold.far) || {
      gauge: hold.gauge,
      marks: hold.marks,
      step: hold.step,
      value: hold.value,
      unit: hold.unit,
      unit_pa: hold.unit_pa,
    },
  );
  const ring = $derived(end.gauge.rings[end.gauge.read]!);
  // What was pressed here and is not acknowledged yet counts: the needle has gone on with it.
  type Kept = { value: number; how: 'read' | 'mark'; gauge?: number };
  const kept = $derived.by(() => {
    const out: Kept[] = [];
    for (const { path, body } of outbox.waitingOn(hold.id)) {
      if (path === '/api/holds/{id}/readings') out.push(body as Kept);
      if (path === '/api/holds/{id}/undo') out.pop();
    }
    return out.filter((w) => (w.gauge === 2) === (far && hold.far !== null));
  });
  let late = $state(false); // said only once it takes long
  $effect(() => {
    if (!kept.length) return;
    const wait = setTimeout(() => (late = true), 2000);
    return () => {
      clearTimeout(wait);
      late = false;
    };
  });
  const ahead = $derived(kept.at(-1));
  const marks = $derived(
    (ahead && hold.state === 'holding'
      ? marksFrom(ahead.value, ring, end.unit_pa, hold.draws)
      : [...end.marks]
    ).sort((a, b) => b.pa - a.pa),
  );
  const likely = $derived(marks.find((m) => m.likely));
  const start = $derived(
    ahead?.value ?? (end.value?.pa ?? (hold.state === 'pumping' ? 0 : hold.target.pa)) / end.unit_pa,
  );
  let moved = $state(0); // steps from where the needle was last seen
  const at = $derived.by(() => {
    const v = (Math.round(start / end.step) + moved) * end.step;
    return Math.min(ring.to, Math.max(ring.from, Number(v.toFixed(6))));
  });
  const places = $derived(decimals(end.step));
  const lastOwn = $derived(hold.points.findLast((p) => !p.struck));

  function take(): void {
    reading(hold.id, at, 'read', far);
    moved = 0;
    twice = undefined;
  }
  // A needle crosses a mark once on its way: pressed again, it is asked about.
  let twice = $state<number>();
  const crossed = $derived.by(() => {
    if (ahead) return ahead.how === 'mark' ? ahead.value : undefined;
    const points = far && hold.far ? hold.far.points : hold.points;
    const last = points.findLast((p) => !p.struck);
    return last?.how === 'mark' ? last.pa / end.unit_pa : undefined;
  });
  function cross(value: number, sure = false): void {
    if (!sure && crossed !== undefined && Math.abs(value - crossed) < end.step / 100) {
      twice = value;
      return;
    }
    twice = undefined;
    reading(hold.id, value, 'mark', far);
    moved = 0;
  }

  $effect(() =>
    keys([
      { key: 'ArrowUp', says: 'Stepper up', where: 'Reading', do: () => (moved += 1) },
      { key: 'ArrowDown', says: 'Stepper down', where: 'Reading', do: () => (moved -= 1) },
      { key: 'r', says: 'The needle stands where the stepper says', where: 'Reading', do: take },
      {
        key: 'm',
        says: 'The needle crosses the likely next mark',
        where: 'Reading',
        do: () => likely && cross(likely.value),
        when: () => likely !== undefined,
      },
      {
        key: 'Backspace',
        says: 'Undo last reading',
        where: 'Reading',
        do: () => undo(hold.id),
        when: () => (lastOwn !== undefined || kept.length > 0) && !far,
      },
    ]),
  );
  $effect(() =>
    hold.state === 'holding'
      ? keys([
          {
            key: ' ',
            says: 'The needle crosses the likely next mark',
            where: 'Reading',
            do: () => likely && cross(likely.value),
            when: () => likely !== undefined && !hold.over_limit,
          },
        ])
      : undefined,
  );
</script>

<section class="grid gap-3 sm:grid-cols-2" aria-label="Readings">
  <div>
    <p class="small">The needle crosses a mark, {end.unit}: press at that moment</p>
    {#if twice !== undefined}
      <div class="my-1 border-l-4 border-brass pl-2" role="alert" data-twice={twice}>
        <p>{twice.toFixed(places)} is noted already. Has the needle gone back and crossed it again?</p>
        <div class="mt-1 flex flex-wrap gap-2">
          <button class="btn" onclick={() => (twice = undefined)}>No</button>
          <button class="btn" onclick={() => twice !== undefined && cross(twice, true)}>Note it again</button>
        </div>
      </div>
    {/if}
    {#if kept.length && late}
      <p class="small" data-kept-here={kept.length}>
        Kept here until the server answers: {kept.map((w) => w.value.toFixed(places)).join(', ')}
        {end.unit}
      </p>
    {/if}
    <div class="mt-1 flex flex-col gap-1">
      {#each marks as m (m.value)}
        {@const big = m === likely}
        <button
          class="btn justify-between figures {big
            ? 'min-h-14 btn-main text-2xl'
            : m.half
              ? 'min-h-9 py-0 text-mute'
              : ''}"
          onclick={() => cross(m.value)}
        >
          <span>{m.text}</span>
          <span class="font-sans text-sm font-normal">{m.half ? 'half-way' : m.up ? 'above' : ''}</span>
          {#if big}<span class="key opacity-80">{hold.state === 'holding' ? 'Space' : 'M'}</span>{/if}
        </button>
      {/each}
    </div>
  </div>
  <div class="flex flex-col">
    <p class="small">Or where it stands now, in quarters of a division</p>
    <div class="mt-1 grid grid-cols-[56px_1fr_56px] gap-1">
      <button class="btn text-2xl" aria-label="Stepper down" onclick={() => (moved -= 1)}>−</button>
      <output
        class="flex min-h-14 items-center justify-center rounded border border-rule text-2xl font-bold figures"
        >{at.toFixed(places)}</output
      >
      <button class="btn text-2xl" aria-label="Stepper up" onclick={() => (moved += 1)}>+</button>
    </div>
    <button class="mt-1 btn min-h-12" onclick={take}
      >It stands at {at.toFixed(places)} {end.unit} <span class="key text-mute">R</span></button
    >
    {#if !far}
      <button class="mt-auto btn" disabled={!lastOwn && !kept.length} onclick={() => undo(hold.id)}
        >Undo last reading <span class="key text-mute">Back</span></button
      >
    {/if}
  </div>
</section>
