import { Ramp } from './math.ts';
import { power, square, twoTo } from '../model/power.ts';

/**
 * Shapes of the tuned instruments: harmonics of one period, and how a note begins, holds and ends. Made up by
 * ear.
 */
interface Shape {
  label: string;
  harmonics: (n: number) => number;
  attack: number;
  decay: number;
  sustain: number;
  release: number;
  detune: number;
}
const SHAPES: Record<string, Shape> = {
  strings: {
    label: 'Strings',
    harmonics: (n) => 1 / n,
    attack: 0.12,
    decay: 0.5,
    sustain: 0.85,
    release: 0.25,
    detune: 9,
  },
  horns: {
    label: 'Horns',
    harmonics: (n) => exp(-square(n - 2) / 14),
    attack: 0.05,
    decay: 0.3,
    sustain: 0.8,
    release: 0.12,
    detune: 3,
  },
  choir: {
    label: 'Choir',
    harmonics: (n) => (n === 1 ? 1 : 0.5 * exp(-square(n - 4) / 6) + 0.12 / n),
    attack: 0.15,
    decay: 0.4,
    sustain: 0.9,
    release: 0.3,
    detune: 12,
  },
  organ: {
    label: 'Organ',
    harmonics: (n) => ([1, 2, 3, 4, 6, 8].includes(n) ? 1 / sqrt(n) : 0),
    attack: 0.008,
    decay: 0.1,
    sustain: 1,
    release: 0.04,
    detune: 0,
  },
  concertina: {
    label: 'Concertina',
    harmonics: (n) => (n % 2 ? 1 / n : 0.35 / n),
    attack: 0.03,
    decay: 0.2,
    sustain: 0.95,
    release: 0.08,
    detune: 5,
  },
  bells: {
    label: 'Bells',
    harmonics: (n) => ([1, 3, 4, 7, 11].includes(n) ? 1 / n : 0),
    attack: 0.002,
    decay: 1.4,
    sustain: 0,
    release: 0.6,
    detune: 0,
  },
  pluck: {
    label: 'Plucked',
    harmonics: (n) => sin((n * PI) / 5) / n,
    attack: 0.003,
    decay: 0.5,
    sustain: 0,
    release: 0.1,
    detune: 2,
  },
  piano: {
    label: 'Piano',
    harmonics: (n) => exp(-n / 5),
    attack: 0.003,
    decay: 1.6,
    sustain: 0.05,
    release: 0.15,
    detune: 1.5,
  },
  bass: {
    label: 'Upright bass',
    harmonics: (n) => exp(-n / 2.2) + 0.05 / n,
    attack: 0.006,
    decay: 0.9,
    sustain: 0.25,
    release: 0.09,
    detune: 0,
  },
};
export const TONES = Object.entries(SHAPES).map(([id, s]) => ({ id, label: s.label }));

const { PI, abs, exp, max, sin, sqrt } = Math;
const SIZE = 2048;
/** Highest key that each table may play without folding back at 44.1 kHz, and its harmonics. */
const TABLES = [
  [52, 48],
  [76, 16],
  [100, 5],
  [127, 1],
] as const;
const made = new Map<string, Float64Array[]>();
function tablesOf(id: string): Float64Array[] {
  const known = made.get(id);
  if (known) return known;
  const out = TABLES.map(([, top]) => {
    const t = new Float64Array(SIZE + 1);
    let peak = 0;
    for (let i = 0; i <= SIZE; i++) {
      let v = 0;
      for (let n = 1; n <= top; n++) v += SHAPES[id].harmonics(n) * sin((2 * PI * n * i) / SIZE);
      t[i] = v;
      peak = max(peak, abs(v));
    }
    return t.map((v) => v / peak);
  });
  made.set(id, out);
  return out;
}

/** Seconds that a part which is tried alone is held. */
export const TRIED = 0.3;

/** What a voice follows while it sounds; one for each part. All of it may change at any time. */
export interface Tone {
  sound: string;
  /** linear, with everything that makes it louder or softer */
  gain: Ramp;
  /** −1 … 1 */
  pan: number;
  /** cents of vibrato */
  vibrato: number;
  /** one-pole low-pass, 0 … 1 */
  bright: number;
  damper: boolean;
  attack: number;
  release: number;
}

interface Voice {
  tone: Tone | null;
  tag: number;
  key: number;
  channel: number;
  phase: number;
  second: number;
  inc: number;
  inc2: number;
  table: Float64Array;
  level: number;
  /** on its way up, sinking, let go, over */
  state: 0 | 1 | 2 | 3;
  env: number;
  held: boolean;
  shape: Shape;
  low: number;
  age: number;
  /** frames until it lets go by itself */ left: number;
}
const VOICES = 48;
/** a voice that is let go ends under this share of its height */
const INAUDIBLE = 1e-4;

/**
 * Voices of a tuned instrument: single periods read from tables, a second one beside the first slightly off
 * pitch, a soft low-pass and an envelope.
 */
export class Tones {
  private readonly voices: Voice[];
  private lfo = 0;
  private age = 0;
  /** mono sound of one voice's stretch, while it is worked out */
  private readonly line: Float64Array;
  constructor(
    private readonly fs: number,
    maxBlock: number,
  ) {
    const table = tablesOf('piano')[0];
    this.voices = Array.from({ length: VOICES }, () => ({
      tone: null,
      tag: 0,
      key: 0,
      channel: 0,
      phase: 0,
      second: 0,
      inc: 0,
      inc2: 0,
      table,
      level: 0,
      state: 0,
      env: 0,
      held: false,
      shape: SHAPES.piano,
      low: 0,
      age: 0,
      left: Infinity,
    }));
    this.line = new Float64Array(maxBlock);
    for (const t of TONES) tablesOf(t.id);
  }

  /**
   * @param tag kept with the voice: which of the instrument's paths it is for
   * @param seconds after which it lets go by itself
   */
  on(tone: Tone, key: number, velocity: number, channel: number, tag = 0, seconds = Infinity): void {
    let v = this.voices[0];
    for (let k = 0; k < VOICES; k++) {
      const x = this.voices[k];
      if (!x.tone) {
        v = x;
        break;
      }
      if (x.age < v.age) v = x;
    }
    const shape = SHAPES[tone.sound] ?? SHAPES.piano;
    v.tone = tone;
    v.tag = tag;
    v.key = key;
    v.channel = channel;
    v.shape = shape;
    v.held = true;
    v.left = seconds * this.fs;
    v.state = 0;
    v.env = 0;
    v.low = 0;
    v.age = ++this.age;
    v.level = 0.28 * power(velocity / 127, 1.6);
    v.inc = ((440 * twoTo((key - 69) / 12)) / this.fs) * SIZE;
    v.inc2 = v.inc * twoTo(shape.detune / 1200);
    v.phase = 0;
    v.second = SIZE * 0.37;
    const tables = tablesOf(tone.sound in SHAPES ? tone.sound : 'piano');
    v.table = tables[TABLES.findIndex(([top]) => key <= top)];
  }
  off(tone: Tone, key: number, channel: number): void {
    for (let k = 0; k < VOICES; k++) {
      const v = this.voices[k];
      if (v.tone === tone && v.key === key && v.channel === channel && v.held) {
        v.held = false;
        if (!tone.damper) v.state = 2;
      }
    }
  }
  /** The damper pedal comes up: what is not held ends. */
  lift(tone: Tone): void {
    for (let k = 0; k < VOICES; k++) {
      const v = this.voices[k];
      if (v.tone === tone && !v.held) v.state = 2;
    }
  }
  allOff(): void {
    for (let k = 0; k < VOICES; k++) {
      this.voices[k].held = false;
      this.voices[k].state = 2;
    }
  }
  reset(): void {
    for (const v of this.voices) v.tone = null;
  }

  /**
   * Works out every voice for frames from … to and hands each to `put`, which adds it where it belongs; the
   * gain is in it.
   */
  render(
    from: number,
    to: number,
    put: (line: Float64Array, from: number, to: number, tone: Tone, tag: number) => void,
  ): void {
    const lfo = this.lfo;
    const dl = (2 * PI * 5.2) / this.fs;
    const fs = this.fs;
    for (let k = 0; k < VOICES; k++) {
      const v = this.voices[k];
      const tone = v.tone;
      if (!tone) continue;
      const lets = v.held ? from + v.left : Infinity;
      v.left -= to - from;
      if (v.held && v.left <= 0) v.held = false;
      const t = v.table;
      const s = v.shape;
      const line = this.line;
      const up = 1 / (max(0.001, s.attack * tone.attack) * fs);
      const down = 1 - exp(-1 / (s.decay * fs));
      const rel = 1 - exp(-1 / (max(0.005, s.release * tone.release) * fs));
      const k1 = 0.02 + 0.98 * tone.bright * tone.bright;
      let g = tone.gain.value;
      const dg = tone.gain.left ? tone.gain.step : 0;
      const left = tone.gain.left;
      let { phase, second, env, low, state } = v;
      for (let i = from; i < to; i++) {
        const bend = tone.vibrato === 0 ? 1 : 1 + tone.vibrato * 0.00057779 * sin(lfo + dl * (i - from));
        phase += v.inc * bend;
        while (phase >= SIZE) phase -= SIZE;
        const a = phase | 0;
        let x = t[a] + (phase - a) * (t[a + 1] - t[a]);
        if (s.detune) {
          second += v.inc2 * bend;
          while (second >= SIZE) second -= SIZE;
          const b = second | 0;
          x = 0.5 * (x + t[b] + (second - b) * (t[b + 1] - t[b]));
        }
        low += k1 * (x - low);
        if (i >= lets && state < 2) state = 2;
        if (state === 0) {
          env += up;
          if (env >= 1) {
            env = 1;
            state = 1;
          }
        } else if (state === 1) env += down * (s.sustain - env);
        else env -= rel * env;
        // where it ends, it ends at this sample, whatever the block is
        if (env < INAUDIBLE && (state === 2 || (state === 1 && s.sustain === 0))) {
          env = 0;
          state = 3;
        }
        line[i] = low * env * v.level * g;
        if (i - from < left) g += dg;
      }
      v.phase = phase;
      v.second = second;
      v.env = env;
      v.low = low;
      v.state = state;
      put(line, from, to, tone, v.tag);
      if (state === 3) v.tone = null;
    }
    this.lfo = (lfo + dl * (to - from)) % (2 * PI);
  }
}
