// Writes made here, kept on the device until the server has acknowledged them:
// sent in order, each under its own id, so that sending twice counts once.
import { NoAnswer, Refused, post, type Hold, type Job } from './api/client';
import type { paths } from './api/schema';
import { moment } from './clock';
import { newId } from './id';
import { me } from './me.svelte';

interface Entry {
  path: keyof paths;
  id: string; // of the hold or job
  body: { id: string };
}

const key = 'hiss.outbox';

function load(): Entry[] {
  try {
    return JSON.parse(localStorage.getItem(key) ?? '[]') as Entry[];
  } catch {
    return [];
  }
}

let waiting = $state.raw<Entry[]>(load());
let refusal = $state('');
let refused = $state.raw<{ entry: Entry; field: string }>(); // for good: what, and which field of it
let sending: Promise<void> | null = null;
let delivered: (answer: Hold | Job) => void = () => {};

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
  // What is on its way to some place, first written first; what was refused is the
  // last of it, so that it can be put right.
  under<T extends object>(path: string, id: string): T[] {
    const all = refused ? [...waiting, refused.entry] : waiting;
    return all.filter((w) => w.path === path && w.id === id).map((w) => w.body as unknown as T);
  },
  seen(): void {
    refusal = '';
    refused = undefined;
  },
};

export function onDelivered(fn: (answer: Hold | Job) => void): void {
  delivered = fn;
}

function keep(next: Entry[]): void {
  waiting = next;
  try {
    localStorage.setItem(key, JSON.stringify(next));
  } catch {
    // Without storage it lasts as long as the page does.
  }
}

// stamped is what every write carries: id, who, from where, and the moment of pressing.
export function stamped<T extends object>(content: T) {
  return { id: newId(), by: me.by, device: me.device, at: moment(), ...content };
}

// send queues a write, tries to deliver everything that waits, and gives the id it made.
export function send(path: keyof paths, id: string, content: object): string {
  const body = stamped(content);
  keep([...waiting, { path, id, body }]);
  refusal = '';
  refused = undefined;
  void deliver();
  return body.id;
}

export function deliver(): Promise<void> {
  sending ??= drain().finally(() => (sending = null));
  return sending;
}

async function drain(): Promise<void> {
  while (waiting.length > 0) {
    const first = waiting[0]!;
    try {
      delivered((await post(first.path, first.body, first.id)) as Hold | Job);
    } catch (e) {
      if (e instanceof NoAnswer) {
        setTimeout(() => void deliver(), 1500);
        return;
      }
      if (e instanceof Refused && (e.status >= 500 || e.status === 401 || e.status === 429)) {
        refusal = e.message;
        setTimeout(() => void deliver(), 3000);
        return;
      }
      // Refused for good: it will not get better by sending it again.
      // What was to be done to the thing it would have made goes with it.
      refusal = e instanceof Error ? e.message : String(e);
      refused = { entry: first, field: e instanceof Refused ? e.field : '' };
      keep(waiting.filter((w) => w.id !== first.body.id));
    }
    keep(waiting.filter((w) => w.body.id !== first.body.id));
  }
}
