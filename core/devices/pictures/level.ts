import { trimMatrix } from '../trim-matrix.ts';
import { at, large, num, type Pen, type Picture, type PictureView } from './picture.ts';

function draw(g: Pen, v: PictureView, w: number, h: number): void {
  const m = trimMatrix(v.params);
  g.font = large;
  const ys = [h * 0.3, h * 0.7];
  const x1 = 54;
  const x2 = w - 60;
  ['left', 'right'].forEach((t, i) => {
    g.fillStyle = v.colour('ink');
    g.fillText(t, 10, ys[i] + 4);
    g.fillText(t, x2 + 8, ys[i] + 4);
  });
  m.forEach((gain, i) => {
    if (gain === 0) return;
    const from = ys[i % 2];
    const to = ys[i < 2 ? 0 : 1];
    g.strokeStyle = v.colour(gain < 0 ? 'bad' : 'rope');
    g.lineWidth = Math.max(1, Math.min(10, Math.abs(gain) * 3));
    g.beginPath();
    g.moveTo(x1, from);
    g.bezierCurveTo(w / 2, from, w / 2, to, x2, to);
    g.stroke();
    const db = (20 * Math.log10(Math.abs(gain))).toFixed(1).replace('-', '−');
    g.fillStyle = v.colour('soft');
    const crossing = i === 1 ? -2 : 12;
    const below = from === to ? -8 : crossing;
    g.fillText(`${gain < 0 ? 'turned, ' : ''}${db} dB`, w / 2 - 22, (from + to) / 2 + below);
  });
}

/** How the sides are mixed. */
export const level: Picture = {
  name: 'How the sides are mixed',
  shape(d, w, h) {
    const y = h / 2 - (num(d, 'gain') / 36) * (h / 2 - 2);
    return { line: `M2 ${h / 2}H${w / 2 - 4}L${w / 2 + 4} ${at(y)}H${w - 2}` };
  },
  draw,
};
