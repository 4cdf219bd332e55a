// The server's one clock as this page knows it: read once with half the round trip
// taken off, then carried by the browser's monotonic timer.
import { get } from './api/client';

let base = Date.now();
let since = performance.now();
let speed = 1;
let known = false;

export async function setClock(): Promise<void> {
  const before = performance.now();
  const c = await get('/api/clock');
  const after = performance.now();
  speed = c.speed;
  base = new Date(c.now).getTime() + ((after - before) / 2) * speed;
  since = after;
  known = true;
}

// now is the moment of the server's clock, ms since the epoch.
export function now(): number {
  return base + (performance.now() - since) * speed;
}

// moment is now as a write carries it: none until the server's clock is known, for this device's own may be wrong, and
// without one it counts from when it arrives.
export function moment(): { at?: string } {
  return known ? { at: new Date(now()).toISOString() } : {};
}
