// The last reading that this page noted or took back, for as long as it can be undone at once.
export interface Noted {
  hold: string;
  text: string;
  at: number; // ms since the epoch, of the server's clock
  undone: boolean;
}

const mostMs = 5000;
let noted = $state.raw<Noted>();
let timer: ReturnType<typeof setTimeout> | undefined;

export function note(n: Noted): void {
  noted = n;
  clearTimeout(timer);
  timer = setTimeout(() => (noted = undefined), mostMs);
}

export function notedOn(hold: string): Noted | undefined {
  return noted?.hold === hold ? noted : undefined;
}
