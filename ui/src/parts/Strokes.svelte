<script lang="ts">
  // Pressure against strokes: the dots form the line that tells the trapped air.
  import { scaleLinear } from 'd3-scale';
  import type { Hold } from '../lib/api/client';

  let { hold, height = 200 }: { hold: Hold; height?: number } = $props();
  let width = $state(320);
  const points = $derived((hold.air?.points ?? []).map((p) => ({ n: p[0]!, v: p[1]! / hold.unit_pa })));
  const target = $derived(hold.target.pa / hold.unit_pa);
  const limit = $derived(hold.limit_shown.pa / hold.unit_pa);
  const x = $derived(scaleLinear([0, Math.max(20, ...points.map((p) => p.n + 3))], [50, width - 12]));
  // Under vacuum it is drawn deeper upwards, as the strokes work.
  const sign = $derived(hold.draws ? -1 : 1);
  const far = $derived(
    scaleLinear(
      [0, Math.max(sign * limit * 1.12, ...points.map((p) => sign * p.v * 1.05))],
      [height - 26, 6],
    ),
  );
  const y = $derived((v: number) => far(sign * v));
  const ceiling = $derived(far.range()[1]!);
</script>

<div bind:clientWidth={width}>
  <svg {width} {height} role="img" aria-label="Pressure against strokes. {hold.air?.says ?? ''}">
    <rect
      x="50"
      y={ceiling}
      width={Math.max(0, width - 62)}
      height={Math.max(0, y(limit) - ceiling)}
      fill="var(--vermilion-wash)"
    />
    <line x1="50" x2={width - 12} y1={y(limit)} y2={y(limit)} stroke="var(--vermilion)" stroke-width="3" />
    <text x={width - 16} y={y(limit) - 5} text-anchor="end" font-size="12" fill="var(--vermilion)"
      >limit {hold.limit_shown.text} {hold.unit}</text
    >
    {#each far.ticks(4).map((v) => sign * v) as v (v)}
      <text x="44" y={y(v) + 4} text-anchor="end" font-size="12" class="figures" fill="var(--ink)">{v}</text>
      <line x1="50" x2="54" y1={y(v)} y2={y(v)} stroke="var(--ink)" />
    {/each}
    <line
      x1="50"
      x2={width - 12}
      y1={y(target)}
      y2={y(target)}
      stroke="var(--brass)"
      stroke-width="1.5"
      stroke-dasharray="6 4"
    />
    <text x="58" y={y(target) + 15} font-size="12" fill="var(--brass)"
      >target {hold.target_shown.text} {hold.unit}</text
    >
    <line x1="50" x2={width - 12} y1={y(0)} y2={y(0)} stroke="var(--ink)" />
    <line x1="50" x2="50" y1={y(0)} y2={ceiling} stroke="var(--ink)" />
    {#each x.ticks(6).filter((n) => x(n) < width - 84) as n (n)}<text
        x={x(n)}
        y={height - 8}
        text-anchor="middle"
        font-size="12"
        class="figures"
        fill="var(--mute)">{n}</text
      >{/each}
    <text x={width - 12} y={height - 8} text-anchor="end" font-size="12" fill="var(--mute)">strokes</text>
    <text x="4" y={height - 8} font-size="12" fill="var(--ink)" class="figures">{hold.unit}</text>
    {#each points as p (p.n)}<circle cx={x(p.n)} cy={y(p.v)} r="3.5" fill="var(--brass)" />{/each}
  </svg>
</div>
