<script lang="ts">
  // A circuit drawn from its own description: spaces as plain shapes filled by what
  // they hold, parts as rings on the edge between. What a step presses is tinted.
  import type { CircuitView } from '../lib/api/client';

  let { circuit, pressed = [] }: { circuit: CircuitView; pressed?: string[] } = $props();
  const R = 12;
  // The angle at this share of all that is free between other directions: many rings go
  // round a space without covering the ways to its neighbours.
  const CLEAR = 0.42;
  function between(directions: number[], share: number): number {
    const sorted = [...directions].sort((a, b) => a - b);
    const arcs = sorted
      .map((from, i) => ({
        from: from + CLEAR,
        to: (sorted[i + 1] ?? sorted[0]! + 2 * Math.PI) - CLEAR,
      }))
      .filter((a) => a.to > a.from);
    let left = share * arcs.reduce((sum, a) => sum + a.to - a.from, 0);
    for (const a of arcs) {
      if (left <= a.to - a.from) return a.from + left;
      left -= a.to - a.from;
    }
    return 0;
  }
  // Where each part's ring stands: between its two spaces, or round the one it closes.
  const drawn = $derived.by(() => {
    const at: Record<string, { x: number; y: number }> = {};
    for (const c of circuit.chambers) at[c.id] = { x: c.at[0]! * 1.6, y: c.at[1]! };
    const all = Object.values(at);
    const middle = {
      x: all.reduce((s, c) => s + c.x, 0) / Math.max(1, all.length),
      y: all.reduce((s, c) => s + c.y, 0) / Math.max(1, all.length),
    };
    const groups: Record<string, typeof circuit.parts> = {};
    for (const p of circuit.parts) {
      const key = [...p.between].sort().join('|');
      groups[key] = [...(groups[key] ?? []), p];
    }
    const out: {
      id: string;
      x: number;
      y: number;
      x1: number;
      y1: number;
      x2: number;
      y2: number;
      n: number;
      kind: string;
    }[] = [];
    for (const group of Object.values(groups)) {
      const [a, b] = group[0]!.between.map((id) => at[id]);
      group.forEach((p, i) => {
        const n = circuit.parts.indexOf(p) + 1;
        const kind = p.meant ? 'meant' : p.shut ? 'shut' : 'suspect';
        const one = a ?? b;
        if (a && b) {
          const t = (i + 1) / (group.length + 1);
          const bend = (i - (group.length - 1) / 2) * 11;
          const len = Math.hypot(b.x - a.x, b.y - a.y) || 1;
          const x =
            a.x + (b.x - a.x) * (group.length === 1 ? 0.5 : 0.35 + 0.3 * t) - ((b.y - a.y) / len) * bend;
          const y =
            a.y + (b.y - a.y) * (group.length === 1 ? 0.5 : 0.35 + 0.3 * t) + ((b.x - a.x) / len) * bend;
          out.push({ id: p.id, x, y, x1: a.x, y1: a.y, x2: b.x, y2: b.y, n, kind });
        } else if (one) {
          // Fanned out on the side that is furthest from the other spaces.
          const others = all.filter((c) => c !== one).map((c) => Math.atan2(c.y - one.y, c.x - one.x));
          const outward = Math.atan2(one.y - middle.y, one.x - middle.x);
          const apart = (u: number, v: number) => Math.abs(Math.atan2(Math.sin(u - v), Math.cos(u - v)));
          const free = (u: number) =>
            Math.min(Math.PI, ...others.map((o) => apart(u, o))) - 0.05 * apart(u, outward);
          const sides = Array.from({ length: 24 }, (_, k) => (k * Math.PI) / 12);
          const away = others.length ? sides.reduce((b, u) => (free(u) > free(b) ? u : b)) : -Math.PI / 2;
          const fan =
            all.length > 1
              ? Math.min(Math.PI * 1.35, group.length * 0.52)
              : Math.min(Math.PI * 2 - 0.5, group.length * 0.6);
          const angle =
            group.length > 5 && others.length
              ? between(others, (i + 0.5) / group.length)
              : away + (group.length > 1 ? (i / (group.length - 1) - 0.5) * fan : 0);
          const d = R + 9 + (group.length > 7 ? (i % 2) * 9 : 0);
          const x = one.x + Math.cos(angle) * d;
          const y = one.y + Math.sin(angle) * d;
          out.push({ id: p.id, x, y, x1: one.x, y1: one.y, x2: x, y2: y, n, kind });
        }
      });
    }
    return out;
  });
  const box = $derived.by(() => {
    const xs = [...drawn.map((d) => d.x), ...circuit.chambers.map((c) => c.at[0]! * 1.6)];
    const ys = [...drawn.map((d) => d.y), ...circuit.chambers.map((c) => c.at[1]!)];
    const x0 = Math.min(...xs) - R - 8;
    const y0 = Math.min(...ys) - R - 6;
    return [x0, y0, Math.max(...xs) + R + 8 - x0, Math.max(...ys) + R + 8 - y0];
  });
  const fill = (c: { holds: string; id: string }) =>
    pressed.includes(c.id) ? 'var(--brass-wash)' : c.holds === 'liquid' ? 'var(--teal-wash)' : 'var(--page)';
  const ink = { suspect: 'var(--ink)', shut: 'var(--mute)', meant: 'var(--brass)' } as const;
</script>

<svg
  data-map={circuit.id}
  viewBox={box.join(' ')}
  class="max-h-96 w-full"
  role="img"
  aria-label="{circuit.title}: {circuit.chambers.map((c) => c.title).join(', ')}"
>
  {#each drawn as d (d.id)}
    <line x1={d.x1} y1={d.y1} x2={d.x2} y2={d.y2} stroke="var(--rule)" stroke-width="1" />
  {/each}
  {#each circuit.chambers as c (c.id)}
    <circle
      cx={c.at[0]! * 1.6}
      cy={c.at[1]}
      r={R}
      fill={fill(c)}
      stroke="var(--ink)"
      stroke-width={pressed.includes(c.id) ? 1.6 : 0.8}
      stroke-dasharray={c.open ? '2 1.5' : undefined}
    />
    {#each c.title.split(' ').reduce<string[]>((rows, w) => {
      const last = rows.at(-1);
      if (last !== undefined && (last + ' ' + w).length < 13) rows[rows.length - 1] = last + ' ' + w;
      else rows.push(w);
      return rows;
    }, []) as row, i (i)}
      <text
        x={c.at[0]! * 1.6}
        y={c.at[1]! - 1 + i * 3.6}
        text-anchor="middle"
        font-size="3.2"
        fill="var(--ink)">{row}</text
      >
    {/each}
  {/each}
  {#each drawn as d (d.id)}
    <circle
      cx={d.x}
      cy={d.y}
      r="3.4"
      fill="var(--ground, var(--page))"
      stroke={ink[d.kind as keyof typeof ink]}
      stroke-width="0.9"
      stroke-dasharray={d.kind === 'shut' ? '1.4 1' : undefined}
    />
    <text x={d.x} y={d.y + 1.2} text-anchor="middle" font-size="3.2" class="figures" fill="var(--ink)"
      >{d.n}</text
    >
  {/each}
</svg>
