// Moments that a time axis is marked at: round to the ear, and far enough apart
// to be read.
const steps = [10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600];

export function marks(until: number, most: number): number[] {
  const step = steps.find((s) => until / s <= most) ?? 7200;
  return Array.from({ length: Math.floor(until / step) + 1 }, (_, i) => i * step);
}
