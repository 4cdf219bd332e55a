// Cuts a gauge's face out of a picture: rings of grey values about the pivot, clockwise from straight up. The picture itself
// never leaves the page.
import type { components } from './api/schema';

export type Ring = components['schemas']['Unwrapped'];

// Where the face is in the picture: pixels, and degrees by which it stands turned.
export interface Place {
  x: number;
  y: number;
  radius: number; // at which the lowest mark stands
  turn: number;
}

interface Shape {
  columns: number;
  rows: number;
  inner: number;
  outer: number;
}
export const inside: Shape = { columns: 720, rows: 24, inner: 0.2, outer: 0.72 };
export const band: Shape = { columns: 360, rows: 8, inner: 0.76, outer: 1.08 };

// A picture in grey, as much of it as is needed.
export interface Grey {
  left: number;
  top: number;
  width: number;
  height: number;
  of: Uint8ClampedArray; // four bytes a pixel
}

const canvas = document.createElement('canvas');
const pen = canvas.getContext('2d', { willReadFrequently: true });

// take draws what of a picture lies within some radii of a place.
export function take(from: HTMLVideoElement, at: Place, radii: number): Grey | undefined {
  const reach = Math.ceil(at.radius * radii) + 2;
  const left = Math.max(0, Math.floor(at.x - reach));
  const top = Math.max(0, Math.floor(at.y - reach));
  const width = Math.min(from.videoWidth, Math.ceil(at.x + reach)) - left;
  const height = Math.min(from.videoHeight, Math.ceil(at.y + reach)) - top;
  if (!pen || width < 8 || height < 8) return undefined;
  if (canvas.width < width) canvas.width = width;
  if (canvas.height < height) canvas.height = height;
  pen.drawImage(from, left, top, width, height, 0, 0, width, height);
  return { left, top, width, height, of: pen.getImageData(0, 0, width, height).data };
}

// cut unwraps a ring about a place.
export function cut(g: Grey, at: Place, s: Shape): Ring {
  const out = new Uint8Array(s.columns * s.rows);
  const { of, width, height } = g;
  const grey = (i: number) => 0.299 * of[i]! + 0.587 * of[i + 1]! + 0.114 * of[i + 2]!;
  for (let col = 0; col < s.columns; col++) {
    const angle = ((col / s.columns) * 360 + at.turn) * (Math.PI / 180);
    const sin = Math.sin(angle);
    const cos = Math.cos(angle);
    for (let row = 0; row < s.rows; row++) {
      const far = at.radius * (s.inner + ((s.outer - s.inner) * (row + 0.5)) / s.rows);
      // Beyond the picture its edge goes on.
      const x = Math.min(width - 1.01, Math.max(0, at.x + far * sin - 0.5 - g.left));
      const y = Math.min(height - 1.01, Math.max(0, at.y - far * cos - 0.5 - g.top));
      const i = Math.floor(x);
      const j = Math.floor(y);
      const a = x - i;
      const b = y - j;
      const p = 4 * (j * width + i);
      const q = p + 4 * width;
      out[row * s.columns + col] =
        (1 - b) * ((1 - a) * grey(p) + a * grey(p + 4)) + b * ((1 - a) * grey(q) + a * grey(q + 4)) + 0.5;
    }
  }
  return { ...s, grey: packed(out) };
}

function packed(bytes: Uint8Array): string {
  let text = '';
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192));
  return btoa(text);
}

// angleOf is the direction of a point from a place, degrees clockwise from the face's own up.
export function angleOf(at: Place, x: number, y: number): number {
  return ((Math.atan2(x - at.x, at.y - y) * 180) / Math.PI - at.turn + 720) % 360;
}

// pointAt is the point in a direction, so many radii out.
export function pointAt(at: Place, angle: number, radii: number): { x: number; y: number } {
  const a = ((angle + at.turn) * Math.PI) / 180;
  return { x: at.x + at.radius * radii * Math.sin(a), y: at.y - at.radius * radii * Math.cos(a) };
}

// shifted is where a face is that lies off by so much.
export function shifted(at: Place, s: { turn: number; x: number; y: number }): Place {
  const a = (at.turn * Math.PI) / 180; // the shift is told in the face's own directions
  const x = s.x * Math.cos(a) - s.y * Math.sin(a);
  const y = s.x * Math.sin(a) + s.y * Math.cos(a);
  return { x: at.x + x * at.radius, y: at.y + y * at.radius, radius: at.radius, turn: at.turn + s.turn };
}
