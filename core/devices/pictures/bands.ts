import { bandName, corners } from '../bands.ts';
import { at, frequencyGrid, minus, num, xOf, type Pen, type Picture, type PictureView } from './picture.ts';

function draw(g: Pen, v: PictureView, w: number, h: number): void {
  frequencyGrid(g, v.colour, w, h);
  v.spectrum(w, h);
  const fr = corners(v.params, v.sampleRate);
  const n = fr.length + 1;
  const edges = [0, ...fr.map((f) => xOf(f, w)), w];
  for (let b = 1; b <= n; b++) {
    const [a, z] = [edges[b - 1], edges[b]];
    const red = v.playing ? (v.readings?.[b - 1] ?? 0) : 0;
    const y = h / 2 - (num(v, `b${b}.gain`) / 24) * (h / 2 - 8);
    g.fillStyle = v.colour('warn');
    g.fillRect(a + 3, y, z - a - 6, Math.min(h, (-red / 24) * (h / 2)));
    g.strokeStyle = v.colour(v.params[`b${b}.on`] ? 'rope' : 'edge');
    g.lineWidth = 2;
    g.beginPath();
    g.moveTo(a + 2, y);
    g.lineTo(z - 2, y);
    g.stroke();
    if (b < n) {
      g.strokeStyle = v.colour('edge');
      g.lineWidth = 1;
      g.beginPath();
      g.moveTo(z, 0);
      g.lineTo(z, h);
      g.stroke();
    }
    g.fillStyle = v.colour('ink');
    g.fillText(bandName(b, n), a + 4, 11);
    g.fillStyle = v.colour('soft');
    g.fillText(minus(red.toFixed(1)), a + 4, 23);
  }
}

/** Bands over the spectrum, each with its gain reduction. */
export const bands: Picture = {
  name: 'Bands over the live spectrum with their gain reduction',
  overSpectrum: true,
  shape(d, w, h) {
    const inner = corners(d.params, d.sampleRate).map((f) => xOf(f, w));
    const edges = [0, ...inner, w];
    const hump = (from: number, to: number) => {
      const top = `${at((from + to) / 2)} ${at(h * 0.05)} ${at(to - 1)} ${at(h * 0.3)}`;
      return `M${at(from + 1)} ${h - 1}V${at(h * 0.3)}Q${top}V${h - 1}`;
    };
    return {
      line: edges
        .slice(1)
        .map((to, i) => hump(edges[i], to))
        .join(''),
    };
  },
  draw,
};
