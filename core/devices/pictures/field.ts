import { readingText } from '../readings.ts';
import { at, num, small, type Pen, type Picture, type PictureView } from './picture.ts';

function draw(g: Pen, v: PictureView, w: number, h: number): void {
  const cx = w / 2;
  const cy = h - 34;
  const r = Math.min(w / 2 - 20, h - 50);
  const a = (Math.min(200, num(v, 'width')) / 200) * (Math.PI / 2);
  g.strokeStyle = v.colour('rule');
  g.lineWidth = 1;
  g.beginPath();
  g.arc(cx, cy, r, Math.PI, 0);
  g.closePath();
  g.stroke();
  g.fillStyle = v.colour('spectrum');
  g.beginPath();
  g.moveTo(cx, cy);
  g.arc(cx, cy, r, -Math.PI / 2 - a, -Math.PI / 2 + a);
  g.closePath();
  g.fill();
  g.strokeStyle = v.colour('rope');
  g.lineWidth = 2;
  g.stroke();
  const c = v.playing ? (v.readings?.[0] ?? 0) : 0;
  const bar = w - 40;
  g.fillStyle = v.colour('rule');
  g.fillRect(20, h - 18, bar, 6);
  g.fillStyle = v.colour(c < 0 ? 'bad' : 'meter-a');
  g.fillRect(20 + bar / 2, h - 18, (c * bar) / 2, 6);
  g.font = small;
  g.fillStyle = v.colour('soft');
  g.fillText('−1', 4, h - 12);
  g.fillText('+1', w - 16, h - 12);
  g.fillText(`correlation ${readingText('correlation', c)}`, w / 2 - 38, h - 22);
}

/** How wide the sound stands. */
export const field: Picture = {
  name: 'Width and correlation',
  shape(d, w, h) {
    const s = Math.min(1, num(d, 'width') / 200) * (w / 2 - 2);
    const [mid, left, right] = [w / 2, at(w / 2 - s), at(w / 2 + s)];
    return { line: `M${mid} ${h - 1}L${left} 3M${mid} ${h - 1}L${right} 3M${left} 3H${right}` };
  },
  draw,
};
