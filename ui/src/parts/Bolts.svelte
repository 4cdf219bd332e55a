<script lang="ts">
  // The bolts of a plate with the order in which they are turned: from the middle
  // outwards, crosswise, once in each round. Where rows do not tell them they are
  // tapped in where they sit.
  import type { Bolt } from '../lib/api/client';
  import { keys } from '../lib/keys.svelte';
  import KeyButton from './KeyButton.svelte';
  import Main from './Main.svelte';

  let {
    bolts,
    tapped,
    done,
    set,
    place,
    finished,
    locked,
  }: {
    bolts: Bolt[];
    tapped: boolean; // where each sits was told by taps
    done: number; // rounds
    set: (rounds: number) => void;
    place: (places: string) => void; // empty: by rows again
    finished: boolean;
    locked: boolean;
  } = $props();

  // The plate on which bolts are tapped in: x and y from 0 to 100, as they are kept.
  const plate = { w: 100, h: 62 };
  const reach = 4; // a tap this near a bolt is on it
  let tapping = $state(false);
  let places = $state<{ x: number; y: number }[]>([]);
  let cursor = $state({ x: 50, y: 30 }); // for the keyboard
  let focused = $state(false);
  let svg = $state<SVGSVGElement>();

  function begin(): void {
    places = tapped ? bolts.map(({ x, y }) => ({ x, y })) : [];
    tapping = true;
  }

  function toggle(x: number, y: number): void {
    const at = places.findIndex((p) => Math.hypot(p.x - x, p.y - y) < reach);
    if (at >= 0) places.splice(at, 1);
    else places.push({ x: Math.round(x * 10) / 10, y: Math.round(y * 10) / 10 });
  }

  function tap(e: PointerEvent): void {
    const m = svg?.getScreenCTM();
    if (!m) return;
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(m.inverse());
    const inside = (v: number, most: number) => Math.min(most, Math.max(0, v));
    toggle(inside(p.x, plate.w), inside(p.y, plate.h));
  }

  function finish(): void {
    place(places.map((p) => `${p.x} ${p.y}`).join('; '));
    tapping = false;
  }

  // Arrows move a cross over the plate, Enter sets a bolt there or takes it away.
  const step = 2;
  const moves: Record<string, [number, number]> = {
    ArrowLeft: [-step, 0],
    ArrowRight: [step, 0],
    ArrowUp: [0, -step],
    ArrowDown: [0, step],
  };
  function press(e: KeyboardEvent): void {
    const by = moves[e.key];
    if (by)
      cursor = {
        x: Math.min(plate.w, Math.max(0, cursor.x + by[0])),
        y: Math.min(plate.h, Math.max(0, cursor.y + by[1])),
      };
    else if (e.key === 'Enter') toggle(cursor.x, cursor.y);
    else return;
    e.preventDefault();
    e.stopPropagation();
  }
  $effect(() => {
    if (!tapping) return;
    return keys([
      {
        key: 'Escape',
        says: 'Leave the bolts as they were',
        where: 'This stage',
        do: () => (tapping = false),
      },
    ]);
  });

  // Shown, the plate is as large as its bolts want.
  const box = $derived.by(() => {
    const xs = bolts.map((b) => b.x);
    const ys = bolts.map((b) => b.y);
    const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
    const near = Math.min(
      ...bolts.flatMap((a, i) => bolts.slice(i + 1).map((b) => Math.hypot(a.x - b.x, a.y - b.y))),
      Math.max(x1 - x0, y1 - y0, 1),
    );
    return {
      x: x0,
      y: y0,
      scale: 70 / near,
      w: ((x1 - x0) * 70) / near + 90,
      h: ((y1 - y0) * 70) / near + 90,
    };
  });
  // Each bolt by row and place, as one points at it: rows from the top, places from the left.
  const named = $derived.by(() => {
    const rows: Bolt[][] = [];
    for (const b of [...bolts].sort((a, c) => a.y - c.y)) {
      const row = rows.at(-1);
      if (row?.[0] && (b.y - row[0].y) * box.scale < 35) row.push(b);
      else rows.push([b]);
    }
    return rows
      .flatMap((r, i) =>
        r.sort((a, c) => a.x - c.x).map((b, k) => ({ turn: b.turn, row: i + 1, place: k + 1 })),
      )
      .sort((a, c) => a.turn - c.turn);
  });
</script>

{#if tapping}
  <p>Tap each bolt where it sits, as you look at the plate; tap it again to remove it.</p>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <svg
    bind:this={svg}
    viewBox="-3 -3 106 68"
    class="w-full max-w-2xl cursor-crosshair touch-none focus-visible:outline-3 focus-visible:outline-brass"
    role="application"
    aria-label="The plate. Arrows move the cross, Enter sets a bolt: {places.length} set"
    tabindex="0"
    onpointerdown={tap}
    onkeydown={press}
    onfocus={() => (focused = true)}
    onblur={() => (focused = false)}
  >
    <rect
      x="-2"
      y="-2"
      width={plate.w + 4}
      height={plate.h + 4}
      rx="5"
      fill="var(--page)"
      stroke="var(--ink)"
      stroke-width="0.7"
    />
    {#each places as p (p)}
      <circle cx={p.x} cy={p.y} r="3" fill="var(--brass-wash)" stroke="var(--ink)" stroke-width="0.8" />
    {/each}
    {#if focused}
      <path
        d="M{cursor.x - 4} {cursor.y}h8M{cursor.x} {cursor.y - 4}v8"
        stroke="var(--ink)"
        stroke-width="0.5"
      />
    {/if}
  </svg>
  <div class="flex flex-wrap items-center gap-3">
    <button class="btn min-h-14 btn-main px-6 text-lg" disabled={places.length < 2} onclick={finish}
      >{places.length} bolts: number them</button
    >
    {#if places.length}<button class="btn min-h-14" onclick={() => (places = [])}>None</button>{/if}
    <button class="btn min-h-14" onclick={() => (tapping = false)}>As they were</button>
  </div>
{:else}
  <svg
    data-bolts={bolts.length}
    data-done={done}
    viewBox="0 0 {box.w} {box.h}"
    class="max-h-80 w-full"
    role="img"
    aria-label="{bolts.length} bolts from the middle outwards: {named
      .map((b) => `${b.turn}: row ${b.row}, place ${b.place}`)
      .join('; ')}"
  >
    <rect
      x="4"
      y="4"
      width={box.w - 8}
      height={box.h - 8}
      rx="16"
      fill="var(--page)"
      stroke="var(--ink)"
      stroke-width="2"
    />
    {#each bolts as b (b.turn)}
      {@const x = (b.x - box.x) * box.scale + 45}
      {@const y = (b.y - box.y) * box.scale + 45}
      <circle
        cx={x}
        cy={y}
        r="25"
        fill={finished ? 'var(--teal-wash)' : b.turn === 1 ? 'var(--brass-wash)' : 'none'}
        stroke={finished ? 'var(--teal)' : 'var(--ink)'}
        stroke-width="3"
      />
      <text
        {x}
        y={y + 8}
        text-anchor="middle"
        font-size="22"
        font-weight="700"
        class="figures"
        fill="var(--ink)">{b.turn}</text
      >
    {/each}
  </svg>
  {#if !locked}
    <div class="flex flex-wrap gap-3">
      {#if !finished}
        <Main key=" " says="This round is done" act={() => set(done + 1)}>Round done</Main>
      {/if}
      {#if done > 0}
        <KeyButton key="x" says="Take the last round back" act={() => set(done - 1)} class="min-h-14"
          >Take back</KeyButton
        >
      {/if}
      <KeyButton key="b" says="Tap the bolts in where they sit" act={begin} class="min-h-14"
        >Tap them in</KeyButton
      >
      {#if tapped}<button class="btn min-h-14" onclick={() => place('')}>By rows again</button>{/if}
    </div>
  {/if}
{/if}
