// The server's one clock as this page knows it: read once with half the round trip
// taken off, then carried by the browser's monotonic timer.
import { get } from './api/client';

let base = Date.now();
let since = performance.now();
let speed = 1;

export async function setClock(): Promise<void> {
  const before = performance.now();
  const c = await get('/api/clock');
  const after = performance.now();
  speed = c.speed;
  base = new Date(c.now).getTime() + ((after - before) / 2) * speed;
  since = after;
}

// now is the moment of the server's clock, ms since the epoch.
export function now(): number {
  return base + (performance.now() - since) * speed;
}

// moment is now as a write carries it.
export function moment(): string {
  return new Date(now()).toISOString();
}
