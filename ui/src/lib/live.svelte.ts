// The page's one event stream and the holds as they stand. What the stream misses
// is asked for again, never guessed.
import { SvelteMap, SvelteSet } from 'svelte/reactivity';
import { get, type Bench, type Hold, type Point } from './api/client';
import { setClock } from './clock';
import { extremes } from './extremes';
import { deliver } from './outbox.svelte';
import { queries, refresh } from './query';
import { alarmSound, callSound } from './sound.svelte';

const holds = new SvelteMap<string, Hold>();
let connected = $state(true);
let source: EventSource | null = null;
let heard = 0; // of the server last, ms of this device's clock
let since = $state(0); // as old is what stands here, while the server is not heard; else 0
let recalled = $state(false); // the page was opened without the server
const mostSilent = 35_000; // ms: the server speaks at least every 15 s

export const live = {
  get connected() {
    return connected;
  },
  // When the server was heard last, ms of this device's clock; 0 while it is.
  get since() {
    return since;
  },
  // Whether this page was opened without the server, and has not heard it yet.
  get recalled() {
    return recalled;
  },
  // How many traces are on their way.
  get asking() {
    return asked.size;
  },
  hold(id: string): Hold | undefined {
    return holds.get(id);
  },
  // Holds of one job, first begun first.
  of(jobId: string): Hold[] {
    return inOrder((h) => h.job_id === jobId);
  },
  // Holds in progress.
  get running(): Hold[] {
    return inOrder((h) => h.state !== 'ended');
  },
};

function inOrder(which: (h: Hold) => boolean): Hold[] {
  return [...holds.values()]
    .filter(which)
    .sort((a, b) => a.started_at.localeCompare(b.started_at) || a.id.localeCompare(b.id));
}

// overtaken tells an answer that was made before what the page has already, and came later.
// A summary is no such thing: it lacks what was asked for.
function overtaken(h: Hold, was: Hold | undefined): boolean {
  return !!was && !was.summary && h.now_s < was.now_s && h.last_seq <= was.last_seq && h.state !== 'ended';
}

// take merges a hold as it came: whole ones replace, others bring new points. A sheet
// brings summaries: they stand where nothing more is known.
export function take(came: Hold): void {
  let h = came;
  const was = holds.get(h.id);
  if (h.summary) {
    if (!was || was.summary) holds.set(h.id, h);
    else if (was.state !== h.state || was.calls.length !== h.calls.length) void fetchHold(h.id);
    return;
  }
  if (overtaken(h, was)) return;
  if (h.brief && was) {
    const { report, fork, calls } = was;
    h = { ...h, report, fork, calls, sentence: h.sentence || was.sentence };
  }
  if (was && h.calls.length > was.calls.length && h.state === 'holding') callSound(h);
  if (h.alarm && !was?.alarm) alarmSound(h);
  if (h.whole) {
    // An answer that was overtaken by the stream is left.
    if (!was || h.last_seq >= was.last_seq || h.state === 'ended') holds.set(h.id, h);
    return;
  }
  const first = h.points[0];
  if (!was || was.summary || (first && first.seq > was.last_seq + 1)) {
    void fetchHold(h.id);
    return;
  }
  const points = thinned(was.points.concat(h.points.filter((p) => p.seq > was.last_seq)));
  const far = h.far && {
    ...h.far,
    points: (was.far?.points ?? []).concat(after(h.far.points, was.far?.points)),
  };
  const trail = was.trail.concat(h.trail.filter((f) => f.t > (was.trail.at(-1)?.t ?? -1)));
  holds.set(h.id, { ...h, far, points, trail, whole: true });
}

// thinned leaves out half of a long stream, but for its latest, those that are struck out
// and those that a person took.
export function thinned(points: Point[]): Point[] {
  if (points.length < mostPoints) return points;
  const early = points.slice(0, -latest);
  const kept = extremes(
    early,
    early.length / 2,
    (p) => p.pa,
    (p) => !!p.struck || p.how === 'mark',
  );
  return kept.concat(points.slice(-latest));
}
const latest = 100;
const mostPoints = 1200;

// after are the points that come after those that are there.
function after(fresh: Point[], there: Point[] = []): Point[] {
  const last = there.at(-1)?.seq ?? 0;
  return fresh.filter((p) => p.seq > last);
}

// What comes in one go from many gauges is shown in one go: the page is drawn again
// once for all of them.
const together = 25; // ms
let arriving: Hold[] = [];

function arrived(h: Hold): void {
  if (arriving.push(h) > 1) return;
  setTimeout(taken, together);
}

function taken(): void {
  if (starting) return; // what it brings comes first
  const all = arriving;
  arriving = [];
  all.forEach(take);
}

// whole asks for the trace of a hold of which only the summary is known.
export function whole(h: Hold | undefined): void {
  if (h?.summary && !asked.has(h.id) && !(starting && h.state !== 'ended')) void fetchHold(h.id);
}
const asked = new SvelteSet<string>(); // on their way

async function fetchHold(id: string): Promise<void> {
  asked.add(id);
  try {
    const h = await get('/api/holds/{id}', { id });
    if (!overtaken(h, holds.get(h.id))) holds.set(h.id, h);
  } catch {
    // The stream comes again and asks again.
  } finally {
    asked.delete(id);
  }
}

// Whether the holds in progress are on their way with their traces: none is asked for by itself meanwhile.
let starting = $state(false);

async function start(): Promise<void> {
  let running: Hold[];
  try {
    starting = true;
    await setClock();
    running = await get('/api/holds');
  } finally {
    starting = false;
    if (arriving.length) setTimeout(taken);
  }
  for (const h of running) take(h);
  for (const h of holds.values()) {
    if (h.state !== 'ended' && !running.some((r) => r.id === h.id)) void fetchHold(h.id);
  }
}

// askBench asks for what the bench lists. The page's first one may have been on its way before the stream's beginning was
// known: one that is older than that is asked for again.
export async function askBench(): Promise<Bench> {
  const least = atListed;
  atListed = 0; // later ones are asked for later
  const b = await get('/api/bench');
  return b.listed < least ? get('/api/bench') : b;
}
let atListed = 0;

// stand puts holds in their places as they were known at some moment, until the server is heard.
export function stand(known: Hold[], at: number): void {
  for (const h of known) holds.set(h.id, h);
  since = heard = at;
  recalled = true;
  connected = false;
}

// lastHeard is when that was, ms of this device's clock.
export const lastHeard = () => (since ? since : Date.now());

// listen opens the stream and keeps it open. It goes on from where it was before the page asked for anything, so that
// nothing is missed between, and nothing has to be asked for again.
export function listen(from: string, listed: number, lost: () => void): () => void {
  atListed = listed;
  let stopped = false;
  let behind = false; // something was missed
  const begin = () =>
    start().catch(() => {
      behind = true;
    });
  let again: ReturnType<typeof setTimeout> | undefined;
  const away = () => {
    if (!since) since = heard || Date.now();
    if (connected) lost();
    connected = false;
    behind = true;
  };
  // A line that is cut without a word is noticed by its silence.
  const watch = setInterval(() => {
    if (!connected || Date.now() - heard < mostSilent) return;
    away();
    source?.close();
    open();
  }, mostSilent / 7);
  const open = () => {
    const es = new EventSource('/api/events?after=' + encodeURIComponent(from));
    source = es;
    es.onopen = () => {
      heard = Date.now();
      connected = true;
      recalled = false;
      since = 0;
      void deliver();
      if (!behind) return;
      behind = false;
      void begin();
      refresh();
    };
    es.onerror = () => {
      away();
      // The browser tries again by itself except after an answer it does not like.
      if (es.readyState === EventSource.CLOSED && !stopped) {
        void begin(); // tells whether this device was signed out
        again = setTimeout(open, 1000);
      }
    };
    const on = (kind: string, act: (data: string) => void) =>
      es.addEventListener(kind, (e) => {
        heard = Date.now();
        act((e as MessageEvent<string>).data);
      });
    on('here', () => {});
    on('hold', (said) => arrived(JSON.parse(said) as Hold));
    on('job', (said) => refresh((JSON.parse(said) as { id: string }).id));
    on('bench', () => refresh());
    on('keep', (said) => queries.setQueryData(['keep'], JSON.parse(said)));
    on('reset', () => {
      void begin();
      refresh();
    });
  };
  void begin();
  open();
  return () => {
    stopped = true;
    clearTimeout(again);
    clearInterval(watch);
    source?.close();
  };
}
