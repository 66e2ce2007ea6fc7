import { voiceOf } from '../voice.ts';
import { at, medium, minus, num, type Pen, type Picture, type PictureView } from './picture.ts';

function draw(g: Pen, v: PictureView, w: number, h: number): void {
  g.font = medium;
  const p = v.params;
  const n = Number(p.voices);
  const top = 60;
  g.strokeStyle = v.colour('rule');
  g.beginPath();
  g.moveTo(w / 2, 0);
  g.lineTo(w / 2, h - 16);
  g.stroke();
  g.fillStyle = v.colour('ink');
  g.beginPath();
  g.arc(w / 2, h - 24, 6, 0, 7);
  g.fill();
  for (let k = 0; k < n; k++) {
    const copy = voiceOf(p, k);
    const px = w / 2 + copy.place * (w / 2 - 40);
    const py = h - 24 - (copy.ms / top) * (h - 60);
    g.strokeStyle = v.colour('edge');
    g.lineWidth = 1;
    g.beginPath();
    g.moveTo(w / 2, h - 24);
    g.lineTo(px, py);
    g.stroke();
    g.fillStyle = v.colour('rope');
    g.beginPath();
    g.arc(px, py, 3 + num(v, 'mix') / 25, 0, 7);
    g.fill();
    g.fillStyle = v.colour('soft');
    g.fillText(
      `${minus((copy.cents >= 0 ? '+' : '') + copy.cents.toFixed(1))} ct, ${copy.ms.toFixed(0)} ms`,
      Math.max(2, Math.min(w - 76, px - 34)),
      py - 9,
    );
  }
  g.fillText('left', 4, h - 4);
  g.fillText('right', w - 28, h - 4);
}

/** Copies by delay and place. */
export const copies: Picture = {
  name: 'Copies by delay and place',
  shape(d, w, h) {
    const voices = Array.from({ length: Number(d.params.voices) }, (_, k) => voiceOf(d.params, k));
    const mark = (x: number, y: number) => `M${at(x)} ${h - 1}V${at(y)}`;
    const copy = (c: { place: number; ms: number }) =>
      mark(w / 2 + c.place * (w / 2 - 3), h * 0.15 + (c.ms / 100) * h * 0.5);
    return { line: `M${w / 2} ${h - 1}V${h * 0.35}${voices.map(copy).join('')}` };
  },
  draw,
};
