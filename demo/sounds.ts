import { cookbook, type FilterType } from '../core/devices/biquad.ts';

// taken out of the global object once: a look-up per sample is slow in sandboxed test runs
const { PI, abs, cos, exp, floor, max, min, pow, round, sin } = Math;

/**
 * The demo's sounds, made by formula from a fixed seed: nothing is recorded and nobody sings. A song is a
 * tempo, a rate and a progression of chords (MIDI note numbers).
 */
export interface Song {
  tempo: number;
  sampleRate: number;
  bars: number;
  chords: number[][];
  melody: (number | null)[];
  seed: number;
}

type Gen = (song: Song) => Float32Array[];

const hz = (note: number) => 440 * pow(2, (note - 69) / 12);

function random(seed: number): () => number {
  let s = seed >>> 0 || 1;
  return () => {
    s ^= s << 13;
    s >>>= 0;
    s ^= s >>> 17;
    s ^= s << 5;
    s >>>= 0;
    return s / 4294967296;
  };
}

const frames = (s: Song) => round(((s.bars * 4 * 60) / s.tempo) * s.sampleRate);
const beat = (s: Song) => (60 / s.tempo) * s.sampleRate;
const chordAt = (s: Song, bar: number) => s.chords[bar % s.chords.length];

/** Filters in place with one cookbook section. */
function filter(x: Float32Array, type: FilterType, f: number, q: number, fs: number, gain = 0): Float32Array {
  const [b0, b1, b2, a1, a2] = cookbook(type, f, gain, q, fs);
  let s1 = 0;
  let s2 = 0;
  for (let i = 0; i < x.length; i++) {
    const v = x[i];
    const y = b0 * v + s1;
    s1 = b1 * v - a1 * y + s2;
    s2 = b2 * v - a2 * y;
    x[i] = y;
  }
  return x;
}

const mix = (to: Float32Array, from: Float32Array, at: number, gain: number) => {
  for (let i = 0; i < from.length && at + i < to.length; i++) if (at + i >= 0) to[at + i] += gain * from[i];
};

function normalise(channels: Float32Array[], peakDb: number): Float32Array[] {
  let top = 1e-9;
  for (const c of channels) for (const v of c) top = max(top, abs(v));
  const g = pow(10, peakDb / 20) / top;
  return channels.map((c) => c.map((v) => v * g));
}

/** Formants of sung vowels in Hz (textbook averages, from memory). */
const VOWELS = [
  [700, 1200, 2600],
  [500, 1900, 2500],
  [320, 2200, 3000],
  [450, 800, 2600],
];

/** A sung note: band-limited pulse with vibrato through three formants. */
function sung(
  note: number,
  length: number,
  fs: number,
  vowel: number[],
  rnd: () => number,
  breathy = 0.02,
): Float32Array {
  const x = new Float32Array(length);
  let phase = rnd();
  const [rate, depth] = [4.8 + rnd(), 0.004 + 0.003 * rnd()];
  for (let i = 0; i < length; i++) {
    const t = i / fs;
    const f = hz(note) * (1 + depth * min(1, t * 2) * sin(2 * PI * rate * t) - 0.02 * exp(-t * 18));
    phase += f / fs;
    const p = phase % 1;
    const env = min(1, i / (0.04 * fs)) * min(1, (length - i) / (0.07 * fs));
    x[i] = env * ((p < 0.6 ? sin((PI * p) / 0.6) ** 2 - 0.3 : -0.3) + breathy * (rnd() - 0.5) * 4);
  }
  const out = new Float32Array(length);
  vowel.forEach((f, k) => mix(out, filter(x.slice(), 'bandPass', f, 6 + k * 2, fs), 0, [1, 0.7, 0.45][k]));
  mix(out, filter(x, 'lowPass', 500, 0.7, fs), 0, 0.25);
  return out;
}

const hiss = (length: number, f: number, q: number, fs: number, rnd: () => number) => {
  const x = Float32Array.from({ length }, (_, i) => (rnd() - 0.5) * sin((PI * i) / length));
  return filter(filter(x, 'bandPass', f, q, fs), 'highPass', f / 2, 0.7, fs);
};

/**
 * Lead voice: phrases of the melody with consonants, hard sibilants and breaths between the lines. Mono.
 * @param sibilants Hz, the middle of its s
 */
export const leadVoice = (s: Song, sibilants = 7200): Float32Array[] => {
  const rnd = random(s.seed + 1);
  const fs = s.sampleRate;
  const b = beat(s);
  const out = new Float32Array(frames(s));
  s.melody.forEach((note, i) => {
    const at = round((i * b) / 1);
    const length = round(b * 0.92);
    if (note === null) {
      mix(out, hiss(round(0.32 * fs), 2400, 0.8, fs, rnd), at + round(b * 0.45), 0.16);
      return;
    }
    if (i % 3 === 1) mix(out, hiss(round(0.09 * fs), sibilants, 1.6, fs, rnd), at - round(0.05 * fs), 0.9);
    else if (i % 3 === 2) mix(out, hiss(round(0.03 * fs), 3200, 1, fs, rnd), at, 0.5);
    mix(out, sung(note, length, fs, VOWELS[i % 4], rnd), at, 0.7 + 0.3 * sin(i * 1.7));
  });
  return normalise([out], -8);
};

/** Shanty choir: nine voices on each chord, spread over the sides, never quite together. Stereo. */
export const choir: Gen = (s) => {
  const rnd = random(s.seed + 2);
  const fs = s.sampleRate;
  const b = beat(s);
  const n = frames(s);
  const [l, r] = [new Float32Array(n), new Float32Array(n)];
  for (let bar = 0; bar < s.bars; bar++) {
    for (let v = 0; v < 9; v++) {
      const chord = chordAt(s, bar);
      const note = chord[v % chord.length] + (v > 5 ? 12 : 0) + (rnd() - 0.5) * 0.25;
      const at = round(bar * 4 * b + rnd() * 0.05 * fs);
      const x = sung(note, round(b * 3.4), fs, VOWELS[(bar + v) % 4], rnd, 0.04);
      const pan = v / 8;
      mix(l, x, at, cos((pan * PI) / 2));
      mix(r, x, at, sin((pan * PI) / 2));
    }
  }
  return normalise([l, r], -10);
};

/** Concertina: pulse reeds in off-beat chords, two slightly detuned banks. Stereo. */
export const concertina: Gen = (s) => {
  const rnd = random(s.seed + 3);
  const fs = s.sampleRate;
  const b = beat(s);
  const n = frames(s);
  const [l, r] = [new Float32Array(n), new Float32Array(n)];
  for (let k = 0; k < s.bars * 8; k++) {
    if (k % 8 === 0 || k % 4 === 2) continue;
    const length = round(b * 0.42);
    const at = round(k * b * 0.5);
    for (const note of chordAt(s, floor(k / 8))) {
      for (const [side, cents] of [
        [l, -5],
        [r, 6],
      ] as const) {
        const f = hz(note + 12 + cents / 100);
        const x = new Float32Array(length);
        let phase = rnd();
        for (let i = 0; i < length; i++) {
          phase += f / fs;
          const env = min(1, i / (0.012 * fs)) * min(1, (length - i) / (0.03 * fs));
          let v = 0;
          for (let h = 1; h <= 9 && h * f < fs * 0.4; h++) {
            v += (sin(2 * PI * h * phase) * (h % 2 ? 1 : 0.5)) / h;
          }
          x[i] = env * v;
        }
        mix(side, filter(x, 'bell', 1500, 1, fs, 5), at, 0.4);
      }
    }
  }
  return normalise([l, r], -9);
};

/** Upright bass: plucked string with a finger's knock. Mono. */
export const bass: Gen = (s) => {
  const rnd = random(s.seed + 4);
  const fs = s.sampleRate;
  const b = beat(s);
  const out = new Float32Array(frames(s));
  for (let k = 0; k < s.bars * 4; k++) {
    if (k % 4 === 1) continue;
    const root = chordAt(s, floor(k / 4))[0] - 24 + (k % 4 === 3 ? 7 : 0);
    const length = round(b * 0.95);
    const f = hz(root);
    const x = new Float32Array(length);
    for (let i = 0; i < length; i++) {
      const t = i / fs;
      let v = 0;
      for (let h = 1; h < 12; h++) {
        v += (sin(2 * PI * f * h * t * (1 + 0.0004 * h * h)) * exp(-t * (1.6 + h * 1.1))) / h;
      }
      x[i] = min(1, i / (0.004 * fs)) * min(1, (length - i) / (0.03 * fs)) * v;
    }
    mix(out, x, round(k * b), 0.8);
    mix(out, hiss(round(0.02 * fs), 1400, 1, fs, rnd), round(k * b), 0.4);
  }
  return normalise([out], -8);
};

/** Deck drums: a foot drum, a crate and a tin shaker in a small room. Stereo. */
export const deckDrums: Gen = (s) => {
  const rnd = random(s.seed + 5);
  const fs = s.sampleRate;
  const b = beat(s);
  const n = frames(s);
  const [l, r] = [new Float32Array(n), new Float32Array(n)];
  const foot = Float32Array.from({ length: round(0.32 * fs) }, (_, i) => {
    const t = i / fs;
    return (
      sin(2 * PI * (52 * t + 14 * (1 - exp(-t * 40)))) * exp(-t * 13) + (rnd() - 0.5) * 0.6 * exp(-t * 400)
    );
  });
  const crate = () => {
    const x = Float32Array.from({ length: round(0.22 * fs) }, (_, i) => {
      const t = i / fs;
      return ((rnd() - 0.5) * 1.6 + 0.6 * sin(2 * PI * 190 * t)) * exp(-t * 24);
    });
    return filter(x, 'bell', 3200, 1, fs, 4);
  };
  const shaker = (long: boolean) => hiss(round((long ? 0.11 : 0.05) * fs), 8500, 1.2, fs, rnd);
  const put = (x: Float32Array, beats: number, gain: number, pan: number) => {
    const at = round(beats * b);
    mix(l, x, at, gain * (1 - pan));
    mix(r, x, at, gain * (1 + pan));
    for (const [ms, g, side] of [
      [11, 0.16, l],
      [17, 0.15, r],
      [29, 0.09, l],
      [37, 0.08, r],
    ] as const) {
      mix(side, x, at + round((ms * fs) / 1000), gain * g);
    }
  };
  for (let k = 0; k < s.bars * 4; k++) {
    if (k % 2 === 0) put(foot, k, 1, 0);
    if (k % 8 === 5) put(foot, k + 0.5, 0.7, 0);
    if (k % 2 === 1) put(crate(), k, 0.7, 0.1);
    for (let h = 0; h < 2; h++) put(shaker(h === 1), k + h / 2, 0.45 + 0.2 * rnd(), -0.45);
  }
  return normalise([l, r], -6);
};

/** Harbour noise: wind, a halyard that knocks, a distant horn. Stereo. */
export const harbour: Gen = (s) => {
  const rnd = random(s.seed + 6);
  const fs = s.sampleRate;
  const n = frames(s);
  const side = () => {
    const x = filter(
      Float32Array.from({ length: n }, () => rnd() - 0.5),
      'lowPass',
      420,
      0.7,
      fs,
    );
    for (let i = 0; i < n; i++) x[i] *= 0.6 + 0.4 * sin((2 * PI * i) / (fs * 3.7));
    return x;
  };
  const [l, r] = [side(), side()];
  for (let k = 0; k < n / fs / 1.3; k++) {
    mix(k % 2 ? l : r, hiss(round(0.04 * fs), 2100, 8, fs, rnd), round(k * 1.3 * fs), 0.2);
  }
  return normalise([l, r], -20);
};
