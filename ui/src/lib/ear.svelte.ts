// The ear: how much louder it hisses at the microphone than in the shop at large, between 2 and 16 kHz. Levels are told
// against the noise that was learned, never as a flow; nothing of the sound is kept or sent.
import { SvelteMap } from 'svelte/reactivity';

const lowest = 2000; // Hz: below it are voices and engines
const highest = 16_000;
const learnS = 5;
const every = 50; // ms
const calm = 0.2; // share of the newest level in what is shown
const loudSwing = 10; // dB by which a shop's own noise goes up and down: no hiss is told from it
const loudLevel = -45; // dB of full scale between those frequencies: the same
const ticks = { tone: 180, least: 2, most: 14 }; // Hz, below what is listened to; a second

export type NoEar = '' | 'insecure' | 'refused' | 'none' | 'busy';

class Ear {
  stage = $state<'off' | 'asking' | 'learning' | 'listening'>('off');
  refusal = $state<NoEar>('');
  level = $state(0); // dB above the shop's noise
  learned = $state(0); // share of the learning that is done
  loud = $state(false); // the shop is too loud
  sounding = $state(false); // ticks are heard
  readonly loudest = new SvelteMap<string, number>(); // dB, by part
  part = ''; // in hand

  #stream: MediaStream | undefined;
  #ctx: AudioContext | undefined;
  #timer: ReturnType<typeof setInterval> | undefined;
  #turn = 0;
  #ticked = 0;

  get on(): boolean {
    return this.stage !== 'off' && this.#stream !== undefined;
  }

  async start(): Promise<void> {
    this.stop();
    const turn = ++this.#turn;
    this.stage = 'asking';
    const devices = navigator.mediaDevices as MediaDevices | undefined;
    if (!devices) {
      this.#refuse('insecure');
      return;
    }
    let stream: MediaStream;
    try {
      // What makes speech clearer takes a hiss away.
      stream = await devices.getUserMedia({
        audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false },
      });
    } catch (e) {
      const name = e instanceof DOMException ? e.name : '';
      if (turn === this.#turn)
        this.#refuse(name === 'NotAllowedError' ? 'refused' : name === 'NotFoundError' ? 'none' : 'busy');
      return;
    }
    if (turn !== this.#turn) {
      for (const t of stream.getTracks()) t.stop();
      return;
    }
    this.#stream = stream;
    this.#ctx = new AudioContext();
    void this.#ctx.resume();
    const hears = this.#ctx.createAnalyser();
    hears.fftSize = 2048;
    hears.smoothingTimeConstant = 0;
    this.#ctx.createMediaStreamSource(stream).connect(hears);
    this.#listen(hears, this.#ctx);
  }

  #refuse(why: NoEar): void {
    this.refusal = why;
    this.stage = 'off';
  }

  // again learns the shop's noise once more.
  again(): void {
    if (this.#ctx) void this.start();
  }

  stop(): void {
    this.#turn++;
    clearInterval(this.#timer);
    for (const t of this.#stream?.getTracks() ?? []) t.stop();
    void this.#ctx?.close();
    this.#stream = this.#ctx = undefined;
    this.stage = 'off';
    this.refusal = '';
    this.level = this.learned = 0;
    this.loud = false;
    this.loudest.clear();
  }

  #listen(hears: AnalyserNode, ctx: AudioContext): void {
    const bin = ctx.sampleRate / hears.fftSize;
    const from = Math.ceil(lowest / bin);
    const to = Math.min(hears.frequencyBinCount, Math.floor(Math.min(highest, ctx.sampleRate / 2) / bin));
    const db = new Float32Array(hears.frequencyBinCount);
    const noise = new Float64Array(to - from);
    const levels: number[] = [];
    const wanted = (learnS * 1000) / every;
    this.stage = 'learning';
    this.#timer = setInterval(() => {
      hears.getFloatFrequencyData(db);
      let all = 0;
      let over = 0;
      for (let i = from; i < to; i++) {
        const power = 10 ** (Math.max(-140, db[i]!) / 10);
        all += power;
        if (this.stage === 'learning') noise[i - from]! += power;
        else over += power / noise[i - from]!;
      }
      if (this.stage === 'learning') {
        if (ctx.state !== 'running') return; // nothing is heard yet
        levels.push(10 * Math.log10(all));
        this.learned = levels.length / wanted;
        if (levels.length < wanted) return;
        for (let i = 0; i < noise.length; i++) noise[i]! /= levels.length;
        levels.sort((a, b) => a - b);
        const at = (q: number) => levels[Math.floor(q * (levels.length - 1))]!;
        this.loud = at(0.95) - at(0.05) > loudSwing || at(0.5) > loudLevel;
        this.stage = 'listening';
        return;
      }
      const now = Math.max(0, 10 * Math.log10(over / noise.length));
      this.level += calm * (now - this.level);
      if (this.part) this.loudest.set(this.part, Math.max(this.loudest.get(this.part) ?? 0, this.level));
      this.#tick(ctx);
    }, every);
  }

  // A tick that comes the faster, the louder it hisses; too low to be heard by the ear itself.
  #tick(ctx: AudioContext): void {
    if (!this.sounding || this.level < ticks.least) return;
    const rate = Math.min(ticks.most, this.level / 2);
    if (ctx.currentTime - this.#ticked < 1 / rate) return;
    this.#ticked = ctx.currentTime;
    const o = ctx.createOscillator();
    const g = ctx.createGain();
    o.frequency.value = ticks.tone;
    g.gain.setValueAtTime(0.3, ctx.currentTime);
    g.gain.exponentialRampToValueAtTime(0.001, ctx.currentTime + 0.03);
    o.connect(g).connect(ctx.destination);
    o.start();
    o.stop(ctx.currentTime + 0.03);
  }
}

export const ear = new Ear();
