// What was pressed here and is not acknowledged yet: the page goes on with it at once.
import type { Hold } from './api/client';
import { me } from './me.svelte';
import { outbox } from './outbox.svelte';

// Kept is a reading that waits: a figure in the gauge's unit, or text as it was typed.
export interface Kept {
  value?: number;
  text?: string;
  how: 'read' | 'mark';
  gauge?: number;
  into?: string;
  at: string;
}

export interface Pending {
  strokes: number;
  shut: boolean;
  readings: Kept[]; // of the gauge at which this page is
}

export function pending(hold: Hold): Pending {
  const out: Pending = { strokes: 0, shut: false, readings: [] };
  for (const { path, body } of outbox.waitingOn(hold.id)) {
    if (path === '/api/holds/{id}/readings') out.readings.push(body as Kept);
    if (path === '/api/holds/{id}/undo') out.readings.pop();
    if (path !== '/api/holds/{id}/events') continue;
    const { kind } = body as { kind: string };
    if (kind === 'stroke') out.strokes++;
    if (kind === 'isolate') out.shut = true;
  }
  const far = me.far && hold.far !== null;
  out.readings = out.readings.filter((r) => r.into === undefined && (r.gauge === 2) === far);
  return out;
}

// endOf is the gauge at which this page is: the hold's own, or the one at the other end.
export function endOf(hold: Hold) {
  return me.far && hold.far ? { ...hold.far, far: true as const } : { ...hold, far: false as const };
}

// standing is where the needle was last put by this page, in the gauge's unit; undefined where that is not
// known here, as of a figure typed in another unit.
export function standing(waits: Pending, draws: boolean): number | undefined {
  const last = waits.readings.at(-1);
  const plain = last?.text?.trim().replace(',', '.').replace('−', '-');
  const at = last?.value ?? (plain && /^-?\d*\.?\d+$/.test(plain) ? Number(plain) : undefined);
  return draws && at !== undefined ? -Math.abs(at) : at; // under vacuum 7 and −7 mean the same
}
