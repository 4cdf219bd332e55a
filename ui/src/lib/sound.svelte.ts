// Cues that a shop can hear: one low steady tone for tight, two falling for
// leaking, one short for "look now". Made here, so nothing is loaded.
import type { Hold } from './api/client';
import { me } from './me.svelte';
import { ringWords } from './show';

// A browser lets no sound through before the page was touched: until then nothing is heard, and the page
// says so.
let ctx: AudioContext | undefined;
let blocked = $state(false);
export const sound = {
  get blocked() {
    return blocked;
  },
};

function context(): AudioContext {
  if (!ctx) {
    const made = new AudioContext();
    made.onstatechange = () => (blocked = made.state !== 'running');
    ctx = made;
  }
  blocked = ctx.state !== 'running';
  return ctx;
}

// ready finds out whether sound is allowed, and asks for it at the first touch or key.
export function ready(): () => void {
  const wake = () => {
    try {
      void context().resume();
    } catch {
      // No sound here; the ring and the word say the same.
    }
  };
  wake();
  addEventListener('pointerdown', wake);
  addEventListener('keydown', wake);
  return () => {
    removeEventListener('pointerdown', wake);
    removeEventListener('keydown', wake);
  };
}

function tone(from: number, to: number, at: number, long: number): void {
  if (!me.sound) return;
  try {
    const ctx = context();
    const o = ctx.createOscillator();
    const g = ctx.createGain();
    const t = ctx.currentTime + at;
    o.frequency.setValueAtTime(from, t);
    o.frequency.linearRampToValueAtTime(to, t + long);
    g.gain.setValueAtTime(0, t);
    g.gain.linearRampToValueAtTime(0.25, t + 0.02);
    g.gain.setValueAtTime(0.25, t + long - 0.05);
    g.gain.linearRampToValueAtTime(0, t + long);
    o.connect(g).connect(ctx.destination);
    o.start(t);
    o.stop(t + long);
  } catch {
    // No sound here; the ring and the word say the same.
  }
}

export function callSound(h: Hold): void {
  if (h.ring === 'dotted') return;
  speak(`Call on the ${h.machine}: ${ringWords[h.ring]}.`);
  if (h.ring === 'cut') {
    tone(520, 390, 0, 0.35);
    tone(440, 290, 0.45, 0.5);
  } else {
    tone(196, 196, 0, 1.1);
  }
}

// A reading is due: one short.
export function readSound(h: Hold): void {
  speak(`Read the gauge now: ${h.machine}.`);
  tone(660, 660, 0, 0.15);
}

// A look is due: the same one, twice.
export function lookSound(machine: string): void {
  speak(`Look again: ${machine}.`);
  tone(660, 660, 0, 0.15);
  tone(660, 660, 0.3, 0.15);
}

// tryIt lets a person hear how a call sounds.
export function tryIt(): void {
  void context().resume();
  tone(196, 196, 0, 1.1);
  speak('Call: tight.');
}

// The pressure is over the limit: three high ones, whatever else sounds.
export function alarmSound(h: Hold): void {
  speak(`${h.machine}: ${h.alarm_text}`);
  for (const at of [0, 0.3, 0.6]) tone(980, 980, at, 0.2);
}

// Said aloud where the browser has a voice of its own, which needs no network.
function speak(words: string): void {
  if (!me.speech || !('speechSynthesis' in window)) return;
  const voice = speechSynthesis.getVoices().find((v) => v.localService && v.lang.startsWith('en'));
  const say = new SpeechSynthesisUtterance(words);
  if (voice) say.voice = voice;
  say.lang = 'en';
  speechSynthesis.speak(say);
}

// A press that was taken.
export function pressSound(): void {
  tone(880, 880, 0, 0.06);
}
