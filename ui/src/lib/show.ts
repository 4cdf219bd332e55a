// How figures and times are written. Units are always said.
import type { Hold, Interval, RingKind, Shown } from './api/client';
import { inShop } from './zone.svelte';

// clock writes seconds as people count a hold: 4:10, or 1:04:10.
export function clock(s: number): string {
  const t = Math.max(0, Math.round(s));
  const sec = String(t % 60).padStart(2, '0');
  const min = Math.floor(t / 60) % 60;
  const h = Math.floor(t / 3600);
  return h > 0 ? `${h}:${String(min).padStart(2, '0')}:${sec}` : `${min}:${sec}`;
}

// figure writes two significant digits without an exponent, as a range deserves.
export function figure(v: number, digits = 2): string {
  if (v === 0 || !Number.isFinite(v)) return '0';
  const places = Math.max(0, digits - 1 - Math.floor(Math.log10(Math.abs(v))));
  if (places > 4) return '0';
  const shown = Number(v.toPrecision(digits));
  return shown.toFixed(places).replace('-', '−');
}

export function range(i: Interval): string {
  return `${figure(i.low)} to ${figure(i.high)}`;
}

export function both(s: Shown): string {
  return `${s.text} ${s.unit} (${s.other})`;
}

export function day(iso: string): string {
  return inShop(iso, { day: 'numeric', month: 'short', year: 'numeric' });
}

// dayTime is a moment within the year: 4 May, 17:09.
export function dayTime(iso: string): string {
  return inShop(iso, { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });
}

// timeThen is a moment within the week: Tue 17:09.
export function timeThen(iso: string): string {
  return inShop(iso, { weekday: 'short', hour: '2-digit', minute: '2-digit' });
}

// capital gives a sentence its first letter: "Öl" from "öl", and nothing from nothing.
export function capital(s: string): string {
  const [first = ''] = s;
  return first.toUpperCase() + s.slice(first.length);
}

export function timeOfDay(iso: string): string {
  return inShop(iso, { hour: '2-digit', minute: '2-digit' });
}

// ago is how long it is since a moment, ms, roughly.
export function ago(ms: number): string {
  const of = (n: number, what: string) => `${n} ${what}${n === 1 ? '' : 's'}`;
  const minutes = Math.floor(ms / 60_000);
  if (minutes < 1) return 'less than a minute';
  if (minutes < 90) return of(minutes, 'minute');
  const hours = Math.round(minutes / 60);
  return hours < 36 ? of(hours, 'hour') : of(Math.round(hours / 24), 'day');
}

export const ringWords: Record<RingKind, string> = {
  whole: 'tight',
  dotted: 'no call yet',
  nicked: 'losing a little, within what is allowed',
  cut: 'leaking',
};

// calledWords are what a hold was called, in a word or two.
export function calledWords(h: Hold): string {
  return h.ring === 'dotted' ? 'Not called' : capital(h.ring === 'nicked' ? 'tight' : ringWords[h.ring]);
}

export const ringInk: Record<RingKind, string> = {
  whole: 'text-teal',
  dotted: 'text-slate',
  nicked: 'text-brass',
  cut: 'text-vermilion',
};

export const shapeWords: Record<NonNullable<Hold['report']>['shape'], string> = {
  tight: 'still',
  settling: 'settling',
  leak: 'a steady loss',
  'settling+leak': 'settling, then a steady loss',
  floor: 'falling to a floor',
  temperature: 'following the temperature',
  rising: 'rising',
  step: 'a sudden loss',
  unclear: 'not clear',
};

// faultWords name what is wrong with a gauge, short.
export const faultWords: Record<Hold['faults'][number]['kind'], string> = {
  silent: 'silent',
  stuck: 'stuck',
  jumped: 'jumped',
  'off-scale': 'off its scale',
  'other-unit': 'in another unit',
};

// What a step says, in a word.
export const verdicts = { good: 'Right', bad: 'Not right', unknown: 'Not yet' } as const;

// lower starts a title in the middle of a sentence; a name such as "B" keeps its letter.
export function lower(s: string): string {
  const second = s.charAt(1);
  return second !== '' && second === second.toUpperCase() ? s : s.charAt(0).toLowerCase() + s.slice(1);
}
