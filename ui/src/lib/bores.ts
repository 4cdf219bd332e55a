// A housing tested passage by passage: what is changed on the bench, and what a test showed. What is on its way to
// the server counts as done.
import type { Job, PassageChange, Passages } from './api/client';
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

// left are the changes that are still to be made.
export function left(job: Job, all: PassageChange[]): PassageChange[] {
  const sent = outbox
    .waitingOn(job.id)
    .filter((w) => w.path === SET_UP)
    .map((w) => w.body as { does: Does; what: string; to: string });
  return all.filter((x) => !sent.some((s) => s.does === x.does && s.what === x.at && s.to === x.to));
}

// plugged tells whether an opening is shut by hand now.
export function plugged(job: Job, view: Passages, at: string): boolean {
  const last = outbox
    .waitingOn(job.id)
    .filter((w) => w.path === SET_UP)
    .map((w) => w.body as { does: Does; what: string })
    .findLast((w) => w.what === at && (w.does === 'plug' || w.does === 'unplug'));
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
