// What the fork's picture is drawn from: a hold in the gauge's own unit and in
// seconds since its supply was shut, with the axes that make the decision visible.
import { extent, max } from 'd3-array';
import type { ForkAt, Hold, Point } from './api/client';

export interface Dot {
  t: number;
  v: number;
  mark: boolean;
  struck: boolean;
}

export interface Edge {
  t: number;
  above: number | null;
  below: number | null;
}

export interface Drawing {
  dots: Dot[];
  far: Dot[]; // of the gauge at the other end
  ahead: Edge[]; // the fork from now on
  past: Edge[]; // where it stood
  gaps: { from: number; to: number }[];
  events: { t: number; kind: string }[];
  called: number | null;
  now: number;
  x: [number, number];
  y: [number, number];
  sign: 1 | -1; // of what is drawn: its figures are this many times it
}

export function drawing(h: Hold): Drawing {
  const t0 = h.isolated_s ?? 0;
  // A vacuum is drawn deeper upwards: what leaves falls, as under pressure.
  const per = h.draws ? -h.unit_pa : h.unit_pa;
  const over = (f: ForkAt): Edge => ({
    t: f.t - t0,
    above: f.above_pa === null ? null : f.above_pa / per,
    below: f.below_pa === null ? null : f.below_pa / per,
  });
  const end = h.ended_s ?? Infinity;
  const drawn = (points: Point[]): Dot[] =>
    points
      .filter((p) => p.t >= t0 - 0.01 && p.t <= end)
      .map((p) => ({ t: p.t - t0, v: p.pa / per, mark: p.how === 'mark', struck: !!p.struck }));
  const dots = drawn(h.points);
  const far = drawn(h.far?.points ?? []).filter((p) => !p.struck);
  const held = dots.at(-1)?.t ?? 0;
  const ahead = h.fork.map(over);
  const past = h.trail.map(over);
  const reach = max([ahead.at(-1)?.t ?? 0, held * 1.04, 60]) ?? 60;

  // The settling that is over is let run out of the picture, so that what decides is large.
  const recent = dots.filter((d) => !d.struck && d.t >= Math.min(held * 0.2, 45));
  const [low, high] = extent(recent.length ? recent : dots, (d) => d.v);
  const last = dots.at(-1)?.v ?? h.target.pa / per;
  const spread = Math.max((high ?? last) - (low ?? last), 6 * h.step, last * 0.01);
  let bottom = (low ?? last) - spread * 0.25;
  let top = (high ?? last) + spread * 0.2;
  // Room for the closing end of the fork, but never so much that the trace goes flat.
  for (const f of ahead.slice(-4)) {
    if (f.above !== null) {
      top = Math.min(Math.max(top, f.above + spread * 0.1), (high ?? last) + spread);
      bottom = Math.max(Math.min(bottom, f.above - spread * 0.2), (low ?? last) - 2.5 * spread);
    }
    if (f.below !== null)
      bottom = Math.max(Math.min(bottom, f.below - spread * 0.25), (low ?? last) - 2.5 * spread);
  }
  // When it was first called what it is called now.
  const standing = h.calls.at(-1);
  const called =
    standing && standing.call !== 'not-yet'
      ? h.calls.slice(h.calls.findLastIndex((c) => c.call !== standing.call) + 1)[0]
      : undefined;
  return {
    dots,
    far,
    ahead,
    past,
    gaps: h.gaps.filter((g) => g.to >= t0).map((g) => ({ from: Math.max(0, g.from - t0), to: g.to - t0 })),
    events: h.events
      .filter((e) => e.t > t0 + 0.01 && e.kind !== 'release' && e.kind !== 'stroke')
      .map((e) => ({ t: e.t - t0, kind: e.kind })),
    called: called === undefined ? null : called.t - t0,
    now: held,
    x: [0, reach],
    y: [Math.max(bottom, 0), top],
    sign: h.draws ? -1 : 1,
  };
}

// runs are the stretches of a list for which something is there, as closed shapes need.
export function runs<T>(list: T[], has: (x: T) => boolean): T[][] {
  const out: T[][] = [];
  let run: T[] = [];
  for (const x of list) {
    if (has(x)) run.push(x);
    else if (run.length) {
      out.push(run);
      run = [];
    }
  }
  if (run.length) out.push(run);
  return out;
}
