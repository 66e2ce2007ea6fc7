import { SPACES, lengthOf, spaceOf } from '../convolution/spaces.ts';
import { grid, num, through, type Pen, type Picture, type PictureView } from './picture.ts';
import { tenTo } from '../../model/power.ts';
import type { Params } from '../../model/types.ts';

const NAMES = ['63 Hz', '125', '250', '500', '1 kHz', '2 kHz', '4 kHz', '8 kHz', '16 kHz'];
/** of a space that is not known: the middle of what there is */
const USUAL = SPACES[0].decay;

const decayOf = (p: Params): readonly number[] => spaceOf(String(p.impulse))?.decay ?? USUAL;

/** How long each octave of a space of ours rings; of a person's own only that it is one. */
function draw(g: Pen, v: PictureView, w: number, h: number): void {
  const known = spaceOf(String(v.params.impulse));
  if (!known) {
    g.fillStyle = v.colour('soft');
    g.fillText('Your own impulse response', 10, h / 2, w - 20);
    return;
  }
  const { decay } = known;
  const share = num(v, 'length') / 100;
  const span = Math.max(...decay) * 1.1;
  const tick = [0.1, 0.25, 0.5, 1, 2].find((t) => span / t <= 7) ?? 2;
  const y = (t: number) => h - 18 - (t / span) * (h - 26);
  const marks = Array.from({ length: Math.floor(span / tick) }, (_, i) => (i + 1) * tick);
  grid(
    g,
    v,
    w,
    h,
    [],
    marks.map((t) => [y(t), `${t.toFixed(tick < 0.5 ? 2 : 1)} s`]),
  );
  const step = (w - 44) / decay.length;
  decay.forEach((t, k) => {
    const x = 40 + k * step;
    g.fillStyle = v.colour('rope');
    g.globalAlpha = 0.25;
    g.fillRect(x, y(t), step * 0.7, h - 18 - y(t));
    g.globalAlpha = 1;
    g.fillRect(x, y(t), step * 0.7, 2);
    g.fillStyle = v.colour('soft');
    g.fillText(NAMES[k], x, h - 4, step);
  });
  const cut = share * lengthOf(known);
  if (cut >= span) return;
  g.setLineDash([4, 4]);
  g.strokeStyle = v.colour('ink');
  g.beginPath();
  g.moveTo(36, y(cut));
  g.lineTo(w - 4, y(cut));
  g.stroke();
  g.setLineDash([]);
  g.fillText('cut off here', w - 80, y(cut) - 4, 76);
}

export const space: Picture = {
  name: 'Decay in octaves',
  shape(d, w, h) {
    const time = decayOf(d.params)[4];
    const end = lengthOf(spaceOf(String(d.params.impulse)) ?? SPACES[0]) * (num(d, 'length') / 100);
    const span = 4;
    const times = Array.from({ length: 24 }, (_, i) => (i / 23) * span);
    const line = through(
      times.map((t) => [(t / span) * w, h - 1 - (t < end ? tenTo((-2 * t) / time) * (h - 3) : 0)]),
    );
    return { line, fill: `M0 ${h}L${line.slice(1)}L${w} ${h}Z` };
  },
  draw,
};
