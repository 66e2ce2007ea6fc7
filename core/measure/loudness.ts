import { kWeighting } from '../devices/live-meter.ts';
import { settled } from '../devices/math.ts';
import { TruePeakMeter, truePeak } from './truepeak.ts';

export { kWeighting };

export interface Loudness {
  /** LUFS; −Infinity for silence */
  integrated: number;
  shortTermMax: number;
  momentaryMax: number;
  /** LU */
  range: number;
  /** dBTP */
  truePeak: number;
}

/**
 * Loudness after ITU-R BS.1770-5 (K-weighting, 400 ms blocks with 75 % overlap, gates at −70 LUFS and −10 LU)
 * and EBU Tech 3342 (range: 3 s blocks each 100 ms, gates at −70 LUFS
 * and −20 LU, 10th to 95th percentile), with the true peak of 4 times oversampling.
 * @param channels one or two channels of samples, full scale 1
 */
export function measureLoudness(channels: Float32Array[], sampleRate: number): Loudness {
  const heard = channels.map(finite);
  const parts = new Parts(sampleRate);
  parts.add(heard);
  return { ...parts.loudness(), truePeak: truePeak(heard, sampleRate) };
}

/** Integrated loudness alone, for matching levels: LUFS. */
export function integratedLoudness(channels: Float32Array[], sampleRate: number): number {
  const parts = new Parts(sampleRate);
  parts.add(channels.map(finite));
  return parts.integrated();
}

/** Loudness of a sound that comes in pieces: the same figures as of the whole. */
export class LoudnessMeter {
  private readonly parts: Parts;
  private readonly peaks: TruePeakMeter[] = [];

  constructor(private readonly sampleRate: number) {
    this.parts = new Parts(sampleRate);
  }
  /** @param channels the next frames of one or two channels, always as many */
  add(channels: Float32Array[]): void {
    const heard = channels.map(finite);
    this.parts.add(heard);
    heard.forEach((x, c) => (this.peaks[c] ??= new TruePeakMeter(this.sampleRate)).add(x));
  }
  end(): Loudness {
    const truePeak = this.peaks.reduce((most, meter) => Math.max(most, meter.end()), -Infinity);
    return { ...this.parts.loudness(), truePeak };
  }
}

const lufs = (power: number) => (power > 0 ? -0.691 + 10 * Math.log10(power) : -Infinity);

/** The samples with silence where there is no finite number: one of them would stay in the filters for ever. */
function finite(x: Float32Array): Float32Array {
  let sum = 0;
  for (let i = 0; i < x.length; i++) sum += x[i] * 0;
  return sum === 0 ? x : x.map((v) => (Number.isFinite(v) ? v : 0));
}

/** ten-millisecond parts of momentary loudness, and of what integrated and short-term loudness move on by */
const MOMENTARY = 40;
const TENTH = 10;

/**
 * Sum over channels of the K-weighted power in each 10 ms. Momentary loudness moves on by these: by 100 ms it
 * would miss up to 0.45 LU of a burst that begins between two steps (EBU Tech 3341, case 13, wants ±0.1). Of an hour
 * only the tenths of a second are kept.
 */
class Parts {
  private readonly weighing: Weighing;
  private readonly step: number;
  private readonly tenths: number[] = [];
  private readonly latest = new Float64Array(MOMENTARY);
  private count = 0;
  private loudest = 0;

  constructor(fs: number) {
    this.step = Math.round(fs / 100);
    this.weighing = new Weighing(this.step, kWeighting(fs), (power) => this.take(power / this.step));
  }
  /** @param channels one or two */
  add([l, r]: Float32Array[]): void {
    if (l) this.weighing.add(l, r ?? null);
  }
  private take(power: number): void {
    this.latest[this.count++ % MOMENTARY] = power;
    if (this.count % TENTH === 0) this.tenths.push(this.mean(TENTH));
    if (this.count >= MOMENTARY) this.loudest = Math.max(this.loudest, this.mean(MOMENTARY));
  }
  /** Mean of the latest n parts. */
  private mean(n: number): number {
    let sum = 0;
    for (let k = this.count - n; k < this.count; k++) sum += this.latest[k % MOMENTARY];
    return sum / n;
  }
  integrated(): number {
    return gated(windows(Float64Array.from(this.tenths), 4), -10).loudness;
  }
  loudness(): Omit<Loudness, 'truePeak'> {
    const shortTerm = windows(Float64Array.from(this.tenths), 30);
    return {
      integrated: this.integrated(),
      shortTermMax: lufs(largest(shortTerm)),
      momentaryMax: lufs(this.loudest),
      range: loudnessRange(shortTerm),
    };
  }
}

const largest = (values: Float64Array): number => values.reduce((a, b) => Math.max(a, b), 0);

type KWeights = [number, number, number, number, number][];

/** The weighting filters of two sides, and the power of each whole step behind them. */
class Weighing {
  private readonly state = new Float64Array(8);
  private sum = 0;
  private more = 0;
  private inStep = 0;

  constructor(
    private readonly step: number,
    private readonly weights: KWeights,
    private readonly take: (power: number) => void,
  ) {}
  add(l: Float32Array, r: Float32Array | null): void {
    for (let at = 0; at < l.length;) {
      const n = Math.min(l.length - at, this.step - this.inStep);
      this.stretch(l, r ?? l, at, at + n);
      at += n;
      this.inStep += n;
      if (this.inStep === this.step) this.close(r !== null);
    }
  }
  private close(isPair: boolean): void {
    this.take(isPair ? this.sum + this.more : this.sum);
    this.sum = this.more = this.inStep = 0;
    for (let i = 0; i < 8; i++) this.state[i] = settled(this.state[i]);
  }
  private stretch(l: Float32Array, r: Float32Array, from: number, to: number): void {
    const [[b0, b1, b2, a1, a2], [, , , e1, e2]] = this.weights;
    const { state } = this;
    let [s1, s2, p1, p2, t1, t2, q1, q2] = state;
    let { sum, more } = this;
    for (let i = from; i < to; i++) {
      const v = l[i];
      const u = r[i];
      const y = b0 * v + s1;
      const x = b0 * u + t1;
      s1 = b1 * v - a1 * y + s2;
      t1 = b1 * u - a1 * x + t2;
      s2 = b2 * v - a2 * y;
      t2 = b2 * u - a2 * x;
      const z = y + p1;
      const w = x + q1;
      p1 = -2 * y - e1 * z + p2;
      q1 = -2 * x - e1 * w + q2;
      p2 = y - e2 * z;
      q2 = x - e2 * w;
      sum += z * z;
      more += w * w;
    }
    this.sum = sum;
    this.more = more;
    state[0] = s1;
    state[1] = s2;
    state[2] = p1;
    state[3] = p2;
    state[4] = t1;
    state[5] = t2;
    state[6] = q1;
    state[7] = q2;
  }
}

/** Mean power of every run of n parts, moving on by one. */
function windows(parts: Float64Array, n: number): Float64Array {
  const out = new Float64Array(Math.max(0, parts.length - n + 1));
  for (let i = 0; i < out.length; i++) {
    let sum = 0;
    for (let k = 0; k < n; k++) sum += parts[i + k];
    out[i] = sum / n;
  }
  return out;
}

function gated(blocks: Float64Array, relative: number): { loudness: number; kept: Float64Array } {
  const loud = blocks.filter((p) => lufs(p) > -70);
  if (loud.length === 0) return { loudness: -Infinity, kept: loud };
  const gate = lufs(mean(loud)) + relative;
  const kept = loud.filter((p) => lufs(p) > gate);
  return { loudness: lufs(mean(kept)), kept };
}

const mean = (v: Float64Array) => v.reduce((a, b) => a + b, 0) / v.length;

function loudnessRange(shortTerm: Float64Array): number {
  const levels = gated(shortTerm, -20).kept.map(lufs).sort();
  if (levels.length < 2) return 0;
  const at = (share: number) => levels[Math.round((levels.length - 1) * share)];
  return at(0.95) - at(0.1);
}
