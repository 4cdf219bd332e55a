<script lang="ts">
  // From zero to the weakest limit on the gauge's own scale: the target, the limit as
  // a red edge, the middle half where a gauge is truest.
  import { scaleLinear } from 'd3-scale';
  import type { Plan } from '../lib/api/client';

  let { plan, unit, unitPa }: { plan: Plan; unit: string; unitPa: number } = $props();
  let width = $state(320);
  const ring = $derived(plan.gauge.rings[plan.gauge.read]!);
  // Under vacuum the same strip, away from ambient to the right.
  const sign = $derived(plan.draws ? -1 : 1);
  const top = $derived(
    Math.max(
      sign > 0 ? plan.fit.top_pa : -plan.fit.bottom_pa,
      sign * plan.target.pa * 1.05,
      sign * plan.weakest.ceiling_pa * 1.05,
    ),
  );
  const scale = $derived(scaleLinear([0, top], [10, width - 16]));
  const x = $derived((pa: number) => scale(sign * pa));
  const middle = $derived(
    sign > 0
      ? [plan.fit.middle_low_pa, plan.fit.middle_high_pa]
      : [plan.fit.middle_high_pa, plan.fit.middle_low_pa],
  );
  const marks = $derived.by(() => {
    const step = ring.numbered > 0 ? ring.numbered : ring.division * 5;
    const out: number[] = [];
    for (let v = ring.from; v <= ring.to + 1e-9 && out.length < 60; v += step)
      if (sign * v >= -1e-9) out.push(v);
    return out;
  });
  const targetX = $derived(x(plan.target.pa));
  const limitX = $derived(x(plan.weakest.pa));
</script>

<div bind:clientWidth={width}>
  <svg
    {width}
    height="104"
    role="img"
    aria-label="On the gauge's scale: target {plan.target_shown.text} {plan.target_shown
      .unit}, weakest limit the {plan.weakest.of}"
  >
    <rect
      x={Math.max(10, x(middle[0]!))}
      y="40"
      width={Math.max(0, x(middle[1]!) - Math.max(10, x(middle[0]!)))}
      height="22"
      fill="var(--brass-wash)"
    />
    <rect
      x={limitX}
      y="40"
      width={Math.max(0, width - 16 - limitX)}
      height="22"
      fill="var(--vermilion-wash)"
    />
    <line x1="10" x2={width - 16} y1="62" y2="62" stroke="var(--ink)" stroke-width="1.5" />
    {#each marks as v (v)}
      <line x1={x(v * unitPa)} x2={x(v * unitPa)} y1="54" y2="62" stroke="var(--ink)" />
      <text x={x(v * unitPa)} y="77" text-anchor="middle" font-size="12" class="figures" fill="var(--ink)"
        >{Number(v.toFixed(3))}</text
      >
    {/each}
    <text x={width - 10} y="98" text-anchor="end" font-size="12" fill="var(--mute)">{unit}</text>
    <text
      x={x((plan.fit.middle_low_pa + plan.fit.middle_high_pa) / 2)}
      y="98"
      text-anchor="middle"
      font-size="12"
      fill="var(--brass)">middle half</text
    >
    <line x1={limitX} x2={limitX} y1="28" y2="66" stroke="var(--vermilion)" stroke-width="4" />
    <text x={limitX + 8} y="37" font-size="12" fill="var(--vermilion)">limit: {plan.weakest.of}</text>
    <path d="M{targetX} 62 l-7 -18 h14 z" fill="var(--ink)" />
    <text
      x={Math.max(60, targetX)}
      y="16"
      text-anchor="middle"
      font-size="14"
      font-weight="700"
      class="figures"
      fill="var(--ink)"
    >
      {plan.target_shown.text}
      {plan.target_shown.unit}
    </text>
  </svg>
</div>
