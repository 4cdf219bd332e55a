<script lang="ts">
  // Two traces from a common start, each as its own fall, so that their slopes can
  // be seen beside each other.
  import { extent, max } from 'd3-array';
  import { scaleLinear } from 'd3-scale';
  import { line } from 'd3-shape';
  import type { Hold } from '../lib/api/client';
  import { clock } from '../lib/show';
  import { marks } from '../lib/timeaxis';

  let { first, second, height = 300 }: { first: Hold; second: Hold; height?: number } = $props();
  let width = $state(320);
  const left = 56;
  const right = 12;
  const foot = 30;

  interface At {
    t: number;
    v: number;
  }
  function fall(h: Hold): At[] {
    const from = h.isolated_s ?? 0;
    const end = h.ended_s ?? Infinity;
    const held = h.points.filter((p) => !p.struck && p.t >= from - 0.01 && p.t <= end);
    const start = held[0]?.pa ?? 0;
    return held.map((p) => ({ t: p.t - from, v: (p.pa - start) / first.unit_pa }));
  }
  const a = $derived(fall(first));
  const b = $derived(fall(second));
  const reach = $derived(max([a.at(-1)?.t ?? 0, b.at(-1)?.t ?? 0, 30]) ?? 30);
  const spread = $derived(extent([...a, ...b], (p) => p.v) as [number, number]);
  const room = $derived(Math.max((spread[1] ?? 0) - (spread[0] ?? 0), 2 * first.step) * 0.08);
  const x = $derived(scaleLinear([0, reach], [left, width - right]));
  const y = $derived(scaleLinear([(spread[0] ?? 0) - room, (spread[1] ?? 0) + room], [height - foot, 28]));
  const path = line<At>(
    (p) => x(p.t),
    (p) => y(p.v),
  );
  const times = $derived(marks(reach, Math.min(8, width / 80)));
</script>

<div bind:clientWidth={width} class="w-full min-w-0">
  <svg
    {width}
    {height}
    role="img"
    aria-label="The fall of both holds from the moment each was shut"
    class="block"
  >
    {#each y.ticks(5) as v (v)}
      <line x1={left} x2={width - right} y1={y(v)} y2={y(v)} stroke="var(--rule)" />
      <text x={left - 7} y={y(v) + 4} text-anchor="end" class="figures" font-size="12" fill="var(--ink)"
        >{y.tickFormat(5)(v)}</text
      >
    {/each}
    {#each times as t (t)}
      <line x1={x(t)} x2={x(t)} y1={height - foot} y2={height - foot + 4} stroke="var(--edge)" />
      <text
        x={x(t)}
        y={height - foot + 17}
        text-anchor="middle"
        class="figures"
        font-size="12"
        fill="var(--mute)">{clock(t)}</text
      >
    {/each}
    <line x1={left} x2={width - right} y1={height - foot} y2={height - foot} stroke="var(--ink)" />
    <text x="2" y="14" font-size="12" fill="var(--ink)">change, {first.unit}</text>
    {#each [{ dots: a, ink: 'var(--ink)', dash: undefined, needle: first.gauge.kind === 'needle' }, { dots: b, ink: 'var(--brass)', dash: '7 4', needle: second.gauge.kind === 'needle' }] as t, i (i)}
      <path d={path(t.dots)} fill="none" stroke={t.ink} stroke-width="2.5" stroke-dasharray={t.dash} />
      {#if t.needle}
        {#each t.dots as p, k (k)}<circle cx={x(p.t)} cy={y(p.v)} r="3.5" fill={t.ink} />{/each}
      {/if}
    {/each}
  </svg>
</div>
