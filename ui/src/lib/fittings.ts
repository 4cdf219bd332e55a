// The families and makes that a piece of kit may be of, as the server lists them: a word
// that is missing here or is one too many does not compile.
import type { components } from './api/schema';

type New = components['schemas']['NewFitting'];
type Family = NonNullable<New['families']>[number];
type Make = NonNullable<New['make']>;

const familyTable: Record<Family, boolean> = {
  'thread inside': false,
  'thread outside': false,
  bayonet: false,
  'double-ring plug': true,
  'expanding rubber': true,
  bladder: true,
  'plug stopper': true,
  'rubber sheet': false,
  'lidded coupler': false,
  'tapped plug': false,
  'hose nipple': false,
  'charging valve': false,
  'test point': false,
  'coupling head': false,
};
const makeTable: Record<Make, true> = { '': true, shallow: true, deep: true, fine: true, coarse: true };

export const families = Object.keys(familyTable) as Family[];
export const makes = Object.keys(makeTable) as Make[];

// sized tells a family that comes in sizes.
export const sized = (family: string): boolean => familyTable[family as Family] ?? false;
