// What this device last knew, for when it is opened where the shop's computer does not answer: who it is let in as, the
// sheets it read, the holds as they stood, the server's clock. Kept where the connection is secure, and not on a device that
// is borrowed; forgotten when the device is signed out.
import { dehydrate, hydrate, type DehydratedState } from '@tanstack/svelte-query';
import type { AtTheDoor, Hold, Job } from './api/client';
import { carry, carried, type Carried } from './clock';
import { queries } from './query';

interface Known {
  at: number; // ms of this device's clock
  door: AtTheDoor;
  clock: Carried;
  holds: Hold[];
  read: DehydratedState;
}

const store = 'hiss.known';
const place = '/known'; // in the store
const mostRead = 40; // answers that are kept, latest first
const notKept = ['devices', 'certificate', 'door', 'keep']; // what is of use with the server alone

// keep writes down what is known now; whether it could.
export async function keep(door: AtTheDoor, holds: Hold[], heard: number): Promise<boolean> {
  const clock = carried();
  if (!canKeep() || door.borrowed || !clock) return false;
  const read = dehydrate(queries, {
    shouldDehydrateQuery: (q) => q.state.data !== undefined && !notKept.includes(String(q.queryKey[0])),
  });
  read.queries.sort((a, b) => b.state.dataUpdatedAt - a.state.dataUpdatedAt).splice(mostRead);
  const known: Known = { at: heard, door, clock, holds, read };
  try {
    await (await caches.open(store)).put(place, new Response(JSON.stringify(known)));
    return true;
  } catch {
    return false; // no room: the page works on, and is not there without the server
  }
}

// recall gives what was last known, with the sheets and the clock put in their places; undefined where nothing is kept.
export async function recall(): Promise<Pick<Known, 'at' | 'door' | 'holds'> | undefined> {
  if (!canKeep()) return undefined;
  try {
    const there = await (await caches.open(store)).match(place);
    if (!there) return undefined;
    const known = (await there.json()) as Known;
    for (const q of known.read.queries) if (q.queryKey[0] === 'job') (q.state.data as Job).receipts = 0;
    hydrate(queries, known.read);
    carry(known.clock);
    return known;
  } catch {
    return undefined; // of another version, or not readable
  }
}

export async function forget(): Promise<void> {
  if (canKeep()) await caches.delete(store).catch(() => false);
}

// Whether this browser keeps the page; undefined while that is not known.
export const page = $state<{ kept?: boolean }>({});

const canKeep = () => 'caches' in window;

// keepPage has the browser keep the page itself.
export async function keepPage(): Promise<void> {
  try {
    if (!('serviceWorker' in navigator)) throw new Error('the connection is not secure');
    await navigator.serviceWorker.register('/standby.js');
    await navigator.serviceWorker.ready;
    page.kept = true;
  } catch {
    page.kept = false; // or the browser does not trust the certificate, or keeps nothing
  }
}
