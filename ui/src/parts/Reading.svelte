<script lang="ts">
  // The row in which a reading is stepped or typed, and the marks at which it is pressed.
  import type { Hold } from '../lib/api/client';
  import { reading, undo } from '../lib/job';
  import { keys } from '../lib/keys.svelte';
  import { decimals, written, type Mark } from '../lib/marks';
  import type { Kept, endOf } from '../lib/pending';

  let {
    hold,
    end,
    marks,
    likely,
    kept,
    at: stood,
    cross,
  }: {
    hold: Hold;
    end: ReturnType<typeof endOf>;
    marks: Mark[];
    likely: Mark | undefined;
    kept: Kept[];
    at: number | undefined;
    cross: (m: Mark) => void;
  } = $props();

  const ring = $derived(end.gauge.rings[end.gauge.read]!);
  const places = $derived(decimals(end.step));
  const start = $derived(
    stood ?? (end.value?.pa ?? (hold.state === 'pumping' ? 0 : hold.target.pa)) / end.unit_pa,
  );
  let moved = $state(0); // in steps, from where the needle was last seen
  let typed = $state('');
  const at = $derived(
    Math.min(
      ring.to,
      Math.max(ring.from, Number(((Math.round(start / end.step) + moved) * end.step).toFixed(6))),
    ),
  );
  // The nearest others: as many as one row takes.
  const others = $derived(
    hold.state === 'pumping'
      ? marks.slice(0, 4)
      : ([
          marks.find((m) => m.target),
          marks.find((m) => m.up),
          marks.find((m) => m.half && !m.up),
          marks.find((m) => !m.up && !m.half),
        ]
          .filter((m, i, all) => m !== undefined && m !== likely && all.indexOf(m) === i)
          .slice(0, 3)
          .sort((a, b) => b!.pa - a!.pa) as Mark[]),
  );

  // Kept down it goes on, and after some steps in whole divisions.
  const fine = 4;
  let went = 0;
  function step(way: 1 | -1, again: boolean): void {
    went = again ? went + 1 : 0;
    typed = '';
    if (went < fine) {
      moved += way;
      return;
    }
    const division = Math.round(ring.division / end.step);
    const now = Math.round(start / end.step) + moved;
    moved += (way > 0 ? Math.floor(now / division) + 1 : Math.ceil(now / division) - 1) * division - now;
  }
  let timer: ReturnType<typeof setTimeout> | undefined;
  function keep(way: 1 | -1): void {
    step(way, false);
    clearTimeout(timer);
    const on = (wait: number): void => {
      timer = setTimeout(() => {
        step(way, true);
        on(90);
      }, wait);
    };
    on(400);
  }
  $effect(() => () => clearTimeout(timer));

  let field: HTMLInputElement;
  function take(): void {
    const says = typed.trim() || written(at, places);
    reading(
      hold.id,
      {
        ...(typed.trim() ? { text: typed.trim() } : { value: at }),
        how: 'read',
        ...(end.far ? { gauge: 2 } : {}),
      },
      says,
    );
    typed = '';
    moved = 0;
    field.blur();
  }

  const lastOwn = $derived(hold.points.findLast((p) => !p.struck));
  const undoable = $derived(!end.far && (lastOwn !== undefined || kept.length > 0));

  $effect(() =>
    keys([
      { key: 'ArrowUp', says: 'Figure up', where: 'Reading', do: (again) => step(1, again), repeats: true },
      {
        key: 'ArrowDown',
        says: 'Figure down',
        where: 'Reading',
        do: (again) => step(-1, again),
        repeats: true,
      },
      { key: 'r', says: 'The needle stands at the figure', where: 'Reading', do: take },
      { key: 'g', says: 'Type what the gauge shows', where: 'Reading', do: () => field.focus() },
      {
        key: 'm',
        says: 'The needle crosses the next mark',
        where: 'Reading',
        do: () => likely && cross(likely),
        when: () => likely !== undefined,
      },
      {
        key: 'Backspace',
        says: 'Undo last reading',
        where: 'Reading',
        do: () => undo(hold.id, ''),
        when: () => undoable,
      },
    ]),
  );
</script>

{#if others.length}
  <div
    class="flex gap-2"
    role="group"
    aria-label="The needle crosses a mark, {end.unit}: press at that moment"
  >
    {#each others as m (m.value)}
      <button
        class="btn h-[48px] min-w-0 grow basis-0 px-1 py-0 figures {m === likely
          ? 'border-2 border-ink font-bold'
          : ''} {m.half ? 'text-mute' : ''}"
        data-mark={m.value}
        onclick={() => cross(m)}
        ><span class="leading-none"
          >{m.text}<span class="block text-[11px] leading-tight font-normal text-mute"
            >{m.target
              ? 'target'
              : m.half
                ? 'half-way'
                : m.up && hold.state === 'holding'
                  ? 'above'
                  : 'crosses'}</span
          ></span
        ></button
      >
    {/each}
  </div>
{/if}
<form
  class="flex gap-2"
  data-row="reading"
  autocomplete="off"
  onsubmit={(e) => {
    e.preventDefault();
    take();
  }}
>
  {#snippet nudge(way: 1 | -1, label: string, sign: string)}
    <button
      type="button"
      class="btn w-[52px] shrink-0 touch-none px-0 text-2xl select-none"
      aria-label={label}
      onpointerdown={() => keep(way)}
      onpointerup={() => clearTimeout(timer)}
      onpointerleave={() => clearTimeout(timer)}
      onpointercancel={() => clearTimeout(timer)}
      oncontextmenu={(e) => e.preventDefault()}
      onclick={(e) => {
        if (e.detail === 0) step(way, false);
      }}>{sign}</button
    >
  {/snippet}
  {@render nudge(-1, 'Figure down', '−')}
  <label class="relative min-w-0 grow basis-24">
    <span class="sr-only">The gauge stands at, {end.unit}</span>
    <input
      bind:this={field}
      id="figure"
      class="field px-1 text-center text-xl font-bold figures md:pr-10 low:px-1"
      inputmode="decimal"
      enterkeyhint="done"
      maxlength="20"
      value={typed || written(at, places)}
      oninput={(e) => (typed = e.currentTarget.value)}
      onfocus={(e) => e.currentTarget.select()}
      onblur={(e) => {
        if (!typed.trim()) e.currentTarget.value = written(at, places);
      }}
      onkeydown={(e) => {
        if (e.key === 'Escape') {
          typed = '';
          field.blur();
        }
      }}
    />
    <span
      class="pointer-events-none absolute inset-y-0 right-2 hidden items-center small md:flex low:hidden"
      aria-hidden="true">{typed && /[^\d.,+−-]/.test(typed) ? '' : end.unit}</span
    >
  </label>
  {@render nudge(1, 'Figure up', '+')}
  <button class="btn min-w-0 shrink-0 px-3 font-bold">Stands at <span class="key text-mute">R</span></button>
</form>
