import { delayMs } from '../delay-time.ts';
import { at, grid, num, type Pen, type Picture, type PictureView } from './picture.ts';
import { power } from '../../model/power.ts';

function draw(g: Pen, v: PictureView, w: number, h: number): void {
  const p = v.params;
  const ms = delayMs(p, v.tempo);
  const fb = (p.feedback as number) / 100;
  const wet = (p.mix as number) / 100;
  const span = Math.max(500, Math.min(8000, ms * 6));
  const x = (t: number) => 14 + (t / span) * (w - 20);
  const tick = [50, 100, 250, 500, 1000, 2000].find((q) => span / q <= 9) ?? 2000;
  grid(
    g,
    v,
    w,
    h,
    Array.from(
      { length: Math.floor(span / tick) },
      (_, i) =>
        [
          x((i + 1) * tick),
          (i + 1) * tick >= 1000 ? ((i + 1) * tick) / 1000 + ' s' : (i + 1) * tick + ' ms',
        ] as [number, string],
    ),
    [],
  );
  const mid = h / 2 - 6;
  g.strokeStyle = v.colour('edge');
  g.beginPath();
  g.moveTo(0, mid);
  g.lineTo(w, mid);
  g.stroke();
  const bar = (t: number, gl: number, gr: number, colour: string) => {
    g.fillStyle = v.colour(colour);
    g.fillRect(x(t) - 2, mid - gl * (mid - 8), 4, gl * (mid - 8));
    g.fillRect(x(t) - 2, mid, 4, gr * (mid - 8));
  };
  bar(0, 1 - wet, 1 - wet, 'soft');
  for (let k = 0, a = wet; k < 40 && a > 0.01; k++, a *= fb) {
    const t = ms * (k + 1);
    if (t > span) break;
    if (p.pingPong) bar(t, k % 2 ? 0 : a, k % 2 ? a : 0, 'rope');
    else bar(t, a, a, 'rope');
  }
  g.fillStyle = v.colour('soft');
  g.fillText('left', w - 28, 12);
  g.fillText('right', w - 32, h - 18);
}

/** Echoes over time, left and right. */
export const taps: Picture = {
  name: 'Echoes over time',
  shape(d, w, h) {
    const ms = delayMs(d.params, d.tempo);
    const feedback = num(d, 'feedback') / 100;
    const span = Math.max(600, ms * 4);
    const echoes = Array.from({ length: 8 }, (_, i) => ({
      x: ((ms * (i + 1)) / span) * w,
      gain: power(feedback, i),
    }));
    const seen = echoes.filter((e) => e.x < w && e.gain > 0.03);
    const bar = (e: { x: number; gain: number }) => `M${at(e.x)} ${h - 1}V${at(h - 1 - e.gain * (h - 3))}`;
    return { line: [{ x: 1, gain: 1 }, ...seen].map(bar).join('') };
  },
  draw,
};
