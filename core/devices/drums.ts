/**
 * The kit's sounds, made by formula from fixed seeds: membranes as decaying sines with a falling pitch,
 * metals as clusters of squares through a band, shells and skins with noise. Usual recipes of sound synthesis
 * (common practice).
 */
export const DRUMS = [
  { id: 'none', label: '— none —' },
  { id: 'kick', label: 'Kick' },
  { id: 'snare', label: 'Snare' },
  { id: 'stick', label: 'Side stick' },
  { id: 'clap', label: 'Clap' },
  { id: 'hat', label: 'Closed hat' },
  { id: 'pedal', label: 'Pedal hat' },
  { id: 'open', label: 'Open hat' },
  { id: 'lowtom', label: 'Low tom' },
  { id: 'midtom', label: 'Mid tom' },
  { id: 'hightom', label: 'High tom' },
  { id: 'crash', label: 'Crash' },
  { id: 'ride', label: 'Ride' },
  { id: 'bell', label: 'Ride bell' },
  { id: 'tambourine', label: 'Tambourine' },
  { id: 'shaker', label: 'Shaker' },
  { id: 'block', label: 'Wood block' },
  { id: 'stomp', label: 'Deck stomp' },
] as const;

const { PI, abs, exp, floor, imul, max, min, round, sin } = Math;

/** How loud overhead and room microphones hear a sound, and where it stands before the overheads. */
export const BLEED: Record<string, { over: number; room: number; at: number }> = {
  kick: { over: 0.25, room: 0.6, at: 0 },
  snare: { over: 0.6, room: 0.6, at: -10 },
  stick: { over: 0.5, room: 0.4, at: -10 },
  clap: { over: 0.6, room: 0.7, at: 0 },
  hat: { over: 0.7, room: 0.3, at: -55 },
  pedal: { over: 0.6, room: 0.3, at: -55 },
  open: { over: 0.8, room: 0.4, at: -55 },
  lowtom: { over: 0.5, room: 0.6, at: 50 },
  midtom: { over: 0.5, room: 0.6, at: 15 },
  hightom: { over: 0.5, room: 0.6, at: -20 },
  crash: { over: 1, room: 0.6, at: -40 },
  ride: { over: 1, room: 0.5, at: 45 },
  bell: { over: 0.9, room: 0.4, at: 45 },
  tambourine: { over: 0.5, room: 0.4, at: 25 },
  shaker: { over: 0.4, room: 0.3, at: 30 },
  block: { over: 0.4, room: 0.4, at: -25 },
  stomp: { over: 0.2, room: 0.8, at: 0 },
};

interface Recipe {
  seconds: number;
  tone?: [from: number, to: number, drop: number, decay: number, amount: number];
  noise?: [low: number, high: number, decay: number, amount: number];
  metal?: [base: number, decay: number, amount: number];
  bursts?: number;
  attack?: number;
}
const RECIPES: Record<string, Recipe> = {
  kick: { seconds: 0.6, tone: [160, 52, 0.03, 0.16, 1], noise: [1500, 6000, 0.006, 0.25] },
  snare: { seconds: 0.5, tone: [260, 185, 0.02, 0.09, 0.6], noise: [900, 9000, 0.11, 0.7] },
  stick: { seconds: 0.15, tone: [1700, 1650, 0.01, 0.012, 0.7], noise: [2000, 8000, 0.008, 0.4] },
  clap: { seconds: 0.4, noise: [900, 4500, 0.09, 1], bursts: 4 },
  hat: { seconds: 0.2, metal: [540, 0.03, 0.8], noise: [7000, 16000, 0.03, 0.4] },
  pedal: { seconds: 0.2, metal: [500, 0.045, 0.6], noise: [5000, 12000, 0.04, 0.3] },
  open: { seconds: 0.9, metal: [540, 0.25, 0.8], noise: [7000, 16000, 0.22, 0.4] },
  lowtom: { seconds: 0.9, tone: [125, 82, 0.06, 0.24, 1], noise: [400, 3000, 0.02, 0.2] },
  midtom: { seconds: 0.8, tone: [175, 118, 0.05, 0.2, 1], noise: [500, 3500, 0.02, 0.2] },
  hightom: { seconds: 0.7, tone: [240, 168, 0.04, 0.17, 1], noise: [600, 4000, 0.02, 0.2] },
  crash: { seconds: 2.4, metal: [410, 0.7, 0.6], noise: [3500, 15000, 0.6, 0.7] },
  ride: {
    seconds: 1.8,
    metal: [620, 0.55, 0.7],
    noise: [5000, 13000, 0.3, 0.25],
    tone: [3100, 3100, 1, 0.02, 0.25],
  },
  bell: { seconds: 1.4, metal: [820, 0.45, 0.6], tone: [1480, 1480, 1, 0.3, 0.5] },
  tambourine: { seconds: 0.4, metal: [930, 0.09, 0.6], noise: [6000, 15000, 0.08, 0.6], bursts: 2 },
  shaker: { seconds: 0.25, noise: [5000, 14000, 0.05, 1], attack: 0.03 },
  block: { seconds: 0.2, tone: [1120, 1080, 0.02, 0.035, 1], noise: [1000, 4000, 0.004, 0.3] },
  stomp: { seconds: 0.7, tone: [95, 44, 0.05, 0.15, 1], noise: [120, 900, 0.05, 0.6] },
};

const made = new Map<string, Float32Array>();

/** A sound in mono at a rate, its peak at 0.5 (−6 dBFS); made once. Unknown sounds and "none" are empty. */
export function drumSound(id: string, fs: number): Float32Array {
  const key = `${id}@${fs}`;
  const known = made.get(key);
  if (known) return known;
  const r = RECIPES[id];
  const out = r
    ? make(
        r,
        fs,
        [...id].reduce((a, c) => (imul(a, 31) + c.charCodeAt(0)) >>> 0, 7),
      )
    : new Float32Array(0);
  made.set(key, out);
  return out;
}

function make(r: Recipe, fs: number, seed: number): Float32Array {
  const n = round(r.seconds * fs);
  const x = new Float64Array(n);
  let s = seed;
  const random = () => {
    s = (imul(s, 1664525) + 1013904223) >>> 0;
    return s / 2147483648 - 1;
  };
  if (r.tone) {
    const [from, to, drop, decay, amount] = r.tone;
    for (let i = 0, phase = 0; i < n; i++) {
      const t = i / fs;
      phase += (2 * PI * (to + (from - to) * exp(-t / drop))) / fs;
      x[i] += amount * sin(phase) * exp(-t / decay);
    }
  }
  if (r.noise) {
    const [low, high, decay, amount] = r.noise;
    const kl = 1 - exp((-2 * PI * low) / fs);
    const kh = 1 - exp((-2 * PI * min(high, fs * 0.45)) / fs);
    for (let i = 0, a = 0, b = 0; i < n; i++) {
      b += kh * (random() - b);
      a += kl * (b - a);
      const t = i / fs;
      let e = exp(-t / decay);
      if (r.bursts) {
        const gap = 0.011;
        const k = floor(t / gap);
        if (k < r.bursts - 1) e = exp(-(t - k * gap) / 0.003);
        else e = exp(-(t - (r.bursts - 1) * gap) / decay);
      }
      x[i] += amount * 2 * (b - a) * e;
    }
  }
  if (r.metal) {
    const [base, decay, amount] = r.metal;
    const ratios = [1, 1.342, 1.231, 1.652, 1.986, 1.523];
    const k = 1 - exp((-2 * PI * 5200) / fs);
    for (let i = 0, low = 0; i < n; i++) {
      let v = 0;
      for (const q of ratios) v += sin((2 * PI * base * q * i) / fs) > 0 ? 1 : -1;
      low += k * (v / 6 - low);
      x[i] += amount * (v / 6 - low) * exp(-i / fs / decay);
    }
  }
  let peak = 0;
  const rise = (r.attack ?? 0.0005) * fs;
  const fall = 0.02 * fs;
  for (let i = 0; i < n; i++) {
    x[i] *= min(1, i / rise, (n - 1 - i) / fall);
    peak = max(peak, abs(x[i]));
  }
  return Float32Array.from(x, (v) => (v * 0.5) / peak);
}
