// The marks that a needle may cross next, as the server gave them, less those that presses which wait to be
// sent have left behind.
import type { Hold } from './api/client';

export type Mark = Hold['marks'][number];

export function marksAhead(marks: Mark[], at: number | undefined, pumping: boolean, draws: boolean): Mark[] {
  if (at === undefined) return marks;
  const way = (pumping ? 1 : -1) * (draws ? -1 : 1);
  const left = marks.filter((m) => way * (m.value - at) > 1e-6);
  const next = left.find((m) => pumping || !m.half);
  return left.map((m) => ({ ...m, likely: m === next }));
}

// decimals are as many as a step needs: 0.125 is shown to two, 0.0125 to three.
export function decimals(step: number): number {
  const n = Math.max(0, Math.ceil(-Math.log10(step) - 1e-9));
  const scaled = step * 10 ** n;
  return Math.abs(scaled - Math.round(scaled)) > 1e-6 ? n + 1 : n;
}

// written is a figure with as many decimals, and a true minus sign.
export function written(value: number, places: number): string {
  return value.toFixed(places).replace('-', '−');
}
