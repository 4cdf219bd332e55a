// Talks to the server. Shapes come from the generated interface; nothing is typed by hand here.
import { shutOut } from '../door.svelte';
import { me } from '../me.svelte';
import { capital } from '../show';
import type { components, paths } from './schema';

type Schemas = components['schemas'];
export type Bolt = Schemas['Bolt'];
export type Bench = Schemas['BenchView'];
export type Answer = Schemas['Answer'];
export type Calculator = Schemas['Calculator'];
export type Call = Schemas['CallView'];
export type ForkAt = Schemas['ForkAt'];
export type Gauge = Schemas['Gauge'];
export type Compare = Schemas['CompareView'];
export type Dropped = Schemas['DroppedView'];
export type FitPoint = Schemas['FitPoint'];
export type Hold = Schemas['HoldView'];
export type Interval = Schemas['Interval'];
export type Item = Schemas['Item'];
export type Further = Schemas['Further'];
export type MachinePage = Schemas['MachineView'];
export type Job = Schemas['JobView'] & { receipts?: number }; // of this page, that the sheet holds at least
export type Mark = Schemas['MarkView'];
export type Plan = Schemas['PlanView'];
export type PlanChoice = Schemas['Plan'];
export type Door = Schemas['DoorView'];
export type Takeover = Schemas['Takeover'];
export type Keep = Schemas['KeepView'];
export type Condition = Schemas['Condition'];
export type KitItem = Schemas['ItemView'];
export type KitList = Schemas['ListView'];
export type Receipt = Schemas['Receipt'];
export type StageId = Hold['stage'];
export type Point = Schemas['Point'];
export type RingKind = Hold['ring'];
export type Shown = Schemas['Shown'];
export type Stage = Schemas['StageView'];
export type CircuitRow = Schemas['CircuitRow'];
export type CircuitView = Schemas['CircuitView'];
export type Field = Schemas['Field'];
export type Step = Schemas['StepView'];
export type Suspect = Schemas['SuspectView'];
export type Proposal = Schemas['Proposal'];
export type HuntAct = Schemas['HuntAct'];
export type Passages = Schemas['PassagesView'] & { receipts?: number }; // as of a job
export type PassageTest = Schemas['PassageTest'];
export type PassageChange = Schemas['PassageChange'];
export type Tick = Schemas['TickView'];

type Reply<P extends keyof paths, M extends 'get' | 'post'> = paths[P][M] extends {
  responses: { 200: { content: { 'application/json': infer T } } };
}
  ? T
  : never;

// What the server refused, in its own words: what is wrong and what would be right.
export class Refused extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly field: string,
  ) {
    super(message);
  }
}

// No answer that can be read: a write may be tried again under its id. reached tells that
// the server was there and its answer was cut off or spoiled.
export class NoAnswer extends Error {
  constructor(readonly reached = false) {
    super('No answer from the server. What you do is kept here and sent when it is back.');
  }
}

async function call(path: string, init?: RequestInit): Promise<unknown> {
  let answer: Response;
  try {
    answer = await fetch(path, init);
  } catch {
    throw new NoAnswer();
  }
  let text: string;
  try {
    text = await answer.text();
    if (answer.ok) return JSON.parse(text);
  } catch {
    // Cut off on the way, or not readable: whether it was taken is not known, so the
    // same write goes again under its id.
    throw new NoAnswer(true);
  }
  let says = `The server answered ${answer.status}.`;
  let field = '';
  try {
    const problem = JSON.parse(text) as Schemas['ErrorModel'];
    const first = problem.errors?.[0];
    says = first?.message ?? problem.detail ?? says;
    field = (first?.location ?? '').replace(/^body\./, '');
  } catch {
    // Not a problem answer: the status has to do.
  }
  if (answer.status === 401) shutOut.value = true;
  throw new Refused(answer.status, capital(says), field);
}

function fill(path: string, id?: string): string {
  return id === undefined ? path : path.replace(/\{\w+\}/, encodeURIComponent(id));
}

// What the door answers is not described with the rest: it sets a cookie.
export interface AtTheDoor {
  this_computer: boolean;
  signed_in: boolean;
  pin_set: boolean;
  owner: boolean; // the owner's actions are this page's
  device: string; // that is signed in; empty: none is
  person: string;
  role: Schemas['DeviceView']['role'] | '';
  borrowed: boolean; // this device is out again by itself
  stream: string; // where the event stream was then
  listed: number; // of its events that change what is listed
}
export const atTheDoor = () => call('/api/door') as Promise<AtTheDoor>;
const atDoor = (path: string, body: object) =>
  call(path, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  });
export const enter = (given: { pin: string; name: string; person: string; borrowed: boolean }) =>
  atDoor('/api/door', given);
export const leave = () => atDoor('/api/door/out', {});

// sendBundle sends a bundle to be looked at, or to be taken over.
export const sendBundle = (file: File, take: boolean, by: string) =>
  call(
    take ? '/api/bundle?' + new URLSearchParams({ by, device: me.device }).toString() : '/api/bundle/look',
    {
      method: 'POST',
      headers: { 'Content-Type': 'application/zip' },
      body: file,
    },
  ) as Promise<Takeover>;

export function get<P extends keyof paths>(
  path: P,
  opts: { id?: string; query?: Record<string, string> } = {},
): Promise<Reply<P, 'get'>> {
  const q = opts.query ? '?' + new URLSearchParams(opts.query).toString() : '';
  return call(fill(path, opts.id) + q) as Promise<Reply<P, 'get'>>;
}

export function post<P extends keyof paths>(path: P, body: object, id?: string): Promise<Reply<P, 'post'>> {
  return call(fill(path, id), {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  }) as Promise<Reply<P, 'post'>>;
}
