// What the stages of a sheet share: reading the job, going on, acting on its holds.
import { get, type Condition, type Hold, type Job, type Plan, type Step, type Tick } from './api/client';
import { now } from './clock';
import { live, take } from './live.svelte';
import { note } from './noted.svelte';
import { outbox, send } from './outbox.svelte';
import { queries } from './query';
import { navigate } from './routes';
import { pressSound } from './sound.svelte';

// A sheet knows how many writes of this page it holds at least.
export async function readJob(id: string): Promise<Job> {
  const receipts = outbox.receipts;
  const job = await get('/api/jobs/{id}', { id });
  job.holds.forEach(take);
  return { ...job, receipts };
}

export function keepJob(job: Job): void {
  job.holds.forEach(take);
  queries.setQueryData(['job', job.id], job);
}

export function go(job: { id: string }, stage: string): void {
  void navigate('/jobs/:id/:stage', { params: { id: job.id, stage } });
}

// holdNext goes on to another hold, under what is asked for: its stage takes it from here.
let asked = { job: '', held: '' };
export function holdNext(job: Job, held: string): void {
  asked = { job: job.id, held };
  const step = job.steps.find((s) => s.kind === 'hold' && s.id === (job.call.next || job.first));
  go(job, job.steps.length > 1 ? (step?.stage ?? 'pressurise') : 'pressurise');
}

// heldNext is that, among the conditions of a step; -1 where none was asked for.
export function heldNext(job: Job, step: Step | undefined): number {
  const held = asked.job === job.id ? asked.held : '';
  if (held === 'hot' || held === 'warm')
    return step?.held_under.findIndex((c) => c.condition.warmth === held) ?? -1;
  if (held === 'moved') return step?.held_under.findIndex((c) => c.condition.note !== undefined) ?? -1;
  return -1;
}

// onward is the stage after this one.
export function onward(job: Job, stage: string): void {
  const at = job.stages.findIndex((s) => s.id === stage);
  const next = job.stages[at + 1];
  if (next) go(job, next.id);
}

export function proofOf(job: Job): Hold | undefined {
  return live.of(job.id).findLast((h) => h.purpose === 'rig proof');
}

// testOf is the latest hold of a job, or of one of its steps.
export function testOf(job: Job, step = ''): Hold | undefined {
  return live.of(job.id).findLast((h) => h.purpose !== 'rig proof' && (step === '' || h.test === step));
}

// gated tells a step before which something must be so that is not.
export function gated(step: Step): boolean {
  return step.unsafe.length > 0 || step.waits.length > 0;
}

// planOf is how a step is done; without one, the first hold.
export function planOf(job: Job, step = ''): Plan | null {
  return (
    job.steps.find((s) => s.id === step)?.plan ?? job.steps.find((s) => s.id === job.first)?.plan ?? null
  );
}

// firstStroke begins a hold with its first stroke, and gives its id. Pressed again before
// the page has heard of the hold, it is the second stroke of the same one.
let begun = { id: '', of: '' };
export function firstStroke(
  job: Job,
  purpose: 'rig proof' | 'test' | 'repeat',
  step = '',
  condition: Condition = {},
): string {
  const of = `${job.id} ${step} ${purpose}`;
  const underway = begun.of === of && live.hold(begun.id) === undefined && !outbox.refused(begun.id);
  if (!underway) {
    const id = send('/api/jobs/{id}/holds', job.id, { purpose, ...(step ? { step } : {}), condition });
    begun = { id, of };
  }
  event(begun.id, 'stroke');
  return begun.id;
}

export function event(holdId: string, kind: string): void {
  pressed();
  send('/api/holds/{id}/events', holdId, { kind });
}

// Read is a reading: a figure in the gauge's unit or text as typed; from a slip of paper with its time.
export interface Read {
  value?: number;
  text?: string;
  how: 'read' | 'mark';
  gauge?: 2;
  into?: string;
}

// reading notes one; says is how it is shown until the server has it.
export function reading(holdId: string, r: Read, says: string): string {
  pressed();
  note({ hold: holdId, text: says, at: now(), undone: false });
  return send('/api/holds/{id}/readings', holdId, r);
}

// undo ignores the last reading; back counts it again.
export function undo(holdId: string, says: string, back = false): void {
  pressed();
  note({ hold: holdId, text: says, at: now(), undone: !back });
  send('/api/holds/{id}/undo', holdId, { seq: 0, ...(back ? { back } : {}) });
}

// pressed tells hand and ear that a press was taken.
function pressed(): void {
  navigator.vibrate?.(30);
  pressSound();
}

export function noticed(job: Job, how: Job['escape']): void {
  send('/api/jobs/{id}/escape', job.id, { how });
}

// lastAct is the act that is on during a hold, as its event; none where the last one was undone.
export function lastAct(hold: Hold | undefined): string {
  return hold?.events.findLast((e) => e.kind === 'act over' || e.kind.startsWith('act:'))?.kind ?? '';
}

export function tick(job: Job, item: string, on: boolean): void {
  send('/api/jobs/{id}/ticks', job.id, { item, on });
}

// ticksOf are ticks as they stand: what was ticked here counts at once, before the sheet comes back with it.
export function ticksOf(job: Job, items: Tick[]): Tick[] {
  const on: Record<string, boolean> = {};
  const path = '/api/jobs/{id}/ticks';
  for (const w of outbox.under<{ id: string; item: string; on: boolean }>(path, job.id, job.receipts ?? 0))
    if (!outbox.refused(w.id)) on[w.item] = w.on;
  return items.map((t) => ({ ...t, ticked: on[t.id] ?? t.ticked }));
}

// leaveRunning needs no moment: it changes nothing of what was read.
export function leaveRunning(h: Hold): void {
  send('/api/holds/{id}/leave', h.id, { laid_by: !h.laid_by });
}
