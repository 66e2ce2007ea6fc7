import { noteName } from '../readings.ts';
import { at, num, small, type Pen, type Picture, type PictureView } from './picture.ts';

function draw(g: Pen, v: PictureView, w: number, h: number): void {
  const sung = (v.memory.trace ??= []);
  const r = v.playing ? v.readings : null;
  sung.push(r?.length === 3 ? [r[0], r[1]] : [0, 0]);
  if (sung.length > 160) sung.shift();
  const heard = sung.flat().filter((pitch) => pitch > 0);
  const mid = heard.length ? heard.reduce((a, b) => a + b, 0) / heard.length : 60;
  const low = Math.round(mid) - 7;
  const high = low + 14;
  const y = (v: number) => h - ((v - low) / (high - low)) * h;
  g.font = small;
  for (let n = low + 1; n < high; n++) {
    g.strokeStyle = v.colour('rule');
    g.lineWidth = 1;
    g.beginPath();
    g.moveTo(34, y(n));
    g.lineTo(w, y(n));
    g.stroke();
    g.fillStyle = v.colour('soft');
    if (h / 14 > 10 || n % 2 === 0) g.fillText(noteName(n), 3, y(n) + 3);
  }
  for (const [k, colour] of [
    [0, 'soft'],
    [1, 'rope'],
  ] as const) {
    g.strokeStyle = v.colour(colour);
    g.lineWidth = 2;
    g.beginPath();
    let on = false;
    sung.forEach((s, i) => {
      const px = 34 + (i / 160) * (w - 34);
      if (s[k] <= 0) {
        on = false;
        return;
      }
      if (on) g.lineTo(px, y(s[k]));
      else g.moveTo(px, y(s[k]));
      on = true;
    });
    g.stroke();
  }
  if (!heard.length) {
    g.fillStyle = v.colour('soft');
    g.fillText('The sung note (grey) and the played one come while a voice plays.', 40, 14);
  }
}

/** The sung note and the one that is played instead. */
export const note: Picture = {
  name: 'Sung and played note',
  shape: (_d, w, h) => ({
    line: `M2 ${h * 0.75}Q${w * 0.2} ${h * 0.2} ${w * 0.35} ${h / 2}T${w * 0.6} ${h / 2}H${w - 2}`,
  }),
  draw,
};

/** The same for a shift by a fixed interval. */
export const interval: Picture = {
  ...note,
  shape(d, w, h) {
    const octaves = (num(d, 'semitones') + num(d, 'cents') / 100) / 12;
    const y = h / 2 - octaves * (h / 2 - 3);
    return { line: `M2 ${h / 2}H${w / 2 - 4}L${w / 2 + 4} ${at(y)}H${w - 2}` };
  },
};
