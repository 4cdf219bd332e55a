// The eye: a camera before a needle gauge, read once a second. What is cut out of its picture goes to the server, which finds
// the needle; nothing is kept but readings, and those only once they were asked for. It goes on while its hold's page
// changes, and ends with the hold.
import { NoAnswer, Refused, post, type Gauge, type Hold } from './api/client';
import type { components } from './api/schema';
import { moment, pace } from './clock';
import { drawnGauge } from './drawngauge';
import { angleOf, band, cut, inside, shifted, take, type Place, type Ring } from './face';
import { newId } from './id';
import { me } from './me.svelte';

export type Seen = components['schemas']['FaceSeen'];

export interface Point {
  x: number; // share of the picture's width and height
  y: number;
  value: number; // printed there, in the gauge's unit
}

// What is remembered of a gauge on this device: where its face was, its marks, and the band about them.
interface Known {
  place: Place;
  width: number; // of the picture, pixels
  scale: { angle: number; value: number; radius: number }[];
  shown: Ring;
}

// why there is no camera.
export type Refusal = '' | 'insecure' | 'refused' | 'none' | 'busy';

const readEvery = 1000; // ms of the shop's clock
const lookEvery = 400; // while it is set up
const soonest = 100; // ms: ten times a second at most
const searchStep = 0.07; // share of the radius
const searchReach = 4; // steps either way
const radii = 1.15; // of the face that is cut
const mostPoints = 12;

class Eye {
  hold = $state.raw<{ id: string; gauge: Gauge }>(); // whose gauge is looked at; undefined: the camera is off
  stage = $state<'asking' | 'points' | 'check' | 'reading'>('asking');
  refusal = $state<Refusal>('');
  points = $state.raw<(Point & { set: boolean })[]>([]);
  middle = $state.raw<{ x: number; y: number }>();
  place = $state.raw<Place>();
  scale = $state.raw<Known['scale']>([]);
  seen = $state.raw<Seen>();
  size = $state.raw({ width: 4, height: 3 }); // of the picture, pixels
  says = $state(''); // of the server, where it refuses or does not answer
  frames = $state(0); // answered
  kept = $state(0); // readings taken down
  lost = $state(0); // how often the face was looked for
  cutMs = $state(0); // how long the page works on a picture
  cameras = $state.raw<{ id: string; label: string }[]>([]);
  stream = $state.raw<MediaStream>();

  #video = document.createElement('video');
  #end = () => {};
  #shown: Ring | undefined;
  #near: number | undefined;
  #leapt = false;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #turn = 0; // of starts: what an earlier one still waits for is not wanted any more

  constructor() {
    this.#video.muted = true;
    this.#video.playsInline = true;
  }

  of(hold: Hold): boolean {
    return this.hold?.id === hold.id;
  }

  // start puts the camera on for a hold; a camera may be chosen.
  async start(hold: Hold, camera = ''): Promise<void> {
    this.stop();
    const turn = ++this.#turn;
    this.hold = { id: hold.id, gauge: hold.gauge };
    this.stage = 'asking';
    const got = await this.#open(hold, camera);
    if (turn !== this.#turn) {
      got?.end();
      return;
    }
    if (!got) return;
    this.#end = got.end;
    this.stream = got.stream;
    this.#video.srcObject = got.stream;
    try {
      await this.#video.play();
    } catch {
      // It plays as soon as there is a picture.
    }
    if (turn !== this.#turn) return;
    this.size = { width: this.#video.videoWidth || 4, height: this.#video.videoHeight || 3 };
    const known = this.#remembered();
    if (known && (await this.#recall(known))) {
      if (turn !== this.#turn) return;
      this.stage = 'check';
    } else {
      if (turn !== this.#turn) return;
      this.again();
    }
    this.#next(turn);
  }

  async #open(hold: Hold, camera: string): Promise<{ stream: MediaStream; end: () => void } | undefined> {
    if (hold.simulated) return drawnGauge(hold.id, hold.gauge);
    // A page that did not come by a secure connection is given no camera to ask for.
    const devices = navigator.mediaDevices as MediaDevices | undefined;
    if (!devices) {
      this.refusal = 'insecure';
      return undefined;
    }
    try {
      const stream = await devices.getUserMedia({
        video: {
          width: { ideal: 1280 },
          height: { ideal: 720 },
          ...(camera ? { deviceId: { exact: camera } } : { facingMode: { ideal: 'environment' } }),
        },
      });
      const all = await devices.enumerateDevices();
      this.cameras = all
        .filter((d) => d.kind === 'videoinput')
        .map((d, i) => ({ id: d.deviceId, label: d.label || `Camera ${i + 1}` }));
      return {
        stream,
        end: () => {
          for (const t of stream.getTracks()) t.stop();
        },
      };
    } catch (e) {
      const name = e instanceof DOMException ? e.name : '';
      this.refusal = name === 'NotAllowedError' ? 'refused' : name === 'NotFoundError' ? 'none' : 'busy';
      return undefined;
    }
  }

  stop(): void {
    this.#turn++;
    clearTimeout(this.#timer);
    this.#end();
    this.#end = () => {};
    this.#video.srcObject = null;
    this.stream = undefined;
    this.hold = undefined;
    this.seen = undefined;
    this.place = undefined;
    this.refusal = this.says = '';
    this.frames = this.kept = this.lost = 0;
    this.#near = undefined;
  }

  // again begins the set-up: the middle, then the marks.
  again(): void {
    const ring = this.hold!.gauge.rings[this.hold!.gauge.read]!;
    this.stage = 'points';
    this.middle = this.place = this.seen = this.#near = undefined;
    this.points = [ring.from, ring.to].map((value) => ({ x: 0, y: 0, value, set: false }));
  }

  // tap sets the next point; x and y are shares of the picture.
  tap(x: number, y: number): void {
    if (!this.middle) {
      this.middle = { x, y };
      return;
    }
    const next = this.points.findIndex((p) => !p.set);
    if (next < 0) return;
    this.points = this.points.map((p, i) => (i === next ? { ...p, x, y, set: true } : p));
    if (this.points.every((p) => p.set)) this.#settle();
  }

  // value says what is printed at the mark that is tapped next.
  value(v: number): void {
    const next = this.points.findIndex((p) => !p.set);
    this.points = this.points.map((p, i) => (i === next ? { ...p, value: v } : p));
  }

  // more asks for one more mark, for a face that is not even.
  more(): void {
    if (this.points.length >= mostPoints) return;
    const ring = this.hold!.gauge.rings[this.hold!.gauge.read]!;
    this.stage = 'points';
    this.points = [...this.points, { x: 0, y: 0, value: (ring.from + ring.to) / 2, set: false }];
  }

  #settle(): void {
    const at = (p: { x: number; y: number }) => ({ x: p.x * this.size.width, y: p.y * this.size.height });
    const pivot = at(this.middle!);
    const far = (p: Point) => Math.hypot(at(p).x - pivot.x, at(p).y - pivot.y);
    const radius = far(this.points[0]!);
    const place = { ...pivot, radius, turn: 0 };
    this.place = place;
    this.scale = this.points.map((p) => ({
      angle: angleOf(place, at(p).x, at(p).y),
      value: p.value,
      radius: radius > 0 ? far(p) / radius : 0,
    }));
    this.#shown = this.#near = this.seen = undefined;
    this.says = '';
    this.stage = 'check';
  }

  // go takes readings from now on, and remembers the gauge.
  go(): void {
    if (this.seen?.value == null || !this.#shown || !this.place) return;
    this.stage = 'reading';
    const known: Known = { place: this.place, width: this.size.width, scale: this.scale, shown: this.#shown };
    try {
      localStorage.setItem('hiss.eye.' + this.hold!.gauge.id, JSON.stringify(known));
    } catch {
      // It is set up again the next time.
    }
  }

  #remembered(): Known | undefined {
    try {
      const text = localStorage.getItem('hiss.eye.' + this.hold!.gauge.id);
      const known = text ? (JSON.parse(text) as Known) : undefined;
      return known?.width === this.size.width ? known : undefined;
    } catch {
      return undefined;
    }
  }

  // recall looks whether a face that is remembered is before the camera.
  async #recall(known: Known): Promise<boolean> {
    this.scale = known.scale;
    this.#shown = known.shown;
    return this.#search(known.place);
  }

  // search looks for the face about a place, first near it.
  async #search(about: Place): Promise<boolean> {
    if (!this.#shown || !this.hold) return false;
    this.lost++;
    const wide = take(this.#video, about, radii + searchReach * searchStep * 1.5);
    if (!wide) return false;
    const places: Place[] = [];
    for (let i = -searchReach; i <= searchReach; i++) {
      for (let j = -searchReach; j <= searchReach; j++) {
        const step = searchStep * about.radius;
        places.push({ ...about, x: about.x + i * step, y: about.y + j * step });
      }
    }
    try {
      const found = await post(
        '/api/holds/{id}/face',
        {
          id: newId(),
          by: me.by,
          device: me.device,
          shown: this.#shown,
          tries: places.map((p) => cut(wide, p, band)),
        },
        this.hold.id,
      );
      if (found.same) this.place = shifted(places[found.best]!, found.shift);
      return found.same;
    } catch {
      return false; // it is looked for again
    }
  }

  #next(turn: number): void {
    this.#timer = setTimeout(
      () => {
        void this.#look(turn).finally(() => {
          if (turn === this.#turn) this.#next(turn);
        });
      },
      this.stage === 'reading' ? Math.max(soonest, readEvery / pace()) : lookEvery,
    );
  }

  // look reads one picture.
  async #look(turn: number): Promise<void> {
    if (this.#video.videoWidth && this.#video.videoWidth !== this.size.width)
      this.size = { width: this.#video.videoWidth, height: this.#video.videoHeight };
    const at = this.place;
    if (!at || !this.hold || (this.stage !== 'check' && this.stage !== 'reading')) return;
    const began = performance.now();
    const grey = take(this.#video, at, radii);
    if (!grey) return;
    const marks = cut(grey, at, band);
    const keep = this.stage === 'reading';
    const body = {
      id: newId(),
      by: me.by,
      device: me.device,
      ...moment(),
      face: cut(grey, at, inside),
      marks,
      ...(this.#shown ? { shown: this.#shown } : {}),
      scale: this.scale,
      ...(this.#near === undefined ? {} : { near: this.#near }),
      leapt: this.#leapt,
      keep,
    };
    this.cutMs = performance.now() - began;
    try {
      const seen = await post('/api/holds/{id}/faces', body, this.hold.id);
      if (turn !== this.#turn || at !== this.place) return;
      this.says = '';
      this.seen = seen;
      this.#leapt = seen.fault === 'leapt';
      if (seen.trust !== 'none' || seen.fault === 'leapt') this.#near = seen.angle;
      // What is seen at the set-up is what is looked for from then on.
      if (!this.#shown && seen.trust !== 'none') this.#shown = marks;
      if (seen.kept) this.kept++;
      if (seen.fault === 'moved') this.place = shifted(at, seen.shift);
      if (seen.fault === 'lost') await this.#search(at);
    } catch (e) {
      if (turn !== this.#turn) return;
      this.seen = undefined;
      this.says = e instanceof Refused || e instanceof NoAnswer ? e.message : String(e);
      // A hold that has ended is not looked at any more.
      if (e instanceof Refused && e.status === 409) this.stop();
    } finally {
      this.frames++;
    }
  }
}

export const eye = new Eye();
