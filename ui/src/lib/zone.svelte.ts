// What the shop's clocks show: dates and times are read by them, in whatever time zone this device is.
export interface Span {
  from: number; // ms since the epoch
  ahead: number; // s ahead of universal time from then on
}

let spans = $state.raw<Span[]>([]);

export const zone = {
  get spans() {
    return spans;
  },
};

export function setZone(s: Span[]): void {
  spans = s;
  document.documentElement.dataset.zone = s.length ? 'shop' : 'device';
}

// inShop writes a moment as the shop's clocks show it; as this device's do while they are not known.
export function inShop(iso: string, how: Intl.DateTimeFormatOptions): string {
  const at = Date.parse(iso);
  const span = spans.findLast((s) => s.from <= at) ?? spans[0];
  const place = span ? { timeZone: 'UTC' } : {};
  return new Intl.DateTimeFormat('en-GB', { ...how, ...place }).format(at + (span?.ahead ?? 0) * 1000);
}
