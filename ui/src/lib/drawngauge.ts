// The demo's stand-in for a camera: a gauge drawn by the page, whose needle the server's simulated circuit moves. It is
// handed on as a camera's stream is, so that all behind it is the same.
import { get, type Gauge } from './api/client';

const size = { width: 640, height: 480 };
const sweep = 270; // degrees from the lowest mark to the highest
const askEvery = 250; // ms

function ray(angle: number, from: number, to: number, pen: CanvasRenderingContext2D, wide: number): void {
  const a = (angle * Math.PI) / 180;
  pen.lineWidth = wide;
  pen.beginPath();
  pen.moveTo(from * Math.sin(a), -from * Math.cos(a));
  pen.lineTo(to * Math.sin(a), -to * Math.cos(a));
  pen.stroke();
}

function draw(
  pen: CanvasRenderingContext2D,
  gauge: Gauge,
  value: number,
  nudge: { x: number; y: number },
): void {
  const ring = gauge.rings[gauge.read]!;
  const at = (v: number) => ((v - ring.from) / (ring.to - ring.from)) * sweep - sweep / 2;
  const r = size.height * 0.4;
  pen.fillStyle = '#5b5f5a';
  pen.fillRect(0, 0, size.width, size.height);
  pen.save();
  pen.translate(size.width / 2 + nudge.x, size.height / 2 + nudge.y);
  pen.fillStyle = '#23262a';
  pen.beginPath();
  pen.arc(0, 0, r * 1.16, 0, 2 * Math.PI);
  pen.fill();
  pen.fillStyle = '#e9e6dc';
  pen.beginPath();
  pen.arc(0, 0, r * 1.1, 0, 2 * Math.PI);
  pen.fill();
  pen.strokeStyle = pen.fillStyle = '#1c1c1c';
  pen.textAlign = 'center';
  pen.textBaseline = 'middle';
  const steps = Math.round((ring.to - ring.from) / ring.division);
  const each = Math.max(1, Math.round(ring.numbered / ring.division));
  for (let i = 0; i <= steps; i++) {
    const v = ring.from + i * ring.division;
    const long = i % each === 0;
    ray(at(v), r * (long ? 0.88 : 0.94), r, pen, long ? 4 : 2);
    if (!long) continue;
    const a = (at(v) * Math.PI) / 180;
    pen.font = '20px sans-serif';
    pen.fillText(String(Number(v.toFixed(6))), 0.77 * r * Math.sin(a), -0.77 * r * Math.cos(a));
  }
  pen.font = '18px sans-serif';
  pen.fillText(ring.unit, 0, r * 0.45);
  pen.fillText('drawn', 0, r * 0.62);
  const a = (at(value) * Math.PI) / 180;
  pen.rotate(a);
  pen.beginPath();
  pen.moveTo(-0.035 * r, 0.2 * r);
  pen.lineTo(-0.02 * r, 0);
  pen.lineTo(-0.008 * r, -0.9 * r);
  pen.lineTo(0.008 * r, -0.9 * r);
  pen.lineTo(0.02 * r, 0);
  pen.lineTo(0.035 * r, 0.2 * r);
  pen.fill();
  pen.beginPath();
  pen.arc(0, 0, 0.08 * r, 0, 2 * Math.PI);
  pen.fill();
  pen.restore();
}

// drawnGauge is the stream of a hold's drawn gauge, with how to end it.
export function drawnGauge(holdId: string, gauge: Gauge): { stream: MediaStream; end: () => void } {
  const canvas = document.createElement('canvas');
  canvas.width = size.width;
  canvas.height = size.height;
  const pen = canvas.getContext('2d')!;
  const ring = gauge.rings[gauge.read]!;
  let value = ring.from;
  let tick = 0;
  const show = (): void => {
    // A hand holds the camera: it is never quite still, and a canvas that does not change sends no picture.
    tick++;
    draw(pen, gauge, value, { x: 0.3 * Math.sin(tick / 7), y: 0.3 * Math.cos(tick / 9) });
  };
  show();
  const stream = canvas.captureStream(10);
  const drawing = setInterval(show, 100);
  const asking = setInterval(() => {
    get('/api/holds/{id}/needle', { id: holdId })
      .then((n) => {
        if (n.there) value = n.value;
      })
      .catch(() => {
        // The needle stays where it is until the server answers again.
      });
  }, askEvery);
  return {
    stream,
    end: () => {
      clearInterval(drawing);
      clearInterval(asking);
      for (const t of stream.getTracks()) t.stop();
    },
  };
}
