// The marks that a needle may cross next, where the page is ahead of the server: presses that wait to be
// sent have moved the needle on. The same rules as the server's, for a hold.
import type { Hold } from './api/client';

type Mark = Hold['marks'][number];
type Ring = Hold['gauge']['rings'][number];

// marksFrom are those next to a needle that stands at v, in the gauge's unit, and comes back to zero.
export function marksFrom(v: number, ring: Ring, unitPa: number, draws: boolean): Mark[] {
  const sign = draws ? -1 : 1;
  const from = draws ? -ring.to : ring.from;
  const half = ring.division / 2;
  const halves = (sign * v - from) / half;
  const mark = (n: number, up: boolean): Mark => {
    const value = Number((sign * (from + n * half)).toFixed(6));
    const isHalf = n % 2 !== 0;
    return {
      pa: value * unitPa,
      value,
      text: value.toFixed(decimals(isHalf ? half : ring.division)),
      half: isHalf,
      likely: false,
      up: draws ? !up : up,
    };
  };
  const out = [mark(Math.floor(halves + 1e-6) + 1, true)];
  const below = Math.ceil(halves - 1e-6) - 1;
  for (let n = below; n > below - 3 && n >= 0; n--) out.push(mark(n, false));
  const likely = out.slice(1).find((m) => !m.half);
  if (likely) likely.likely = true;
  return out;
}

// decimals are as many as a step needs: 0.125 is shown to two, 0.0125 to three.
export function decimals(step: number): number {
  const n = Math.max(0, Math.ceil(-Math.log10(step) - 1e-9));
  const scaled = step * 10 ** n;
  return Math.abs(scaled - Math.round(scaled)) > 1e-6 ? n + 1 : n;
}
