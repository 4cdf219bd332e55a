<script lang="ts">
  // The picture of the product: the trace, and the two lines that close on it. Where
  // it leaves, it is called.
  import { scaleLinear } from 'd3-scale';
  import { area, line } from 'd3-shape';
  import type { Hold } from '../lib/api/client';
  import { extremes } from '../lib/extremes';
  import { drawing, runs, type Dot, type Edge } from '../lib/forkchart';
  import { whole } from '../lib/live.svelte';
  import { clock } from '../lib/show';
  import { marks } from '../lib/timeaxis';

  let { hold, height = 260, small = false }: { hold: Hold; height?: number; small?: boolean } = $props();
  const id = $props.id();
  let width = $state(320);
  let listed = $state(false); // the table is open

  $effect(() => whole(hold));
  const d = $derived(drawing(hold));
  const far = $derived(d.far);
  const left = $derived(small ? 4 : 56);
  const right = $derived(small ? 4 : 58);
  const foot = $derived(small ? 4 : 30);
  const x = $derived(scaleLinear(d.x, [left, width - right]));
  const y = $derived(scaleLinear(d.y, [height - foot, 8]));

  // The other unit, for the right-hand figures.
  const other = $derived(
    hold.unit !== 'kPa'
      ? { symbol: 'kPa', pa: 1000 }
      : hold.draws
        ? { symbol: 'inHg', pa: 3386.389 }
        : { symbol: 'psi', pa: 6894.757293168361 },
  );
  const yOther = $derived(
    scaleLinear([(d.y[0] * hold.unit_pa) / other.pa, (d.y[1] * hold.unit_pa) / other.pa], y.range()),
  );
  const times = $derived(marks(d.x[1], Math.min(7, (width - left - right) / 62)));

  const trace = line<Dot>(
    (p) => x(p.t),
    (p) => y(p.v),
  );
  const broken = $derived.by(() => {
    // The line breaks at a gap: nothing is known there. A small one is drawn from
    // fewer points.
    const all = d.dots.filter((p) => !p.struck);
    const standing = small ? extremes(all, 150, (p) => p.v) : all;
    const parts: Dot[][] = [[]];
    for (const p of standing) {
      const was = parts.at(-1)!.at(-1);
      if (was && d.gaps.some((g) => g.from < p.t && g.to > was.t)) parts.push([]);
      parts.at(-1)!.push(p);
    }
    return parts;
  });
  const edge = (side: 'above' | 'below') =>
    line<Edge>(
      (f) => x(f.t),
      (f) => y(f[side]!),
    ).defined((f) => f[side] !== null);
  const tightWash = $derived(
    area<Edge>(
      (f) => x(f.t),
      0,
      (f) => y(f.above!),
    ),
  );
  const leakWash = $derived(
    area<Edge>(
      (f) => x(f.t),
      height - foot,
      (f) => y(f.below!),
    ),
  );
  const tightRuns = $derived(runs(d.ahead, (f) => f.above !== null));
  const leakRuns = $derived(runs(d.ahead, (f) => f.below !== null));
  const needle = $derived(hold.gauge.kind === 'needle');
  const half = $derived(hold.step); // a reading's quarter division either side
</script>

<div bind:clientWidth={width} class="w-full min-w-0">
  <svg {width} {height} role="img" aria-label="Pressure against time. {hold.sentence}" class="block">
    <defs>
      <clipPath id="in{id}"
        ><rect x={left} y="0" width={Math.max(0, width - left - right)} height={height - foot} /></clipPath
      >
      <pattern id="gap{id}" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1="0" y1="0" x2="0" y2="8" stroke="var(--edge)" stroke-width="2" />
      </pattern>
    </defs>

    {#if !small}
      {#each y.ticks(5) as v (v)}
        <line x1={left} x2={width - right} y1={y(v)} y2={y(v)} stroke="var(--rule)" />
        <text x={left - 7} y={y(v) + 4} text-anchor="end" class="figures" font-size="12" fill="var(--ink)"
          >{y.tickFormat(5)(d.sign * v)}</text
        >
      {/each}
      {#each yOther.ticks(4) as v (v)}
        <line x1={width - right} x2={width - right + 4} y1={yOther(v)} y2={yOther(v)} stroke="var(--edge)" />
        <text x={width - right + 7} y={yOther(v) + 4} class="figures" font-size="12" fill="var(--mute)"
          >{yOther.tickFormat(4)(d.sign * v)}</text
        >
      {/each}
      {#each times as t (t)}
        <line x1={x(t)} x2={x(t)} y1={height - foot} y2={height - foot + 4} stroke="var(--edge)" />
        {#if x(t) < width - right - 46}
          <text
            x={x(t)}
            y={height - foot + 17}
            text-anchor="middle"
            class="figures"
            font-size="12"
            fill="var(--mute)">{clock(t)}</text
          >
        {/if}
      {/each}
      <text x="2" y={height - 4} font-size="12" fill="var(--ink)" class="figures">{hold.unit}</text>
      <text x={width - 2} y={height - 4} text-anchor="end" font-size="12" fill="var(--mute)" class="figures"
        >{other.symbol}</text
      >
    {/if}
    <line x1={left} x2={width - right} y1={height - foot} y2={height - foot} stroke="var(--ink)" />

    <g clip-path="url(#in{id})">
      {#each tightRuns as run, i (i)}
        <path d={tightWash(run)} fill="var(--teal-wash)" />
        <path d={edge('above')(run)} fill="none" stroke="var(--teal)" stroke-width="2.5" />
      {/each}
      {#each leakRuns as run, i (i)}
        <path d={leakWash(run)} fill="var(--vermilion-wash)" />
        <path
          d={edge('below')(run)}
          fill="none"
          stroke="var(--vermilion)"
          stroke-width="2.5"
          stroke-dasharray="7 4"
        />
      {/each}
      {#if !small && !needle}
        <path d={edge('above')(d.past)} fill="none" stroke="var(--teal)" stroke-width="1" opacity="0.7" />
        <path
          d={edge('below')(d.past)}
          fill="none"
          stroke="var(--vermilion)"
          stroke-width="1"
          stroke-dasharray="3 3"
          opacity="0.7"
        />
        {#if d.ahead.length}
          <line
            x1={x(d.now)}
            x2={x(d.now)}
            y1="0"
            y2={height - foot}
            stroke="var(--edge)"
            stroke-dasharray="2 4"
          />
        {/if}
      {/if}
      {#each d.gaps as g (g.from)}
        <rect
          x={x(g.from)}
          y="0"
          width={Math.max(2, x(g.to) - x(g.from))}
          height={height - foot}
          fill="url(#gap{id})"
          opacity="0.45"
        />
        {#if !small && x(g.to) - x(g.from) > 60}
          <text x={(x(g.from) + x(g.to)) / 2} y="20" text-anchor="middle" font-size="12" fill="var(--ink)"
            >no readings</text
          >
        {/if}
      {/each}
      {#if d.called !== null && !small}
        <line
          x1={x(d.called)}
          x2={x(d.called)}
          y1="0"
          y2={height - foot}
          stroke="var(--ink)"
          stroke-width="1.5"
        />
        <text
          x={x(d.called) + (x(d.called) > width - right - 170 ? -5 : 5)}
          text-anchor={x(d.called) > width - right - 170 ? 'end' : 'start'}
          y="16"
          font-size="12"
          fill="var(--ink)">called {clock(d.called)}</text
        >
      {/if}
      {#each d.events as e (e.t)}
        <line
          x1={x(e.t)}
          x2={x(e.t)}
          y1={height - foot - 12}
          y2={height - foot}
          stroke="var(--brass)"
          stroke-width="2"
        />
        {#if !small}<text x={x(e.t) + 4} y={height - foot - 4} font-size="12" fill="var(--brass)"
            >{e.kind}</text
          >{/if}
      {/each}
      {#if far.length}
        <path d={trace(far)} fill="none" stroke="var(--slate)" stroke-width="1.5" stroke-dasharray="5 3" />
        {#if !small}<text
            x={x(far.at(-1)!.t) - 4}
            y={y(far.at(-1)!.v) - 6}
            text-anchor="end"
            font-size="12"
            fill="var(--slate)">far gauge</text
          >{/if}
      {/if}
      {#each broken as part, i (i)}
        <path
          d={trace(part)}
          fill="none"
          stroke={needle ? 'var(--edge)' : 'var(--ink)'}
          stroke-width={needle ? 1 : small ? 1.6 : 2}
          stroke-dasharray={needle ? '3 3' : undefined}
          stroke-linejoin="round"
        />
      {/each}
      {#if needle}
        {#each d.dots as p, i (i)}
          {#if p.mark}
            <path
              d="M{x(p.t) - 6} {y(p.v)} h12 M{x(p.t)} {y(p.v) - 4} v8"
              stroke="var(--brass)"
              stroke-width="2.5"
              fill="none"
            />
          {:else}
            <path
              d="M{x(p.t)} {y(p.v - half)} V{y(p.v + half)} M{x(p.t) - 4} {y(p.v)} h8"
              stroke="var(--ink)"
              stroke-width="2"
              fill="none"
            />
          {/if}
          {#if p.struck}
            <path
              d="M{x(p.t) - 7} {y(p.v) - 7} l14 14 m0 -14 l-14 14"
              stroke="var(--vermilion)"
              stroke-width="1.5"
            />
          {/if}
        {/each}
      {:else if d.dots.length}
        {@const last = d.dots.at(-1)!}
        <circle
          cx={x(last.t)}
          cy={y(last.v)}
          r={small ? 3 : 4.5}
          fill="var(--brass)"
          stroke="var(--page)"
          stroke-width="1.5"
        />
      {/if}
    </g>
    {#if !small}
      {#if tightRuns.length}
        <text
          x={width - right - 8}
          y="22"
          text-anchor="end"
          font-size="14"
          font-weight="700"
          fill="var(--teal)">tight</text
        >
      {/if}
      {#if leakRuns.length}
        <text
          x={width - right - 8}
          y={height - foot - 10}
          text-anchor="end"
          font-size="14"
          font-weight="700"
          fill="var(--vermilion)">leaking</text
        >
      {/if}
    {/if}
  </svg>
</div>
{#if !small && d.dots.length}
  <details bind:open={listed}>
    <summary class="flex min-h-11 items-center small">The readings as a table</summary>
    {#if listed}
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <div class="max-h-64 overflow-y-auto" role="region" aria-label="Readings" tabindex="0">
        <table class="w-full max-w-sm text-left figures" data-readings={d.dots.length}>
          <thead
            ><tr class="border-b border-ink"
              ><th scope="col">Time in</th><th scope="col">{hold.unit}</th><th scope="col"
                ><span class="sr-only">How it was read</span></th
              ></tr
            ></thead
          >
          <tbody>
            {#each d.dots as p, i (i)}
              <tr class="border-b border-rule">
                <td>{clock(p.t)}</td>
                <td>{Number(p.v.toPrecision(5))}</td>
                <td class="small">{p.struck ? 'ignored' : p.mark ? 'crossed' : ''}</td>
              </tr>
            {/each}
          </tbody>
        </table>
      </div>
    {/if}
  </details>
{/if}
