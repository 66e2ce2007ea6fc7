import { HIGH, LOW, frequencyGrid, through, type Picture } from './picture.ts';
import { power } from '../../model/power.ts';

const SHAPE_POINTS = 40;
const POINTS = 220;
/** dB at the edge of the large picture */
const RANGE = 18;
const frequency = (i: number, n: number) => LOW * power(HIGH / LOW, i / (n - 1));

/** Gain over frequency. */
export const response: Picture = {
  name: 'Frequency response over the live spectrum',
  overSpectrum: true,
  shape(d, w, h) {
    const y = (db: number) => h / 2 - Math.max(-1, Math.min(1, db / 15)) * (h / 2 - 1);
    const line = through(
      Array.from({ length: SHAPE_POINTS }, (_, i) => [
        (i / (SHAPE_POINTS - 1)) * w,
        y(d.gain(frequency(i, SHAPE_POINTS))),
      ]),
    );
    return { line, fill: `M0 ${h / 2}L${line.slice(1)}L${w} ${h / 2}Z` };
  },
  draw(g, v, w, h) {
    frequencyGrid(g, v.colour, w, h);
    v.spectrum(w, h);
    g.strokeStyle = v.colour('rope');
    g.lineWidth = 2;
    g.beginPath();
    for (let i = 0; i < POINTS; i++) {
      const db = Math.max(-RANGE * 1.2, v.gain(frequency(i, POINTS)));
      const py = h / 2 - (db / RANGE) * (h / 2 - 8);
      if (i === 0) g.moveTo(0, py);
      else g.lineTo((i / (POINTS - 1)) * w, py);
    }
    g.stroke();
  },
};
