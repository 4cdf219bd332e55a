<script lang="ts">
  // What the best curve leaves of the readings, in units of their own error.
  import { scaleLinear } from 'd3-scale';
  import type { FitPoint } from '../lib/api/client';
  import { clock } from '../lib/show';

  let { fit, from }: { fit: FitPoint[]; from: number } = $props();
  let width = $state(320);
  const height = 120;
  const most = 4;
  const dots = $derived(
    fit.map((p) => ({
      t: p.t - from,
      z: Math.max(-most, Math.min(most, p.sigma_kpa > 0 ? p.miss_kpa / p.sigma_kpa : 0)),
    })),
  );
  const end = $derived(Math.max(dots.at(-1)?.t ?? 0, 1));
  const x = $derived(scaleLinear([0, end], [30, width - 10]));
  const y = scaleLinear([-most, most], [height - 22, 6]);
</script>

<div bind:clientWidth={width} class="w-full min-w-0">
  <svg
    {width}
    {height}
    role="img"
    aria-label="Readings less the best curve, in standard errors"
    class="block"
  >
    <rect
      x="30"
      y={y(2)}
      width={Math.max(0, width - 40)}
      height={y(-2) - y(2)}
      fill="var(--rule)"
      opacity="0.5"
    />
    <line x1="30" x2={width - 10} y1={y(0)} y2={y(0)} stroke="var(--edge)" />
    {#each [-2, 0, 2] as v (v)}
      <text x="24" y={y(v) + 4} text-anchor="end" font-size="12" class="figures" fill="var(--mute)"
        >{v > 0 ? '+' : ''}{String(v).replace('-', '−')}</text
      >
    {/each}
    {#each dots as d, i (i)}<circle cx={x(d.t)} cy={y(d.z)} r="2.5" fill="var(--ink)" />{/each}
    <text x="30" y={height - 4} font-size="12" fill="var(--mute)" class="figures">0:00</text>
    <text x={width - 10} y={height - 4} text-anchor="end" font-size="12" fill="var(--mute)" class="figures"
      >{clock(end)}</text
    >
  </svg>
</div>
