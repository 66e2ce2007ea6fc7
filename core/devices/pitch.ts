import { lagrange, windowed, type Between } from './line.ts';
import { PitchPath } from './pitch-path.ts';

const { floor, max, min, round, sqrt } = Math;

/** Which dip of the difference function is the pitch: the first deep one, or the one on the likeliest path. */
export type TrackerWay = 'first' | 'path';
/** the absolute threshold of YIN */
const DEEP = 0.16;

/** The lag of the first dip under the threshold, at its lowest place; 0 when there is none. */
function firstDip(d: Float64Array, minLag: number, maxLag: number): number {
  for (let lag = minLag; lag <= maxLag; lag++) {
    if (d[lag] >= DEEP) continue;
    while (lag < maxLag && d[lag + 1] < d[lag]) lag++;
    return lag;
  }
  return 0;
}

/**
 * Follows the pitch of one voice: YIN (A. de Cheveigné, H. Kawahara, "YIN, a fundamental frequency estimator
 * for speech and music", JASA 111, 2002: difference function, cumulative mean normalisation, absolute
 * threshold, parabolic interpolation), searched at about 24 kHz and refined at the full rate. A new estimate
 * each 256 samples, unless another hop is asked for.
 */
export class PitchTracker {
  /** Hz, 0 while there is no clear pitch */
  frequency = 0;
  /** 0 (a clear pitch) to 1 */
  aperiodicity = 1;
  private readonly full: Float64Array;
  private readonly low: Float64Array;
  private readonly d: Float64Array;
  private readonly mask = 8191;
  private at = 0;
  private lowAt = 0;
  private held = 0;
  private phase = 0;
  private due = 0;
  private readonly decimate: number;
  private readonly window: number;
  private readonly maxLag: number;
  private readonly minLag: number;
  private readonly path: PitchPath | null;

  constructor(
    private readonly fs: number,
    lowest = 65,
    highest = 1000,
    /** samples from one estimate to the next */
    private readonly hop = 256,
    way: TrackerWay = 'path',
  ) {
    this.path = way === 'path' ? new PitchPath() : null;
    this.decimate = max(1, round(fs / 24000));
    const rate = fs / this.decimate;
    this.maxLag = Math.ceil(rate / lowest);
    this.minLag = max(3, floor(rate / highest));
    this.window = round(rate * 0.02);
    this.full = new Float64Array(8192);
    this.low = new Float64Array(8192);
    this.d = new Float64Array(this.maxLag + 5);
  }

  /** Takes one sample of the mono sum; true when a new estimate has just been made. */
  push(x: number): boolean {
    this.full[this.at & this.mask] = x;
    this.at++;
    this.held += x;
    if (++this.phase === this.decimate) {
      this.low[this.lowAt & this.mask] = this.held / this.decimate;
      this.lowAt++;
      this.held = 0;
      this.phase = 0;
    }
    if (++this.due < this.hop) return false;
    this.due = 0;
    this.estimate();
    return true;
  }

  private estimate(): void {
    const { low, mask, d, window, maxLag, minLag } = this;
    const start = this.lowAt - window - maxLag;
    let energy = 0;
    for (let j = 0; j < window; j++) {
      const v = low[(start + j) & mask];
      energy += v * v;
    }
    if (energy / window < 1e-8) {
      this.frequency = 0;
      this.aperiodicity = 1;
      this.path?.forget();
      return;
    }
    // straight copies: the inner loop must not wrap
    const w = this.scratch;
    for (let j = 0; j < window + maxLag + 4; j++) w[j] = low[(start + j) & mask];
    // four lags at a time: one sum alone would wait for its own last addition at every step
    for (let lag = 1; lag <= maxLag; lag += 4) {
      let s0 = 0;
      let s1 = 0;
      let s2 = 0;
      let s3 = 0;
      for (let j = 0; j < window; j++) {
        const v = w[j];
        const k = j + lag;
        const e0 = v - w[k];
        const e1 = v - w[k + 1];
        const e2 = v - w[k + 2];
        const e3 = v - w[k + 3];
        s0 += e0 * e0;
        s1 += e1 * e1;
        s2 += e2 * e2;
        s3 += e3 * e3;
      }
      d[lag] = s0;
      d[lag + 1] = s1;
      d[lag + 2] = s2;
      d[lag + 3] = s3;
    }
    let sum = 0;
    for (let lag = 1; lag <= maxLag; lag++) {
      sum += d[lag];
      d[lag] = sum > 0 ? (d[lag] * lag) / sum : 1;
    }
    const best = this.path ? this.path.choose(d, minLag, maxLag) : firstDip(d, minLag, maxLag);
    const least = best ? d[best] : 1;
    this.aperiodicity = least;
    if (!best) {
      this.frequency = 0;
      return;
    }
    this.frequency = this.fs / this.refine(best);
  }
  private readonly scratch = new Float64Array(4096);

  /** Difference function at the full rate around the lag that was found, and its parabola. */
  private refine(lag: number): number {
    const { full, mask, decimate } = this;
    const n = this.window * decimate;
    const around = lag * decimate;
    const reach = decimate + 1;
    const at = this.at - n - this.maxLag * decimate - reach - 2;
    const diff = (k: number) => {
      let s = 0;
      for (let j = 0; j < n; j++) {
        const e = full[(at + j) & mask] - full[(at + j + k) & mask];
        s += e * e;
      }
      return s;
    };
    let best = around;
    let least = Infinity;
    for (let k = around - reach; k <= around + reach; k++) {
      const v = diff(k);
      if (v < least) {
        least = v;
        best = k;
      }
    }
    const a = diff(best - 1);
    const c = diff(best + 1);
    const bend = a - 2 * least + c;
    return bend > 0 ? best + (0.5 * (a - c)) / bend : best;
  }

  reset(): void {
    this.full.fill(0);
    this.low.fill(0);
    this.frequency = 0;
    this.aperiodicity = 1;
    this.held = this.phase = this.due = 0;
    this.path?.forget();
  }
}

/**
 * Moves pitch by reading the past faster or slower. Before the reader runs out of sound it goes on from
 * another place where the sound looks the same (the greatest normalised cross-correlation), with a
 * cross-fade: on a
 * voice those places are whole periods away, so that nothing tears. Formants move with the pitch. Both
 * channels jump together.
 */
export class SpliceShifter {
  private readonly l: Float64Array;
  private readonly r: Float64Array;
  private readonly mask: number;
  private at = 0;
  /** distance of the reader behind the newest sample */
  private d: number;
  private d2 = 0;
  private fade = 0;
  private readonly fadeLength: number;
  private readonly near: number;
  private readonly far: number;
  private readonly minJump: number;
  private readonly maxJump: number;
  private readonly probe: number;
  /** samples: the mean delay */
  readonly latency: number;

  /**
   * @param reach the longest jump in ms: longer finds better places in polyphonic sound, shorter keeps closer
   * to the time
   */
  constructor(fs: number, reach = 24) {
    this.fadeLength = round(fs * 0.006);
    this.probe = round(fs * 0.006);
    this.near = round(fs * 0.014);
    this.maxJump = round((fs * reach) / 1000);
    this.minJump = round(fs * 0.0025);
    this.far = this.near + this.maxJump;
    this.latency = round((this.near + this.far) / 2);
    let size = 1024;
    while (size < this.far + this.maxJump + this.probe + 2048) size *= 2;
    this.l = new Float64Array(size);
    this.r = new Float64Array(size);
    this.mask = size - 1;
    this.d = this.latency;
  }

  /** One frame in; `ratio` is the pitch's factor (0.5 … 2). The result is in `outL` and `outR`. */
  step(x: number, y: number, ratio: number): void {
    const { l, r, mask } = this;
    l[this.at & mask] = x;
    r[this.at & mask] = y;
    this.at = (this.at + 1) & 0x3fffffff;
    this.d += 1 - ratio;
    if (this.fade > 0) this.d2 += 1 - ratio;
    else if (ratio !== 1 && (this.d < this.near || this.d > this.far)) {
      this.splice(this.d < this.near ? 1 : -1);
    }
    const n = floor(this.d);
    const i = this.at - 1 - n - 1;
    const t = 1 - (this.d - n);
    let a = lagrange(l, i, mask, t);
    let b = lagrange(r, i, mask, t);
    if (this.fade > 0) {
      const w = this.fade / this.fadeLength;
      const n2 = floor(this.d2);
      const j = this.at - 1 - n2 - 1;
      const u = 1 - (this.d2 - n2);
      a += w * (lagrange(l, j, mask, u) - a);
      b += w * (lagrange(r, j, mask, u) - b);
      this.fade--;
    }
    this.outL = a;
    this.outR = b;
  }
  outL = 0;
  outR = 0;

  private splice(way: 1 | -1): void {
    const jump = this.bestJump(way);
    this.d2 = this.d;
    this.d += way * jump;
    this.fade = this.fadeLength;
  }

  private bestJump(way: 1 | -1): number {
    const { l, r, mask, probe, minJump, maxJump } = this;
    const here = this.at - 1 - round(this.d);
    const step = 3;
    let ee = 0;
    for (let j = 0; j < probe; j += step) {
      const v = l[(here + j) & mask] + r[(here + j) & mask];
      ee += v * v;
    }
    if (ee < 1e-12) return round((minJump + maxJump) / 2);
    const score = (jump: number, stride: number) => {
      const there = here - way * jump;
      let dot = 0;
      let e2 = 0;
      for (let j = 0; j < probe; j += stride) {
        const a = l[(here + j) & mask] + r[(here + j) & mask];
        const b = l[(there + j) & mask] + r[(there + j) & mask];
        dot += a * b;
        e2 += b * b;
      }
      return dot / sqrt(e2 * (stride === step ? ee : 1) + 1e-20);
    };
    let best = maxJump;
    let top = -Infinity;
    for (let k = minJump; k <= maxJump; k += 2) {
      // a slightly longer jump for the same likeness means fewer of them
      const s = score(k, step) + 0.02 * (k / maxJump);
      if (s > top) {
        top = s;
        best = k;
      }
    }
    let fine = best;
    let most = -Infinity;
    const scores = [0, 0, 0];
    for (let k = best - 2; k <= best + 2; k++) {
      const s = score(k, 1);
      if (s > most) {
        most = s;
        fine = k;
      }
    }
    for (let k = -1; k <= 1; k++) scores[k + 1] = score(fine + k, 1);
    const bend = scores[0] - 2 * scores[1] + scores[2];
    return bend < 0 ? fine + (0.5 * (scores[0] - scores[2])) / bend : fine;
  }

  reset(): void {
    this.l.fill(0);
    this.r.fill(0);
    this.d = this.latency;
    this.fade = 0;
  }
}

/** s over which the level of shifted grains is kept, the power under which it is left, and the most that is given */
const LEVEL_S = 0.05;
const QUIET = 1e-9;
const MOST_GAIN = 2;

/**
 * How grains are taken: revision 1 read between samples by a polynomial and was never quite in place, revision 2 took
 * them whole periods apart, wherever that was.
 */
export type GrainWay = 'first' | 'apart' | 'epochs';
/** share of a period that an epoch wanders from one to the next, and half the stretch (s) that its energy is summed over */
const WANDER = 0.15;
const EPOCH_S = 0.001;

/**
 * Moves the pitch of one voice and leaves its formants: pitch-synchronous overlap-add (E. Moulines, F.
 * Charpentier, "Pitch-synchronous waveform processing techniques for text-to-speech synthesis using
 * diphones", Speech
 * Communication 9, 1990). Grains of two periods are taken whole periods apart and laid down at the new
 * period. Without a clear pitch the grains go down where they came from.
 */
export class GrainShifter {
  private readonly l: Float64Array;
  private readonly r: Float64Array;
  private readonly ol: Float64Array;
  private readonly or: Float64Array;
  private readonly ow: Float64Array;
  private readonly mask: number;
  private at = 0;
  /** time of the next grain's middle in the output, and where the last one came from */
  private next = 0;
  private source = 0;
  /** mean power of what came in and of what went out, and how fast they follow */
  private came = 0;
  private went = 0;
  private readonly follow: number;
  private readonly rest: number;
  private readonly between: Between;
  /** the last grain was one of a voice that is moved: its source is an epoch */
  private isAnchored = false;
  readonly latency: number;
  outL = 0;
  outR = 0;

  constructor(
    private readonly fs: number,
    lowest = 65,
    private readonly way: GrainWay = 'epochs',
  ) {
    this.between = way === 'first' ? lagrange : windowed;
    this.rest = fs * 0.006;
    this.follow = 1 - Math.exp(-1 / (fs * LEVEL_S));
    this.latency = Math.ceil((3 * fs) / lowest);
    let size = 1024;
    while (size < this.latency * 3) size *= 2;
    this.mask = size - 1;
    [this.l, this.r, this.ol, this.or, this.ow] = [0, 1, 2, 3, 4].map(() => new Float64Array(size));
  }

  /** @param frequency Hz of the voice now, 0 when there is none */
  step(x: number, y: number, ratio: number, frequency: number): void {
    const { mask } = this;
    const i = this.at & mask;
    this.l[i] = x;
    this.r[i] = y;
    // a grain reaches one period to either side and comes from up to half a period away: it is laid down when
    // its whole source is there
    const ready = this.at - Math.ceil(this.latency / 2) - 3;
    while (this.next <= ready) this.grain(ratio, frequency);
    const o = (this.at - this.latency) & mask;
    const w = this.ow[o];
    const g = w > 0.25 ? 1 / w : 4 * w;
    this.outL = this.ol[o] * g;
    this.outR = this.or[o] * g;
    if (this.way !== 'first') this.keepLevel(o);
    this.ol[o] = this.or[o] = this.ow[o] = 0;
    this.at++;
    if (this.at > 0x3ffffff) {
      const by = this.at & ~mask;
      this.at -= by;
      this.next -= by;
      this.source -= by;
    }
  }

  /**
   * As loud as what came in, over a twentieth of a second: harmonics that move against formants that stay would make it
   * louder on some notes than on others.
   */
  private keepLevel(o: number): void {
    const [x, y] = [this.l[o], this.r[o]];
    const { outL, outR, follow } = this;
    this.came += follow * (x * x + y * y - this.came);
    this.went += follow * (outL * outL + outR * outR - this.went);
    const g = sqrt((this.came + QUIET) / (this.went + QUIET));
    const held = min(MOST_GAIN, max(1 / MOST_GAIN, g));
    this.outL *= held;
    this.outR *= held;
  }

  /**
   * Where the voice's energy is greatest about a place: shortly behind the closing of the glottis, where its formants
   * ring. A grain whose middle is there keeps their shape (F. Charpentier, E. Moulines, "Pitch-synchronous waveform
   * processing techniques", Eurospeech 1989; the energy in place of a detector of closings is ours).
   */
  private epoch(near: number, middle: number, period: number): number {
    const reach = this.isAnchored ? WANDER * period : period / 2;
    const from = Math.ceil(max(near - reach, middle - period / 2));
    const to = floor(min(near + reach, middle + period / 2));
    const half = round(EPOCH_S * this.fs);
    let sum = 0;
    for (let i = from - half; i < from + half; i++) sum += this.power(i);
    let best = near;
    let most = -1;
    for (let i = from; i <= to; i++) {
      sum += this.power(i + half);
      if (sum > most) {
        most = sum;
        best = i;
      }
      sum -= this.power(i - half);
    }
    return best;
  }
  private power(i: number): number {
    const a = this.l[i & this.mask];
    const b = this.r[i & this.mask];
    return a * a + b * b;
  }

  private grain(ratio: number, frequency: number): void {
    const voiced = frequency > 0;
    const period = voiced ? min(this.fs / frequency, this.latency / 3) : this.rest;
    const middle = this.next;
    // the nearest place that is whole periods from the last one
    const k = round((middle - this.source) / period);
    // at the pitch that it comes with, a grain goes down where it was: the sound stays what it is
    const inPlace = !voiced || (ratio === 1 && this.way !== 'first');
    const near = this.source + k * period;
    const moved = this.way === 'epochs' ? this.epoch(near, middle, period) : near;
    const source = inPlace ? middle : moved;
    this.isAnchored = !inPlace;
    const { l, r, ol, or, ow, mask, between } = this;
    const shift = source - middle;
    const n = floor(shift);
    const t = shift - n;
    const from = Math.ceil(middle - period);
    const to = floor(middle + period);
    const turn = Math.PI / period;
    for (let p = from; p <= to; p++) {
      const w = 0.5 + 0.5 * Math.cos((p - middle) * turn);
      const q = p & mask;
      ol[q] += w * between(l, p + n, mask, t);
      or[q] += w * between(r, p + n, mask, t);
      ow[q] += w;
    }
    this.source = source;
    this.next = middle + (voiced ? period / ratio : period);
  }

  reset(): void {
    for (const b of [this.l, this.r, this.ol, this.or, this.ow]) b.fill(0);
    this.at = 0;
    this.next = 0;
    this.source = 0;
    this.isAnchored = false;
    this.came = this.went = 0;
  }
}
