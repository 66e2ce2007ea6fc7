import { ADDABLE, revisionOf } from '../devices/index.ts';
import { Arena, beside, doubles, within } from '../devices/kernels/index.ts';
import type { DeviceType } from '../devices/spec.ts';
import type { Params } from '../model/types.ts';
import { tenTo } from '../model/power.ts';
import { denseFrom } from './space.ts';

/**
 * What each device does to a sound, measured at 48 kHz through its own processor: `npm run docs` writes it, a test holds
 * the document to it. Figures are rounded to what every machine agrees on.
 */

const FS = 48000;
const BLOCK = 256;
/** Hz of the tones; whole periods in a tenth of a second, so that no window is needed */
const MIDDLE = 1000;
const HIGH = 13100;
const FREQUENCIES = [20, 40, 100, 300, 1000, 3000, 8000, 12000, 16000, 18000, 20000];

/** Both sides of a sound through a device, its latency taken off. */
function through(d: DeviceType, over: Params, x: Float32Array): [Float32Array, Float32Array] {
  const arena = new Arena();
  try {
    return within(arena, () => beside(null, () => run(d, { ...d.defaults, ...over }, x)));
  } finally {
    arena.release();
  }
}
function run(d: DeviceType, params: Params, x: Float32Array): [Float32Array, Float32Array] {
  const proc = d.create(params, { sampleRate: FS, tempo: 120, maxBlock: BLOCK });
  const late = d.latency(params, FS);
  const out: [Float32Array, Float32Array] = [new Float32Array(x.length), new Float32Array(x.length)];
  const [l, r] = [doubles(BLOCK), doubles(BLOCK)];
  for (let at = 0; at < x.length + late; at += BLOCK) {
    for (let i = 0; i < BLOCK; i++) l[i] = r[i] = x[at + i] ?? 0;
    proc.process(l, r, BLOCK, l, r);
    for (let i = 0; i < BLOCK; i++) {
      const to = at + i - late;
      if (to < 0 || to >= x.length) continue;
      out[0][to] = l[i];
      out[1][to] = r[i];
    }
  }
  return out;
}

const tone = (f: number, level: number, seconds: number): Float32Array =>
  Float32Array.from({ length: seconds * FS }, (_, i) => level * Math.sin((2 * Math.PI * f * i) / FS));
const decibels = (v: number): number => 20 * Math.log10(v + 1e-12);

/** Amplitude of a tone in the tenth of a second before the last one, which filters hear the end of the sound in. */
function levelAt(x: Float32Array, f: number): number {
  const n = FS / 10;
  const from = x.length - 2 * n;
  let [re, im] = [0, 0];
  for (let i = 0; i < n; i++) {
    const phase = (2 * Math.PI * ((f * i) % FS)) / FS;
    re += x[from + i] * Math.cos(phase);
    im += x[from + i] * Math.sin(phase);
  }
  return (2 * Math.hypot(re, im)) / n;
}

/** The loudest thing under 20 kHz that is no harmonic of a tone at full scale, driven by 24 dB where it has a drive, dBc. */
function aliasOf(d: DeviceType): number {
  const drive: Params = d.byId.drive ? { drive: Math.min(24, d.byId.drive.max!) } : {};
  const [y] = through(d, drive, tone(HIGH, 1, 0.6));
  let most = 0;
  for (let f = 100; f <= 20000; f += 100) if (f % HIGH !== 0) most = Math.max(most, levelAt(y, f));
  return decibels(most / levelAt(y, HIGH));
}

/** dB by which a tone at −50 dBFS comes out louder or softer than at 1 kHz, the most from 20 Hz to 20 kHz. */
function unevenness(d: DeviceType): number {
  const quiet = tenTo(-50 / 20);
  const gain = (f: number) => {
    const [l, r] = through(d, {}, tone(f, quiet, 0.5));
    return decibels(Math.hypot(levelAt(l, f), levelAt(r, f)));
  };
  const middle = gain(MIDDLE);
  return Math.max(...FREQUENCIES.map((f) => Math.abs(gain(f) - middle)));
}

/** What is left beside a tone of 1 kHz at −20 dBFS: noise and harmonics together, dB under the tone. */
function restOf(d: DeviceType): number {
  const [y] = through(d, {}, tone(MIDDLE, 0.1, 1));
  const n = FS / 10;
  const last = y.subarray(y.length - 2 * n, y.length - n);
  const power = last.reduce((sum, v) => sum + v * v, 0) / n;
  const level = levelAt(y, MIDDLE);
  return 10 * Math.log10(Math.max(1e-20, power - (level * level) / 2) / ((level * level) / 2 + 1e-20));
}

/** ms after which each kind of space is as dense as noise. */
function density(d: DeviceType): string {
  const impulse = Float32Array.from({ length: FS }, (_, i) => (i === 0 ? 1 : 0));
  return d.byId.type
    .choices!.map(({ id, label }) => {
      const [l] = through(d, { type: id, preDelay: 0 }, impulse);
      return `${label.toLowerCase()} ${Math.round(denseFrom(l, FS) * 1000)} ms`;
    })
    .join(', ');
}

/** Under this no figure is told: rounding differs from machine to machine there. */
const DEEP = -110;
const under = (v: number): string => (v < DEEP ? `under ${DEEP}` : String(Math.round(v))).replace('-', '−');

/** Those that make a sound of their own on the way: a tone does not come out as it came in. */
const changesTone = (d: DeviceType): boolean => d.wet !== undefined || !!d.readings?.includes('sung');

function row(d: DeviceType): string {
  const late = d.latency(d.defaults, FS);
  const cells = changesTone(d)
    ? ['–', '–', '–']
    : [under(aliasOf(d)), unevenness(d).toFixed(2), under(restOf(d))];
  const dense = d.byId.decay ? density(d) : '';
  return `| ${[d.label, String(revisionOf(d)), String(late), ...cells, dense].join(' | ')} |`;
}

/** The table, as lines of Markdown. */
export function figuresDoc(): string {
  const effects = ADDABLE.filter((d) => !d.instrument && !d.pattern && d.params.length > 0 && !d.loop);
  return [
    '## Measured',
    '',
    'At 48 kHz, with the settings that each device comes with. Alias: the loudest tone under 20 kHz that is no harmonic, ' +
      'for 13.1 kHz at full scale, with a drive of 24 dB where there is one (dBc). Uneven: the most that a tone at ' +
      '−50 dBFS between 20 Hz and 20 kHz is louder or softer than at 1 kHz (dB). Rest: noise and harmonics beside ' +
      '1 kHz at −20 dBFS (dB). Dense: when the echoes lie as close as noise (J. S. Abel, P. Huang, 2006). Devices that ' +
      'are heard beside the dry sound, or move its pitch, have no figures for tones.',
    '',
    '| device | revision of its sound | latency, samples | alias | uneven | rest | dense after |',
    '| --- | --- | --- | --- | --- | --- | --- |',
    ...effects.map(row),
    '',
  ].join('\n');
}
