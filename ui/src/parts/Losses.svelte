<script lang="ts">
  // What holds lost over the years, each with its range. Holds of one test are joined; the shape
  // says which test it is.
  import { max } from 'd3-array';
  import { scaleLinear, scaleTime } from 'd3-scale';
  import type { MachinePage } from '../lib/api/client';
  import { day, figure, ringWords } from '../lib/show';

  let { losses, height = 220 }: { losses: MachinePage['losses']; height?: number } = $props();
  let width = $state(320);
  const [left, right, top, foot] = [56, 48, 26, 28];
  const series = $derived([...new Set(losses.map((l) => l.series))]);
  const titles = $derived(series.map((s) => losses.find((l) => l.series === s)?.title ?? ''));
  const times = $derived(losses.map((l) => new Date(l.at).getTime()));
  const dayMs = 86_400_000;
  const x = $derived(
    scaleTime([Math.min(...times) - dayMs, Math.max(...times) + dayMs], [left, width - right]),
  );
  const y = $derived(scaleLinear([0, (max(losses, (l) => l.high) ?? 1) * 1.08], [height - foot, top]));
  const mark = (n: number, cx: number, cy: number): string =>
    [
      `M${cx - 5} ${cy}a5 5 0 1 0 10 0a5 5 0 1 0 -10 0`,
      `M${cx - 5} ${cy - 5}h10v10h-10z`,
      `M${cx} ${cy - 6}l6 11h-12z`,
      `M${cx} ${cy - 6}l6 6l-6 6l-6 -6z`,
    ][n % 4] ?? '';
</script>

<div bind:clientWidth={width} class="w-full min-w-0 pt-2" data-losses={losses.length}>
  <svg {width} {height} role="img" aria-label="Loss of each hold over time, kPa a minute" class="block">
    {#each y.ticks(4) as v (v)}
      <line x1={left} x2={width - right} y1={y(v)} y2={y(v)} stroke="var(--rule)" />
      <text x={left - 7} y={y(v) + 4} text-anchor="end" class="figures" font-size="13" fill="var(--ink)"
        >{y.tickFormat(4)(v)}</text
      >
    {/each}
    <text x="2" y="14" font-size="13" fill="var(--ink)">kPa/min</text>
    {#each x.ticks(Math.max(2, Math.floor(width / 160))) as t (t.getTime())}
      <text x={x(t)} y={height - 8} text-anchor="middle" font-size="13" fill="var(--mute)"
        >{day(t.toISOString())}</text
      >
    {/each}
    {#each losses as l (l.job_id + l.at)}
      {@const at = x(new Date(l.at))}
      <line
        x1={at}
        x2={at}
        y1={y(Math.max(0, l.low))}
        y2={y(Math.max(0, l.high))}
        stroke="var(--ink)"
        stroke-width="1.5"
      />
      <path
        d={mark(series.indexOf(l.series), at, y(Math.max(0, l.value)))}
        fill={l.ring === 'cut' ? 'var(--vermilion)' : 'var(--page)'}
        stroke={l.ring === 'cut' ? 'var(--vermilion)' : 'var(--teal)'}
        stroke-width="2"
        ><title>{day(l.at)}: {figure(Math.max(0, l.value))} kPa/min, {ringWords[l.ring]}</title></path
      >
    {/each}
  </svg>
  <p class="flex flex-wrap gap-x-6 small">
    {#each titles as t, i (t + i)}
      <span class="flex items-center gap-2"
        ><svg width="16" height="16" aria-hidden="true"
          ><path d={mark(i, 8, 8)} fill="none" stroke="var(--ink)" stroke-width="2" /></svg
        >{t}</span
      >
    {/each}
    <span>Filled: leaking.</span>
  </p>
</div>
