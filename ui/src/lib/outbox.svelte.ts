// Writes made here, kept on the device until the server has acknowledged them: each goes
// under its own id, so that sending twice counts once. Those to one job or hold go in
// order; what the server cannot take just now holds up nothing else, and after some tries
// not even what follows it, unless that is done to the very thing it would make.
//
// Each write is an entry of its own in the browser's storage. Pages of one browser share
// them, and whichever is open delivers them: both may send one, which counts once.
import { SvelteSet } from 'svelte/reactivity';
import { NoAnswer, Refused, post, type Receipt } from './api/client';
import type { paths } from './api/schema';
import { moment } from './clock';
import { newId } from './id';
import { pressedLast } from './keys.svelte';
import { me } from './me.svelte';

interface Entry {
  key: string; // its place in the order
  path: keyof paths;
  id: string; // of the hold or job
  body: { id: string };
  tries: number; // that the server answered with a fault of its own
  again: number; // not sent before, ms of this page's clock
}

const prefix = 'hiss.outbox.';
export const retry = { network: 1500, fault: 3000, aside: 60_000 }; // ms
const mostTries = 5; // then what follows need not wait any longer

const stored = (() => {
  try {
    localStorage.setItem('hiss.tried', '1');
    return true;
  } catch {
    return false; // without storage it lasts as long as the page does
  }
})();

function load(): Entry[] {
  if (!stored) return waiting;
  const out: Entry[] = [];
  for (let i = 0; i < localStorage.length; i++) {
    const key = localStorage.key(i) ?? '';
    if (!key.startsWith(prefix)) continue;
    try {
      out.push(JSON.parse(localStorage.getItem(key) ?? '') as Entry);
    } catch {
      // Not one of ours.
    }
  }
  return out.sort((a, b) => (a.key < b.key ? -1 : 1));
}

let waiting = $state.raw<Entry[]>([]);
let refusal = $state('');
let refused = $state.raw<{ entry: Entry; field: string }>(); // for good: what, and which field of it
const claimed = new SvelteSet<string>();
const from: Record<string, Element> = {}; // what each write was pressed at, until it is answered
const gone: string[] = []; // ids of all that were refused for good
let written = $state.raw<Entry[]>([]); // acknowledged, latest last; the oldest are left out
let receipts = 0; // acknowledged so far
const mostWritten = 100;
let sending: Promise<void> | null = null;
let timer: ReturnType<typeof setTimeout> | undefined;
let delivered: (receipt: Receipt, path: keyof paths) => void = () => {};

export const outbox = {
  get waiting() {
    return waiting.length;
  },
  get refusal() {
    return refusal;
  },
  // The field of what was refused, where the server named one.
  get field() {
    return refused?.field ?? '';
  },
  // Why what was done to some job or hold was refused; '' where nothing was.
  refusedOn: (id: string) => (refused?.entry.id === id ? refusal : ''),
  // Says that refusals of some job or hold are shown where it is pressed, for as long as the caller does.
  claim(id: string): () => void {
    claimed.add(id);
    return () => claimed.delete(id);
  },
  // Whether the refusal is shown where it was pressed.
  get placed() {
    return refused !== undefined && claimed.has(refused.entry.id);
  },
  // The control that what was refused was pressed at, where it is still there.
  get at(): Element | undefined {
    const el = refused && from[refused.entry.body.id];
    return el?.isConnected && el.checkVisibility() ? el : undefined;
  },
  // How many were acknowledged so far: what is asked for now holds them all.
  get receipts() {
    return receipts;
  },
  // What went to some place and is not in an answer that held so many receipts, first
  // written first; what was refused is the last of it, so that it can be put right.
  under<T extends object>(path: string, id: string, held: number): T[] {
    const since = written.slice(Math.max(0, written.length - (receipts - held)));
    const all = [...since, ...waiting, ...(refused ? [refused.entry] : [])];
    return all.filter((w) => w.path === path && w.id === id).map((w) => w.body as unknown as T);
  },
  // What waits to be done to some job or hold, first written first.
  waitingOn(id: string): { path: keyof paths; body: object }[] {
    return waiting.filter((w) => w.id === id);
  },
  refused: (id: string) => gone.includes(id),
  seen(): void {
    if (refused) delete from[refused.entry.body.id];
    refusal = '';
    refused = undefined;
  },
};

export function onDelivered(fn: typeof delivered): void {
  delivered = fn;
}

function put(e: Entry): void {
  waiting = [...waiting.filter((w) => w.key !== e.key), e].sort((a, b) => (a.key < b.key ? -1 : 1));
  if (stored) localStorage.setItem(e.key, JSON.stringify(e));
}

// queue puts a write behind all that wait, those of other pages among them; a clock that
// was set back puts it no earlier.
function queue(path: keyof paths, id: string, body: { id: string }): void {
  if (stored) waiting = load();
  const last = Number(waiting.at(-1)?.key.slice(prefix.length).split('.')[0] ?? 0);
  const at = String(Math.max(Date.now() * 1000, last + 1)).padStart(18, '0');
  put({ key: `${prefix}${at}.${body.id}`, path, id, body, tries: 0, again: 0 });
}

function drop(gone: (e: Entry) => boolean): void {
  if (stored) waiting.filter(gone).forEach((e) => localStorage.removeItem(e.key));
  waiting = waiting.filter((e) => !gone(e));
}

// Before each write had an entry of its own, all of them were one.
function carryOver(): void {
  const whole = localStorage.getItem('hiss.outbox');
  if (whole === null) return;
  try {
    (JSON.parse(whole) as Pick<Entry, 'path' | 'id' | 'body'>[]).forEach((w) => queue(w.path, w.id, w.body));
  } catch {
    // It was not readable, and so was never sent.
  }
  localStorage.removeItem('hiss.outbox');
}

if (stored) {
  carryOver();
  waiting = load();
  window.addEventListener('storage', (e) => {
    if (e.key === null || e.key.startsWith(prefix)) waiting = load();
  });
}

// stamped is what every write carries: id, who, from where, and the moment of pressing.
export function stamped<T extends object>(content: T) {
  return { id: newId(), by: me.by, device: me.device, ...moment(), ...content };
}

// send queues a write, tries to deliver everything that waits, and gives the id it made.
export function send(path: keyof paths, id: string, content: object): string {
  const body = stamped(content);
  queue(path, id, body);
  outbox.seen();
  const el = pressedLast();
  if (el) from[body.id] = el;
  void deliver();
  return body.id;
}

export function deliver(): Promise<void> {
  sending ??= drain().finally(() => (sending = null));
  return sending;
}

// held tells whether one must wait for another before it: the one makes what the other is
// done to, or both are done to one thing and the first may still be taken soon.
function held(e: Entry): boolean {
  return waiting.some((w) => w.key < e.key && (w.body.id === e.id || (w.id === e.id && w.tries < mostTries)));
}

function later(ms: number): void {
  clearTimeout(timer);
  timer = setTimeout(() => void deliver(), ms);
}

async function drain(): Promise<void> {
  for (;;) {
    if (stored) waiting = load(); // what another page has written or delivered
    const free = waiting.filter((e) => !held(e));
    const next = free.find((e) => e.again <= Date.now());
    if (!next) {
      if (free.length) later(Math.max(50, Math.min(...free.map((e) => e.again)) - Date.now()));
      return;
    }
    try {
      const receipt = await post(next.path, next.body, next.id);
      receipts++;
      written = [...written, next].slice(-mostWritten);
      drop((e) => e.key === next.key);
      delete from[next.body.id];
      delivered(receipt as Receipt, next.path);
    } catch (e) {
      if (e instanceof NoAnswer && !e.reached) {
        later(retry.network);
        return;
      }
      if (e instanceof Refused && (e.status === 401 || e.status === 429)) {
        refusal = e.message;
        later(retry.fault);
        return;
      }
      if (e instanceof NoAnswer || (e instanceof Refused && e.status >= 500)) {
        // A fault of the server: whether it was taken is not known, so it goes again.
        refusal = e.message;
        const tries = next.tries + 1;
        put({ ...next, tries, again: Date.now() + (tries < mostTries ? retry.fault : retry.aside) });
        continue;
      }
      // Refused for good: it will not get better by sending it again.
      // What was to be done to the thing it would have made goes with it.
      refusal = e instanceof Error ? e.message : String(e);
      gone.push(next.body.id);
      refused = { entry: next, field: e instanceof Refused ? e.field : '' };
      drop((w) => w.key === next.key || w.id === next.body.id);
    }
  }
}
