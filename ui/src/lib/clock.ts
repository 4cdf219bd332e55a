// The server's one clock as this page knows it: read once with half the round trip
// taken off, then carried by the browser's monotonic timer.
import { get } from './api/client';
import { setZone, zone, type Span } from './zone.svelte';

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
  setZone(c.zone);
}

// Carried is the server's clock beside this device's own, for a page that is opened without the server.
export interface Carried {
  server: number; // ms since the epoch
  device: number;
  speed: number;
  zone: Span[];
}
const mostCarried = 24 * 3600_000; // ms: this device's own clock is trusted to go right for so long

export function carried(): Carried | undefined {
  return known ? { server: now(), device: Date.now(), speed, zone: zone.spans } : undefined;
}

// carry goes on from there, unless the server's clock is known.
export function carry(c: Carried): void {
  const passed = Date.now() - c.device;
  if (known || passed < 0 || passed > mostCarried) return;
  speed = c.speed;
  base = c.server + passed * c.speed;
  since = performance.now();
  known = true;
  setZone(c.zone ?? []); // kept by an earlier version
}

// now is the moment of the server's clock, ms since the epoch.
export function now(): number {
  return base + (performance.now() - since) * speed;
}

// pace is how fast the server's clock runs: 1, but where it is practised with.
export function pace(): number {
  return speed;
}

// moment is now as a write carries it: none until the server's clock is known, for this device's own may be wrong, and
// without one it counts from when it arrives.
export function moment(): { at?: string } {
  return known ? { at: new Date(now()).toISOString() } : {};
}
