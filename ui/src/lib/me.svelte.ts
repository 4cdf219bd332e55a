// Who writes, from where, and how this page is liked: kept on the device.
import { newId } from './id';

const kept = {
  by: 'hiss.by',
  device: 'hiss.device',
  theme: 'hiss.theme',
  sound: 'hiss.sound',
  speech: 'hiss.speech',
  keys: 'hiss.keys',
  far: 'hiss.far',
} as const;

function read(key: string, otherwise: string): string {
  try {
    return localStorage.getItem(key) ?? otherwise;
  } catch {
    return otherwise;
  }
}

function write(key: string, value: string): void {
  try {
    localStorage.setItem(key, value);
  } catch {
    // A browser that keeps nothing still works; it only forgets.
  }
}

export type Theme = 'day' | 'night';

class Me {
  #by = $state(read(kept.by, ''));
  #theme = $state<Theme>(
    read(kept.theme, matchMedia('(prefers-color-scheme: dark)').matches ? 'night' : 'day') as Theme,
  );
  #sound = $state(read(kept.sound, 'on') === 'on');
  #speech = $state(read(kept.speech, 'off') === 'on');
  #letters = $state(read(kept.keys, 'on') === 'on');
  #far = $state(read(kept.far, 'off') === 'on');
  heading = $state(''); // of the screen or stage that is open, for the page's title
  readonly device: string;

  constructor() {
    this.device = read(kept.device, '') || `page-${newId().slice(0, 8)}`;
    write(kept.device, this.device);
    document.documentElement.dataset.theme = this.#theme;
  }
  get by() {
    return this.#by;
  }
  set by(v: string) {
    this.#by = v;
    write(kept.by, v);
  }
  get theme() {
    return this.#theme;
  }
  set theme(v: Theme) {
    this.#theme = v;
    document.documentElement.dataset.theme = v;
    write(kept.theme, v);
  }
  get sound() {
    return this.#sound;
  }
  set sound(v: boolean) {
    this.#sound = v;
    write(kept.sound, v ? 'on' : 'off');
  }
  get speech() {
    return this.#speech;
  }
  set speech(v: boolean) {
    this.#speech = v;
    write(kept.speech, v ? 'on' : 'off');
  }
  // This page is carried at the far end, so its pad is for the gauge there.
  get far() {
    return this.#far;
  }
  set far(v: boolean) {
    this.#far = v;
    write(kept.far, v ? 'on' : 'off');
  }
  // Single letters as keys; some people drive the page by voice or brush against keys.
  get letters() {
    return this.#letters;
  }
  set letters(v: boolean) {
    this.#letters = v;
    write(kept.keys, v ? 'on' : 'off');
  }
}

export const me = new Me();
