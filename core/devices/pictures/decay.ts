import { grid, num, through, type Pen, type Picture, type PictureView } from './picture.ts';
import { tenTo } from '../../model/power.ts';

function draw(g: Pen, v: PictureView, w: number, h: number): void {
  const p = v.params;
  const rt = p.decay as number;
  const pre = (p.preDelay as number) / 1000;
  const damp = (p.damping as number) / 100;
  const span = Math.max(0.5, Math.min(14, rt * 1.15 + pre));
  const x = (t: number) => (t / span) * w;
  const y = (db: number) => 6 + (-db / 66) * (h - 18);
  const tick = [0.1, 0.25, 0.5, 1, 2].find((q) => span / q <= 8) ?? 2;
  grid(
    g,
    v,
    w,
    h,
    Array.from(
      { length: Math.floor(span / tick) },
      (_, i) => [x((i + 1) * tick), ((i + 1) * tick).toFixed(tick < 0.5 ? 2 : 1) + ' s'] as [number, string],
    ),
    [-20, -40, -60].map((d) => [y(d), '−' + -d]),
  );
  for (const [time, colour, fill] of [
    [rt, 'rope', true],
    [rt * (1 - 0.9 * damp), 'soft', false],
  ] as const) {
    g.beginPath();
    g.moveTo(x(pre), y(0));
    g.lineTo(x(pre + time * 1.1), y(-66));
    g.strokeStyle = v.colour(colour);
    g.lineWidth = 2;
    g.stroke();
    if (fill) {
      g.lineTo(x(pre), y(-66));
      g.globalAlpha = 0.12;
      g.fillStyle = v.colour(colour);
      g.fill();
      g.globalAlpha = 1;
    }
  }
  g.fillStyle = v.colour('rope');
  g.fillText('1 kHz', x(pre + rt * 0.4) + 6, y(-24));
  g.fillStyle = v.colour('soft');
  g.fillText('8 kHz', x(pre + rt * (1 - 0.9 * damp) * 0.62) + 6, y(-38));
}

/** How the tail dies away, in the middle and in the highs. */
export const decay: Picture = {
  name: 'Decay at 1 kHz and 8 kHz',
  shape(d, w, h) {
    const time = num(d, 'decay');
    const pre = num(d, 'preDelay') / 1000;
    const span = 4;
    const y = (t: number) => h - 1 - (t < pre ? 0 : tenTo((-2 * (t - pre)) / time)) * (h - 3);
    const times = Array.from({ length: 24 }, (_, i) => (i / 23) * span);
    const line = through(times.map((t) => [(t / span) * w, y(t)]));
    return { line, fill: `M0 ${h}L${line.slice(1)}L${w} ${h}Z` };
  },
  draw,
};
