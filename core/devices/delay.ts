import { taps as tapsPicture } from './pictures/taps.ts';
import { windowed } from './line.ts';
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

const MOVES = [
  { id: 'glide', label: 'Glide' },
  { id: 'jump', label: 'Jump' },
];
/** Documents from before there was a choice jumped. */
const moveOf = (p: Params): string => (p.move as string | undefined) ?? 'jump';

/** s, time constant of a glide, and how much faster or slower the echoes run at most meanwhile */
const GLIDE_S = 0.12;
const BEND = 0.5;
/** s for which a time has to rest before it is jumped to, and of the fade */
const REST_S = 0.03;
const FADE_S = 0.05;
/** An echo stays as it is up to here, and comes no higher than full scale. */
const KNEE = 0.85;
const MOST = 1;

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
    choice('move', 'A new time', 'Time', MOVES, 'jump', {
      isLater: true,
      help: 'Glide bends the echoes’ pitch on the way, like a tape; jump waits until the time rests, then fades over',
    }),
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
  earlier: [
    {
      since:
        'a time that is moved glides or jumps without a flutter, and what goes round stays under full scale',
      // echoes that do not pile up sound the same while their time rests
      differs: (p) => (p.feedback as number) > 75,
    },
  ],
});

class DelayProcessor implements Processor {
  reduction = 0;
  level = -160;
  private l = new Float64Array(0);
  private r = new Float64Array(0);
  private mask = 0;
  private at = 0;
  private readonly time: EchoTime;
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
    this.time = new EchoTime(ctx.sampleRate);
    this.set(params, true);
  }

  set(p: Params, immediate: boolean): void {
    const fs = this.ctx.sampleRate;
    const glide = immediate ? 0 : smoothing(fs);
    const samples = Math.max(1, Math.round((delayMs(p, this.ctx.tempo) * fs) / 1000));
    this.makeRoom(samples + TAIL);
    this.time.set(samples, moveOf(p) === 'glide', immediate);
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
    const whole = this.time.whole();
    for (let i = start; i < end; i++) {
      let a: number;
      let b: number;
      if (whole > 0) {
        const from = (at - whole) & mask;
        a = bl[from];
        b = br[from];
      } else {
        this.time.next();
        a = this.time.read(bl, at, mask);
        b = this.time.read(br, at, mask);
      }
      lp += kl * (a - lp);
      rp += kl * (b - rp);
      lh += kh * (a - lp - lh);
      rh += kh * (b - rp - rh);
      const x = l[i];
      const y = r[i];
      const echoL = soft(lh);
      const echoR = soft(rh);
      const backL = fb * echoL;
      const backR = fb * echoR;
      // ping-pong: the mono sum enters on the left, each side feeds the other
      let wl = straight * (x + backL) + cross * ((x + y) * 0.5 + backR);
      let wr = straight * (y + backR) + cross * backL;
      if (Math.abs(wl) < 1e-30) wl = 0;
      if (Math.abs(wr) < 1e-30) wr = 0;
      bl[at] = wl;
      br[at] = wr;
      l[i] = dry * x + wet * echoL;
      r[i] = dry * y + wet * echoR;
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

/** An echo: as it is while it is not loud, and never over full scale, however high the feedback. */
function soft(x: number): number {
  const size = Math.abs(x);
  if (size <= KNEE) return x;
  const y = KNEE + (MOST - KNEE) * Math.tanh((size - KNEE) / (MOST - KNEE));
  return x < 0 ? -y : y;
}

/** Samples of the ring that an interpolator reads beyond the delay. */
const TAIL = 16;

/** How long the echo takes, while it moves: in a glide, or in one fade when it rests. */
class EchoTime {
  /** samples, where it is and where it goes to */
  private now = 1;
  private wanted = 1;
  private from = 1;
  private fade = 0;
  private rest = 0;
  private glides = true;
  private readonly fadeLength: number;
  private readonly restLength: number;
  private readonly pole: number;

  constructor(sampleRate: number) {
    this.fadeLength = Math.round(sampleRate * FADE_S);
    this.restLength = Math.round(sampleRate * REST_S);
    this.pole = 1 - Math.exp(-1 / (sampleRate * GLIDE_S));
  }

  set(samples: number, glides: boolean, immediate: boolean): void {
    if (samples !== this.wanted) this.rest = this.restLength;
    this.wanted = samples;
    this.glides = glides;
    if (!immediate) return;
    this.now = this.from = samples;
    this.fade = this.rest = 0;
  }

  /** The samples it rests at, where they are whole; 0 while it moves or lies between them. */
  whole(): number {
    const rests = this.fade === 0 && this.now === this.wanted;
    return rests && Number.isInteger(this.now) ? this.now : 0;
  }

  /** One sample further. */
  next(): void {
    if (this.fade > 0) this.fade--;
    else if (this.now !== this.wanted) {
      if (this.glides) this.slide();
      else if (this.rest > 0) this.rest--;
      else this.jump();
    }
  }
  private slide(): void {
    const far = this.wanted - this.now;
    const step = far * this.pole;
    this.now += Math.max(-BEND, Math.min(BEND, step));
    if (far < 0.001 && far > -0.001) this.now = this.wanted;
  }
  private jump(): void {
    this.from = this.now;
    this.now = this.wanted;
    this.fade = this.fadeLength;
  }

  /** The echo in a ring whose next sample is written at `at`. */
  read(ring: Float64Array, at: number, mask: number): number {
    const a = readAt(ring, at, mask, this.now);
    if (this.fade === 0) return a;
    const b = readAt(ring, at, mask, this.from);
    return a + (this.fade / this.fadeLength) * (b - a);
  }
}

/** Whole delays are read as they are, others between the samples, where there is room for that. */
function readAt(ring: Float64Array, at: number, mask: number, delay: number): number {
  const n = Math.floor(delay);
  if (n === delay || delay < TAIL / 2) return ring[(at - n) & mask];
  return windowed(ring, at - n - 1, mask, 1 - (delay - n));
}
