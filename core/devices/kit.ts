import { pads } from './pictures/pads.ts';
import { StereoDelay } from './align.ts';
import { BLEED, DRUMS, drumSound } from './drums.ts';
import {
  ALL_OFF,
  HIT,
  NOTE_ON,
  OUTPUTS,
  Player,
  outChoice,
  outPlace,
  trims,
  type OutPlace,
} from './instrument.ts';
import { doubles } from './kernels/index.ts';
import { Ramp, dbToGain } from './math.ts';
import { choice, decibels, defineDevice, percent, wholeNumber, words, type DeviceContext } from './spec.ts';
import type { Params } from '../model/types.ts';
import { square } from '../model/power.ts';

const { PI, abs, cos, min, round, sin } = Math;

export const KIT_PARTS = 16;
/**
 * Names, sounds, keys (General MIDI Level 1 percussion keys, from memory), level and pan of the parts as they
 * come.
 */
const START: [name: string, sound: string, key: number, level: number, pan: number][] = [
  ['Kick', 'kick', 36, 0, 0],
  ['Snare', 'snare', 38, -2, 0],
  ['Side stick', 'stick', 37, -6, 0],
  ['Clap', 'clap', 39, -6, 0],
  ['Closed hat', 'hat', 42, -8, -30],
  ['Pedal hat', 'pedal', 44, -10, -30],
  ['Open hat', 'open', 46, -8, -30],
  ['Low tom', 'lowtom', 45, -3, 40],
  ['Mid tom', 'midtom', 47, -3, 10],
  ['High tom', 'hightom', 50, -3, -20],
  ['Crash', 'crash', 49, -8, -40],
  ['Ride', 'ride', 51, -10, 40],
  ['Ride bell', 'bell', 53, -10, 40],
  ['Tambourine', 'tambourine', 54, -10, 25],
  ['Shaker', 'shaker', 70, -12, 30],
  ['Wood block', 'block', 76, -8, -25],
];
const MICS = [
  ['oh', 'Overheads', -10],
  ['room', 'Room', -16],
] as const;
const numbers = Array.from({ length: KIT_PARTS }, (_, i) => i);

/**
 * A drum kit of up to 16 parts; each goes to the main output or to one of 16 separate ones, stereo or one
 * half. Overhead and room microphones pick all parts up.
 */
export const kit = defineDevice({
  type: 'kit',
  label: 'Kit',
  summary:
    'Sixteen drums, each with level, pan and one of sixteen stereo outputs; overheads and room pick them all up.',
  hasKey: false,
  panel: 'drums',
  picture: pads,
  work: 25,
  params: [
    ...numbers.flatMap((i) => {
      const [name, sound, key, level, pan] = START[i];
      const p = `p${i + 1}`;
      const g = `Part ${i + 1}`;
      return [
        words(`${p}.name`, `${g} name`, g, name),
        choice(`${p}.sound`, `${g} sound`, g, DRUMS, sound),
        wholeNumber(`${p}.key`, `${g} key`, g, 0, 127, key, ''),
        decibels(`${p}.level`, `${g} level`, g, -60, 24, level, { step: 0.1 }),
        {
          id: `${p}.pan`,
          label: `${g} pan`,
          group: g,
          kind: 'number' as const,
          unit: 'pan' as const,
          min: -100,
          max: 100,
          default: pan,
          taper: 'linear' as const,
          step: 1,
        },
        outChoice(`${p}.out`, `${g} output`, g, OUTPUTS),
      ];
    }),
    ...MICS.flatMap(([id, label, level]) => [
      decibels(`${id}.level`, `${label} level`, 'Microphones', -60, 24, level, { step: 0.1 }),
      outChoice(`${id}.out`, `${label} output`, 'Microphones', OUTPUTS),
    ]),
    percent('bleed', 'Bleed', 'Microphones', 0, 100, 100, {
      step: 1,
      help: 'How much of the kit the microphones pick up',
    }),
    ...trims(OUTPUTS),
  ],
  latency: () => 0,
  used: (p, id) => {
    const m = /^(p\d+)\./.exec(id);
    return !m || id === `${m[1]}.sound` || p[`${m[1]}.sound`] !== 'none';
  },
  instrument: {
    drums: true,
    outputs: OUTPUTS,
    parts: (p) => [
      ...numbers
        .map((i) => `p${i + 1}`)
        .filter((k) => p[`${k}.sound`] !== 'none')
        .map((id) => ({
          id,
          name: String(p[`${id}.name`]),
          kind: 'part' as const,
          outParam: `${id}.out`,
          out: String(p[`${id}.out`]),
          key: p[`${id}.key`] as number,
          strike: Number(id.slice(1)) - 1,
          sound: String(p[`${id}.sound`]),
          pan: p[`${id}.pan`] as number,
        })),
      ...MICS.filter(([id]) => (p[`${id}.level`] as number) > -60 && (p.bleed as number) > 0).map(
        ([id, name]) => ({
          id,
          name,
          kind: 'mic' as const,
          outParam: `${id}.out`,
          out: String(p[`${id}.out`]),
          key: -1,
          strike: -1,
          sound: id,
          pan: 0,
        }),
      ),
    ],
    trim: (pair) => `t${pair}`,
  },
  create: (params, ctx) => new KitProcessor(params, ctx),
});

interface Voice {
  part: Part | null;
  sound: Float32Array;
  at: number;
  gain: number;
  out: OutPlace;
  fade: number;
  fadeStep: number;
}
interface Part {
  index: number;
  sound: Float32Array;
  id: string;
  key: number;
  out: OutPlace;
  l: Ramp;
  r: Ramp;
  mono: Ramp;
  over: number;
  room: number;
  overL: number;
  overR: number;
}

const VOICES = 64;
/** A closed or pedal hat ends an open one. */
const CHOKES: Record<string, string> = { hat: 'open', pedal: 'open' };

class KitProcessor extends Player {
  private readonly parts: Part[];
  private readonly voices: Voice[];
  private next = 0;
  private readonly over: StereoDelay;
  private readonly overL: Float64Array;
  private readonly overR: Float64Array;
  private readonly roomL: Float64Array;
  private readonly roomR: Float64Array;
  private readonly room: Room;
  private readonly mics = MICS.map(() => ({ gain: new Ramp(0), out: outPlace('main') }));

  constructor(params: Params, ctx: DeviceContext) {
    super(OUTPUTS, ctx);
    const nothing = new Float32Array(0);
    this.parts = numbers.map((index) => ({
      index,
      sound: nothing,
      id: 'none',
      key: 0,
      out: outPlace('main'),
      l: new Ramp(0),
      r: new Ramp(0),
      mono: new Ramp(0),
      over: 0,
      room: 0,
      overL: 0,
      overR: 0,
    }));
    this.voices = Array.from({ length: VOICES }, () => ({
      part: null,
      sound: nothing,
      at: 0,
      gain: 0,
      out: outPlace('main'),
      fade: 1,
      fadeStep: 0,
    }));
    [this.overL, this.overR, this.roomL, this.roomR] = [0, 1, 2, 3].map(() => doubles(ctx.maxBlock));
    // overheads hang about 0.9 m above the kit
    this.over = new StereoDelay(ctx.sampleRate, ctx.maxBlock);
    this.over.set(round(0.0026 * ctx.sampleRate), true);
    this.room = new Room(ctx.sampleRate);
    this.set(params, true);
  }

  set(p: Params, immediate: boolean): void {
    const samples = immediate ? 0 : this.glide;
    for (const part of this.parts) {
      const k = `p${part.index + 1}`;
      part.id = String(p[`${k}.sound`]);
      part.sound = drumSound(part.id, this.fs);
      part.key = p[`${k}.key`] as number;
      part.out = outPlace(String(p[`${k}.out`]));
      const g = dbToGain(p[`${k}.level`] as number);
      const a = (((p[`${k}.pan`] as number) / 100 + 1) * PI) / 4;
      part.mono.to(g, samples);
      part.l.to(g * cos(a), samples);
      part.r.to(g * sin(a), samples);
      const b = BLEED[part.id];
      const amount = (p.bleed as number) / 100;
      const side = (((b?.at ?? 0) / 100 + 1) * PI) / 4;
      part.over = (b?.over ?? 0) * amount;
      part.room = (b?.room ?? 0) * amount;
      part.overL = part.over * cos(side);
      part.overR = part.over * sin(side);
    }
    MICS.forEach(([id], i) => {
      const v = p[`${id}.level`] as number;
      this.mics[i].gain.to(v <= -60 ? 0 : dbToGain(v), samples);
      this.mics[i].out = outPlace(String(p[`${id}.out`]));
    });
    this.bank.set(p, immediate);
  }

  protected override begin(n: number): void {
    this.overL.fill(0, 0, n);
    this.overR.fill(0, 0, n);
    this.roomL.fill(0, 0, n);
    this.roomR.fill(0, 0, n);
  }

  protected take(type: number, _port: number, _channel: number, a: number, b: number): void {
    if (type === NOTE_ON) {
      for (let k = 0; k < this.parts.length; k++) if (this.parts[k].key === a) this.hit(this.parts[k], b);
    } else if (type === HIT) {
      if (a < this.parts.length) this.hit(this.parts[a], b);
    } else if (type === ALL_OFF) {
      for (let k = 0; k < VOICES; k++) this.voices[k].fadeStep = -1 / (0.03 * this.fs);
    }
  }

  protected override end(n: number): void {
    this.over.process(this.overL, this.overR, n);
    this.room.process(this.roomL, this.roomR, n);
    this.mic(0, this.overL, this.overR, n);
    this.mic(1, this.roomL, this.roomR, n);
  }

  private mic(k: number, l: Float64Array, r: Float64Array, n: number): void {
    const m = this.mics[k];
    const from = m.gain.value;
    m.gain.advance(n);
    const step = (m.gain.value - from) / n;
    const dl = this.bank.left(m.out);
    const dr = this.bank.right(m.out);
    if (from === 0 && m.gain.value === 0) return;
    if (dl === dr) for (let i = 0; i < n; i++) dl[i] += 0.5 * (from + step * i) * (l[i] + r[i]);
    else {
      for (let i = 0; i < n; i++) {
        const g = from + step * i;
        dl[i] += g * l[i];
        dr[i] += g * r[i];
      }
    }
  }

  private hit(part: Part, velocity: number): void {
    if (part.sound.length === 0) return;
    const choked = CHOKES[part.id];
    if (choked) {
      for (let k = 0; k < VOICES; k++) {
        const v = this.voices[k];
        if (v.part?.id === choked) v.fadeStep = -1 / (0.02 * this.fs);
      }
    }
    const v = this.voices[this.next];
    this.next = (this.next + 1) % VOICES;
    v.part = part;
    v.sound = part.sound;
    v.at = 0;
    // full scale of a part is velocity 127; half the velocity is 12 dB less (common practice: loudness goes
    // with its square)
    v.gain = square(velocity / 127);
    v.out = part.out;
    v.fade = 1;
    v.fadeStep = 0;
  }

  protected sound(from: number, to: number): void {
    const len = to - from;
    for (let k = 0; k < VOICES; k++) {
      const v = this.voices[k];
      const p = v.part;
      if (!p) continue;
      const m = min(len, v.sound.length - v.at);
      const s = v.sound;
      const at = v.at;
      const dl = this.bank.left(v.out);
      const dr = this.bank.right(v.out);
      const half = dl === dr;
      const gl = half ? p.mono : p.l;
      const gr = p.r;
      let a = gl.value;
      let b = gr.value;
      let f = v.fade;
      const da = gl.left ? gl.step : 0;
      const db = gr.left ? gr.step : 0;
      const df = v.fadeStep;
      const mono = p.mono.value;
      for (let i = 0; i < m && f > 0; i++) {
        const x = s[at + i] * v.gain * f;
        dl[from + i] += x * a;
        if (!half) dr[from + i] += x * b;
        const y = x * mono;
        this.overL[from + i] += y * p.overL;
        this.overR[from + i] += y * p.overR;
        this.roomL[from + i] += y * p.room;
        this.roomR[from + i] += y * p.room;
        a += da;
        b += db;
        f += df;
      }
      v.fade = f;
      v.at += m;
      if (v.at >= s.length || f <= 0) v.part = null;
    }
    for (let k = 0; k < this.parts.length; k++) {
      const p = this.parts[k];
      p.l.advance(len);
      p.r.advance(len);
      p.mono.advance(len);
    }
  }

  reset(): void {
    for (const v of this.voices) v.part = null;
    this.over.reset();
    this.room.reset();
  }
}

/**
 * A small room: four delay lines that feed each other through a Hadamard matrix (J.-M. Jot, A. Chaigne,
 * 1991), about 0.45 s of decay.
 */
class Room {
  private readonly lines: Float64Array[];
  private readonly at = [0, 0, 0, 0];
  private readonly low = [0, 0, 0, 0];
  constructor(fs: number) {
    this.lines = [0.0113, 0.0149, 0.0197, 0.0241].map((t) => new Float64Array(round(t * fs)));
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    const [A, B, C, D] = this.lines;
    const low = this.low;
    let [a, b, c, d] = this.at;
    for (let i = 0; i < n; i++) {
      const x = 0.5 * (l[i] + r[i]);
      const p = (low[0] += 0.6 * (A[a] - low[0]));
      const q = (low[1] += 0.6 * (B[b] - low[1]));
      const s = (low[2] += 0.6 * (C[c] - low[2]));
      const t = (low[3] += 0.6 * (D[d] - low[3]));
      const u = p + q;
      const v = p - q;
      const w = s + t;
      const z = s - t;
      A[a] = x + 0.39 * (u + w);
      B[b] = x + 0.39 * (v + z);
      C[c] = x + 0.39 * (u - w);
      D[d] = x + 0.39 * (v - z);
      if (++a === A.length) a = 0;
      if (++b === B.length) b = 0;
      if (++c === C.length) c = 0;
      if (++d === D.length) d = 0;
      l[i] = 0.6 * (p + s);
      r[i] = 0.6 * (q + t);
    }
    this.at[0] = a;
    this.at[1] = b;
    this.at[2] = c;
    this.at[3] = d;
    for (let k = 0; k < 4; k++) {
      if (abs(low[k]) < 1e-12) {
        low[k] = 0;
        const line = this.lines[k];
        let quiet = true;
        for (let i = 0; i < line.length && quiet; i += 7) quiet = abs(line[i]) < 1e-12;
        if (quiet) line.fill(0);
      }
    }
  }
  reset(): void {
    for (const x of this.lines) x.fill(0);
    this.low.fill(0);
  }
}
