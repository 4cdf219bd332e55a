// Thinning for the screen: of each bucket in a row the lowest and the highest stay, so
// that no peak goes, as the server thins.

// extremes keeps about most of the items, always the first and the last and those that
// keep says.
export function extremes<T extends object>(
  all: T[],
  most: number,
  value: (x: T) => number,
  keep: (x: T) => boolean = () => false,
): T[] {
  if (all.length <= most || most < 4) return all;
  const size = Math.ceil((2 * all.length) / most);
  const out: T[] = [];
  for (let i = 0; i < all.length; i += size) {
    const bucket = all.slice(i, i + size);
    let low: T = bucket[0]!;
    let high: T = low;
    for (const x of bucket) {
      if (value(x) < value(low)) low = x;
      if (value(x) > value(high)) high = x;
    }
    for (const x of bucket)
      if (x === low || x === high || x === all[0] || x === all.at(-1) || keep(x)) out.push(x);
  }
  return out;
}
