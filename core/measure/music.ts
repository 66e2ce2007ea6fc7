import FFT from 'fft.js';

const { abs, cos, exp, floor, hypot, log, log1p, log2, max, min, PI, pow, round, sqrt } = Math;

/**
 * Beats a minute; `clear` 0 … 1 says how much of the sound repeats at that pace. A pace that is twice or half
 * as fast fits the same sound: it is told too.
 */
export interface Tempo {
  bpm: number;
  clear: number;
  others: number[];
}
/**
 * Key note 0 (C) … 11 and mode; `clear` is the correlation with the key's profile, and `next` that of the
 * best other key.
 */
export interface Key {
  tonic: number;
  mode: 'major' | 'minor';
  clear: number;
  next: number;
}

/**
 * Frames of an even step with a Hann window: magnitudes of the lower half of the spectrum, one after the
 * other.
 */
function* magnitudes(x: Float32Array, size: number, hop: number): Generator<Float64Array> {
  const fft = new FFT(size);
  const input = new Float64Array(size);
  const out = fft.createComplexArray();
  const mag = new Float64Array(size / 2);
  const window = Float64Array.from({ length: size }, (_, i) => 0.5 - 0.5 * cos((2 * PI * i) / size));
  for (let at = 0; at + size <= x.length; at += hop) {
    for (let i = 0; i < size; i++) input[i] = window[i] * x[at + i];
    fft.realTransform(out, input as unknown as number[]);
    for (let k = 0; k < size / 2; k++) mag[k] = (2 / size) * hypot(out[2 * k], out[2 * k + 1]);
    yield mag;
  }
}

/**
 * How much begins at each moment: the growth of the compressed spectrum from one frame to the next, less what
 * is usual around it.
 */
function onsets(x: Float32Array, size: number, hop: number): Float64Array {
  const flux: number[] = [];
  let last: Float64Array | null = null;
  for (const mag of magnitudes(x, size, hop)) {
    const now: Float64Array = mag.map((m) => log1p(1000 * m));
    let sum = 0;
    if (last) for (let k = 1; k < now.length; k++) sum += max(0, now[k] - last[k]);
    flux.push(sum);
    last = now;
  }
  const around = 25;
  const out = new Float64Array(flux.length);
  for (let i = 0; i < flux.length; i++) {
    const from = max(0, i - around);
    const to = min(flux.length, i + around + 1);
    let mean = 0;
    for (let k = from; k < to; k++) mean += flux[k];
    out[i] = max(0, flux[i] - mean / (to - from));
  }
  return out;
}

/**
 * Tempo of a sound: autocorrelation of its onset strength, weighted by how people tap (a log-normal curve
 * about 120 bpm, 0.9 octaves wide), then refined on the distances of many beats.
 * After D. P. W. Ellis, “Beat Tracking by Dynamic Programming”, Journal of New Music Research 36(1), 2007
 * (from memory); 40 to 240 bpm.
 * @param x mono
 * @returns null when less than four seconds are given or nothing repeats
 */
export function measureTempo(x: Float32Array, sampleRate: number): Tempo | null {
  if (x.length < 4 * sampleRate) return null;
  const size = pow(2, round(log2(sampleRate * 0.023)));
  const hop = round(sampleRate / 100);
  const rate = sampleRate / hop;
  const e = onsets(x, size, hop);
  const n = e.length;
  const mean = e.reduce((a, b) => a + b, 0) / n;
  for (let i = 0; i < n; i++) e[i] -= mean;
  const longest = min(n - 1, round(rate * 12));
  const ac = new Float64Array(longest + 1);
  for (let lag = 0; lag <= longest; lag++) {
    let s = 0;
    for (let i = lag; i < n; i++) s += e[i] * e[i - lag];
    ac[lag] = s / (n - lag);
  }
  if (!(ac[0] > 1e-9)) return null;
  const at = (lag: number) => {
    const k = floor(lag);
    return k + 1 > longest ? 0 : ac[k] + (lag - k) * (ac[k + 1] - ac[k]);
  };
  // a pace is believed by what repeats after one, two and four of its beats
  const score = (bpm: number) => {
    const p = (60 * rate) / bpm;
    return (at(p) + 0.5 * at(2 * p) + 0.25 * at(4 * p)) * exp(-0.5 * pow(log2(bpm / 120) / 0.9, 2));
  };
  let best = 0;
  let top = 0;
  for (let bpm = 40; bpm <= 240; bpm *= 1.005) {
    const s = score(bpm);
    if (s > top) {
      top = s;
      best = bpm;
    }
  }
  if (!best) return null;
  // the further apart, the finer: sixteen beats tell a tenth of a bpm
  const beats = min(16, floor(longest / ((60 * rate) / best)));
  const sum = (bpm: number) => {
    let s = 0;
    for (let k = 1; k <= beats; k++) s += at((60 * rate * k) / bpm);
    return s;
  };
  let fine = best;
  let high = -Infinity;
  for (let bpm = best * 0.97; bpm <= best * 1.03; bpm += 0.05) {
    const s = sum(bpm);
    if (s > high) {
      high = s;
      fine = bpm;
    }
  }
  const bpm = round(fine * 10) / 10;
  const clear = max(0, min(1, at((60 * rate) / fine) / ac[0]));
  return clear < 0.05
    ? null
    : {
        bpm,
        clear,
        others: [bpm / 2, bpm * 2].filter((b) => b >= 30 && b <= 300).map((b) => round(b * 10) / 10),
      };
}

// probe-tone profiles: C. L. Krumhansl, Cognitive Foundations of Musical Pitch, Oxford University Press 1990
const MAJOR = [6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88];
const MINOR = [6.33, 2.68, 3.52, 5.38, 2.6, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17];

/**
 * How strongly each of the twelve pitch classes (0 is C) sounds between 55 and 2,000 Hz, A4 = 440 Hz; from
 * the peaks of the spectrum, so that noise counts little. The strongest is 1.
 */
export function chroma(x: Float32Array, sampleRate: number): Float64Array {
  const size = pow(2, round(log2(sampleRate * 0.18)));
  const out = new Float64Array(12);
  for (const mag of magnitudes(x, size, size / 2)) {
    for (
      let k = max(2, floor((55 * size) / sampleRate));
      k < (2000 * size) / sampleRate && k < mag.length - 1;
      k++
    ) {
      if (mag[k] < 1e-5 || mag[k] <= mag[k - 1] || mag[k] < mag[k + 1]) continue;
      // the peak between the bins: a parabola through the logarithms
      const [a, b, c] = [log(mag[k - 1] + 1e-12), log(mag[k]), log(mag[k + 1] + 1e-12)];
      const bend = a - 2 * b + c;
      const f = ((k + (bend < 0 ? (0.5 * (a - c)) / bend : 0)) * sampleRate) / size;
      const note = 69 + 12 * log2(f / 440);
      const near = round(note);
      if (abs(note - near) < 0.4) out[((near % 12) + 12) % 12] += sqrt(mag[k]);
    }
  }
  const top = max(...out);
  return top > 0 ? out.map((v) => v / top) : out;
}

/**
 * Key of a sound: the profile of a key that its pitch classes correlate best with (C. L. Krumhansl, 1990).
 * @param x mono
 * @returns null when there is nothing with a pitch
 */
export function measureKey(x: Float32Array, sampleRate: number): Key | null {
  const c = chroma(x, sampleRate);
  if (!c.some((v) => v > 0)) return null;
  const all = [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11]
    .flatMap((tonic) =>
      (['major', 'minor'] as const).map((mode) => ({
        tonic,
        mode,
        r: correlation(
          c,
          (mode === 'major' ? MAJOR : MINOR).map((_, i, p) => p[(i - tonic + 12) % 12]),
        ),
      })),
    )
    .sort((a, b) => b.r - a.r);
  return { tonic: all[0].tonic, mode: all[0].mode, clear: all[0].r, next: all[1].r };
}

function correlation(a: ArrayLike<number>, b: ArrayLike<number>): number {
  const n = a.length;
  const mean = (v: ArrayLike<number>) => Array.from(v).reduce((s, x) => s + x, 0) / n;
  const [ma, mb] = [mean(a), mean(b)];
  let ab = 0;
  let aa = 0;
  let bb = 0;
  for (let i = 0; i < n; i++) {
    ab += (a[i] - ma) * (b[i] - mb);
    aa += (a[i] - ma) ** 2;
    bb += (b[i] - mb) ** 2;
  }
  return ab / sqrt(aa * bb || 1);
}
