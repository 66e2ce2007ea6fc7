import { taps as tapsPicture } from './pictures/taps.ts';
import { Ramp, smoothing } from './math.ts';
import {
  choice,
  defineDevice,
  hertz,
  millis,
  percent,
  toggle,
  type DeviceContext,
  type Processor,
} from './spec.ts';
import { NOTES } from '../model/units.ts';
import type { Params } from '../model/types.ts';
import { MAX_MS, delayMs } from './delay-time.ts';

/**
 * Echo with a time in ms or as a note value; low and high cut (6 dB/oct) act on every echo; ping-pong
 * alternates the sides.
 */
export const delay = defineDevice({
  type: 'delay',
  label: 'Delay',
  summary: 'Time in ms or note values, feedback, cuts in the loop, ping-pong, mix.',
  hasKey: false,
  shares: 'linear',
  makesSides: true,
  picture: tapsPicture,
  work: 4.3,
  wet: 'mix',
  echo: (p) => (p.mode === 'ms' ? 'time' : null),
  noteSet: (p) => (p.mode === 'note' ? String(p.note) : null),
  character: () => 'delay',
  alike: { words: /delay|echo|slap/i, rank: 9 },
  params: [
    choice(
      'mode',
      'Time as',
      'Time',
      [
        { id: 'note', label: 'Note' },
        { id: 'ms', label: 'ms' },
      ],
      'note',
    ),
    choice('note', 'Note value', 'Time', NOTES, '1/4'),
    millis('time', 'Time', 'Time', 1, MAX_MS, 250, { tempoBound: true }),
    percent('feedback', 'Feedback', 'Loop', 0, 98, 25, { step: 1 }),
    hertz('lowCut', 'Low cut', 'Loop', 16, 2000, 100),
    hertz('highCut', 'High cut', 'Loop', 500, 24000, 6000),
    toggle('pingPong', 'Ping-pong', 'Loop', false),
    percent('mix', 'Mix', 'Output', 0, 100, 100, { step: 1 }),
  ],
  used: (p, id) => {
    if (id === 'note') return p.mode === 'note';
    if (id === 'time') return p.mode === 'ms';
    return true;
  },
  latency: () => 0,
  create: (params, ctx) => new DelayProcessor(params, ctx),
});

class DelayProcessor implements Processor {
  reduction = 0;
  level = -160;
  private l = new Float64Array(0);
  private r = new Float64Array(0);
  private mask = 0;
  private at = 0;
  private length = 1;
  private from = 1;
  private wanted = 1;
  private fade = 0;
  private readonly fadeLength: number;
  private readonly feedback = new Ramp(0);
  private readonly mix = new Ramp(0);
  private readonly cross = new Ramp(0);
  private readonly low = new Ramp(0);
  private readonly high = new Ramp(1);
  /** one-pole states: low cut left and right, high cut left and right */
  private readonly s = new Float64Array(4);

  constructor(
    params: Params,
    private readonly ctx: DeviceContext,
  ) {
    this.fadeLength = Math.round(ctx.sampleRate * 0.05);
    this.set(params, true);
  }

  set(p: Params, immediate: boolean): void {
    const fs = this.ctx.sampleRate;
    const glide = immediate ? 0 : smoothing(fs);
    this.wanted = Math.max(1, Math.round((delayMs(p, this.ctx.tempo) * fs) / 1000));
    this.makeRoom(this.wanted);
    if (immediate) {
      this.length = this.from = this.wanted;
      this.fade = 0;
    }
    this.feedback.to((p.feedback as number) / 100, glide);
    this.mix.to((p.mix as number) / 100, glide);
    this.cross.to(p.pingPong ? 1 : 0, glide);
    this.low.to(1 - Math.exp((-2 * Math.PI * (p.lowCut as number)) / fs), glide);
    this.high.to(1 - Math.exp((-2 * Math.PI * Math.min(p.highCut as number, 0.49 * fs)) / fs), glide);
  }

  /** The rings are as long as the longest time so far: a whole dotted note at 10 bpm lasts 36 seconds. */
  private makeRoom(samples: number): void {
    const old = this.l.length;
    if (samples < old) return;
    let size = Math.max(1024, old);
    while (size <= samples) size *= 2;
    const longer = (ring: Float64Array) => {
      const out = new Float64Array(size);
      out.set(ring.subarray(this.at), 0);
      out.set(ring.subarray(0, this.at), old - this.at);
      return out;
    };
    this.l = longer(this.l);
    this.r = longer(this.r);
    this.at = old;
    this.mask = size - 1;
  }

  process(l: Float64Array, r: Float64Array, n: number): void {
    let at = 0;
    while (at < n) {
      const moving =
        this.feedback.left || this.mix.left || this.cross.left || this.low.left || this.high.left;
      const m = moving ? Math.min(8, n - at) : n - at;
      this.run(l, r, at, at + m);
      this.feedback.advance(m);
      this.mix.advance(m);
      this.cross.advance(m);
      this.low.advance(m);
      this.high.advance(m);
      at += m;
    }
    for (let k = 0; k < 4; k++) if (Math.abs(this.s[k]) < 1e-30) this.s[k] = 0;
  }

  private run(l: Float64Array, r: Float64Array, start: number, end: number): void {
    const bl = this.l;
    const br = this.r;
    const mask = this.mask;
    const s = this.s;
    const fb = this.feedback.value;
    const wet = this.mix.value;
    const dry = 1 - wet;
    const cross = this.cross.value;
    const straight = 1 - cross;
    const kl = this.low.value;
    const kh = this.high.value;
    let lp = s[0];
    let rp = s[1];
    let lh = s[2];
    let rh = s[3];
    let at = this.at;
    for (let i = start; i < end; i++) {
      if (this.fade === 0 && this.wanted !== this.length) {
        this.from = this.length;
        this.length = this.wanted;
        this.fade = this.fadeLength;
      }
      let a = bl[(at - this.length) & mask];
      let b = br[(at - this.length) & mask];
      if (this.fade > 0) {
        const g = this.fade / this.fadeLength;
        a += g * (bl[(at - this.from) & mask] - a);
        b += g * (br[(at - this.from) & mask] - b);
        this.fade--;
      }
      lp += kl * (a - lp);
      rp += kl * (b - rp);
      lh += kh * (a - lp - lh);
      rh += kh * (b - rp - rh);
      const x = l[i];
      const y = r[i];
      // ping-pong: the mono sum enters on the left, each side feeds the other
      let wl = straight * (x + fb * lh) + cross * ((x + y) * 0.5 + fb * rh);
      let wr = straight * (y + fb * rh) + cross * fb * lh;
      if (wl < 1e-30 && wl > -1e-30) wl = 0;
      if (wr < 1e-30 && wr > -1e-30) wr = 0;
      bl[at] = wl;
      br[at] = wr;
      l[i] = dry * x + wet * lh;
      r[i] = dry * y + wet * rh;
      at = (at + 1) & mask;
    }
    s[0] = lp;
    s[1] = rp;
    s[2] = lh;
    s[3] = rh;
    this.at = at;
  }

  reset(): void {
    this.l.fill(0);
    this.r.fill(0);
    this.s.fill(0);
  }
}
