// A housing tested passage by passage: what is changed on the bench, and what a test showed. What is on its way to
// the server counts as done.
import { get, type Job, type PassageChange, type Passages } from './api/client';
import { outbox, send } from './outbox.svelte';

const SET_UP = '/api/jobs/{id}/set-up';

type Does = PassageChange['does'];
const undoing: Record<string, Does> = {
  plug: 'unplug',
  unplug: 'plug',
  feed: 'no feed',
  'no feed': 'feed',
  work: 'let go',
  'let go': 'work',
  move: 'move',
};

export const same = (a: PassageChange, b: PassageChange) =>
  a.does === b.does && a.at === b.at && a.to === b.to;

// undone is the change that takes another back; was is the state that a lever stood in before.
export const undone = (x: PassageChange, was: string): PassageChange => ({
  ...x,
  does: undoing[x.does] ?? x.does,
  to: x.does === 'move' || x.does === 'let go' ? was : '',
});

export function change(job: Job, x: PassageChange): void {
  send(SET_UP, job.id, { does: x.does, what: x.at, to: x.to });
}

// readPassages reads a housing; it knows how many writes of this page it holds at least.
export async function readPassages(id: string): Promise<Passages> {
  const receipts = outbox.receipts;
  return { ...(await get('/api/jobs/{id}/passages', { id })), receipts };
}

interface Sent {
  does: Does;
  what: string;
  to: string;
}

const sent = (job: Job, view: Passages) => outbox.under<Sent>(SET_UP, job.id, view.receipts ?? 0);

// left are the changes that are still to be made: what was pressed and is not in the answer yet is made.
export function left(job: Job, view: Passages, all: PassageChange[]): PassageChange[] {
  const last = new Map(sent(job, view).map((x) => [x.what, x]));
  return all.filter((x) => {
    const s = last.get(x.at);
    return !(s && s.does === x.does && s.to === x.to);
  });
}

// plugged tells whether an opening is shut by hand now.
export function plugged(job: Job, view: Passages, at: string): boolean {
  const last = sent(job, view).findLast((x) => x.what === at && (x.does === 'plug' || x.does === 'unplug'));
  return last ? last.does === 'plug' : (view.stand.plugs ?? []).includes(at);
}

export function tried(
  job: Job,
  test: string,
  places: string[],
  more: { worked?: boolean; undone?: boolean } = {},
): void {
  send('/api/jobs/{id}/tried', job.id, { test, places, worked: false, undone: false, ...more });
}
