// Which circuit is meant, from what was typed of machine and complaint.
import type { CircuitRow } from './api/client';

// Words that say a family where its title does not.
const hints: Record<string, string> = {
  coolant: 'cooling',
  overheats: 'cooling',
  cap: 'cap',
  radiator: 'cooler',
  boost: 'intake',
  turbo: 'intake',
  whistle: 'intake',
  saw: 'crankcase',
  blower: 'crankcase',
  'two-stroke': 'crankcase',
  carburettor: 'carburettor',
  primer: 'carburettor',
  floods: 'carburettor',
  head: 'head',
  block: 'block',
  lift: 'housing',
  valve: 'housing',
  sinks: 'housing',
  tipper: 'hydraulic',
  tipping: 'hydraulic',
  tail: 'hydraulic',
  accumulator: 'accumulator',
  press: 'accumulator',
  train: 'train',
  wagon: 'train',
  brake: 'train',
};

// proposed is the circuit that most words speak for; the first where none does.
export function proposed(all: CircuitRow[], typed: string): string {
  const words = typed.toLowerCase().match(/[\p{L}-]{3,}/gu) ?? [];
  let best = all[0]?.id ?? '';
  let most = 0;
  for (const c of all) {
    const about = `${c.title} ${c.id} ${c.complaints.join(' ')}`.toLowerCase();
    let score = 0;
    for (const w of words) {
      if (hints[w] === c.family) score += 2;
      else if (w.length > 3 && about.includes(w)) score += 0.5;
    }
    // A cooling loop is what most jobs are: others must be spoken for plainly.
    if (c.family !== 'cooling') score -= 0.6;
    if (score > most + 1e-9) {
      most = score;
      best = c.id;
    }
  }
  return best;
}
