import { METER_READINGS } from '../live-meter.ts';
import { readingText } from '../readings.ts';
import { large, type Pen, type Picture, type PictureView } from './picture.ts';

function colourOf(label: string, value: number): string {
  if (label === 'correlation') return value < 0 ? 'bad' : 'meter-a';
  return value > -1 ? 'meter-c' : 'meter-a';
}

function draw(g: Pen, v: PictureView, w: number, h: number): void {
  g.font = large;
  METER_READINGS.forEach((label, i) => {
    const value = v.playing ? (v.readings?.[i] ?? -160) : -160;
    const y = 14 + (i * (h - 16)) / METER_READINGS.length;
    const bar = w - 190;
    g.fillStyle = v.colour('soft');
    g.fillText(label, 8, y + 4);
    g.fillStyle = v.colour('rule');
    g.fillRect(92, y - 3, bar, 7);
    g.fillStyle = v.colour(colourOf(label, value));
    if (label === 'correlation') {
      if (v.playing) g.fillRect(92 + bar / 2, y - 3, (value * bar) / 2, 7);
    } else g.fillRect(92, y - 3, Math.max(0, Math.min(1, (value + 60) / 60)) * bar, 7);
    g.fillStyle = v.colour('ink');
    g.fillText(label === 'correlation' && !v.playing ? '—' : readingText(label, value), w - 88, y + 4);
  });
}

/** Levels, loudness and correlation as bars. */
export const meters: Picture = {
  name: 'Levels, loudness and correlation',
  overSpectrum: true,
  shape(_d, w, h) {
    const bars = [0.3, 0.7, 0.5, 0.9, 0.6];
    return { line: bars.map((g, i) => `M${((i + 0.7) * w) / 5.4} ${h - 1}V${h - 1 - g * (h - 4)}`).join('') };
  },
  draw,
};
