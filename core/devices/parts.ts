import { pads } from './pictures/pads.ts';
import {
  ALL_OFF,
  CONTROL,
  HIT,
  NOTE_OFF,
  NOTE_ON,
  OUTPUTS,
  Player,
  outChoice,
  outPlace,
  trims,
  type OutPlace,
  type OutputBank,
} from './instrument.ts';
import { Ramp, dbToGain } from './math.ts';
import { choice, decibels, defineDevice, wholeNumber, words, type DeviceContext } from './spec.ts';
import { TONES, TRIED, Tones, type Tone } from './tones.ts';
import type { MidiPort, Params } from '../model/types.ts';
import { square } from '../model/power.ts';

export const PLAYER_PARTS = 16;
const PORTS = ['A', 'B', 'C', 'D'].map((id) => ({ id, label: `Port ${id}` }));
const START: [string, string][] = [
  ['Strings', 'strings'],
  ['Horns', 'horns'],
  ['Choir', 'choir'],
  ['Bells', 'bells'],
];
/** What a part's controllers move, with the numbers that the MIDI 1.0 table of controllers gives them. */
export const PLAYER_CONTROLLERS = [
  ['mod', 'Modulation', 1],
  ['expr', 'Expression', 11],
  ['foot', 'Foot', 4],
  ['damper', 'Damper', 64],
] as const;
const numbers = Array.from({ length: PLAYER_PARTS }, (_, i) => i);

/** Up to sixteen tuned parts, each on its own port and channel, with its own output and controllers. */
export const partsPlayer = defineDevice({
  type: 'parts',
  label: 'Parts player',
  summary: 'Up to sixteen tuned parts, each with its port, channel, keys, output and controllers.',
  hasKey: false,
  panel: 'parts',
  picture: pads,
  work: 40,
  params: [
    ...numbers.flatMap((i) => {
      const p = `p${i + 1}`;
      const g = `Part ${i + 1}`;
      const [name, sound] = START[i] ?? [g, 'none'];
      return [
        words(`${p}.name`, `${g} name`, g, name),
        choice(`${p}.sound`, `${g} sound`, g, [{ id: 'none', label: '— none —' }, ...TONES], sound),
        choice(`${p}.port`, `${g} port`, g, PORTS, 'A'),
        wholeNumber(`${p}.channel`, `${g} channel`, g, 1, 16, i + 1, ''),
        wholeNumber(`${p}.low`, `${g} lowest key`, g, 0, 127, 0, ''),
        wholeNumber(`${p}.high`, `${g} highest key`, g, 0, 127, 127, ''),
        decibels(`${p}.level`, `${g} level`, g, -60, 24, -3, { step: 0.1 }),
        {
          id: `${p}.pan`,
          label: `${g} pan`,
          group: g,
          kind: 'number' as const,
          unit: 'pan' as const,
          min: -100,
          max: 100,
          default: 0,
          taper: 'linear' as const,
          step: 1,
        },
        outChoice(`${p}.out`, `${g} output`, g, OUTPUTS),
        ...PLAYER_CONTROLLERS.map(([id, label, cc]) =>
          wholeNumber(`${p}.${id}`, `${g} ${label.toLowerCase()} controller`, g, -1, 119, cc, '', {
            help: 'Controller number; −1 for none',
          }),
        ),
      ];
    }),
    ...trims(OUTPUTS),
  ],
  latency: () => 0,
  used: (p, id) => {
    const m = /^(p\d+)\./.exec(id);
    return !m || id === `${m[1]}.sound` || p[`${m[1]}.sound`] !== 'none';
  },
  instrument: {
    addressed: (free) =>
      Object.fromEntries(
        free.flatMap((at, n) => [
          [`p${n + 1}.port`, at.port],
          [`p${n + 1}.channel`, at.channel],
        ]),
      ),
    outputs: OUTPUTS,
    parts: (p) =>
      numbers
        .map((i) => `p${i + 1}`)
        .filter((k) => p[`${k}.sound`] !== 'none')
        .map((id) => ({
          id,
          name: String(p[`${id}.name`]),
          kind: 'part' as const,
          outParam: `${id}.out`,
          out: String(p[`${id}.out`]),
          key: Math.min(p[`${id}.high`] as number, Math.max(p[`${id}.low`] as number, 60)),
          strike: Number(id.slice(1)) - 1,
          sound: String(p[`${id}.sound`]),
          pan: p[`${id}.pan`] as number,
          address: { port: p[`${id}.port`] as MidiPort, channel: p[`${id}.channel`] as number },
          controllers: PLAYER_CONTROLLERS.map(([c, label, usual]) => ({
            param: `${id}.${c}`,
            label,
            number: p[`${id}.${c}`] as number,
            usual,
          })),
        })),
    trim: (pair) => `t${pair}`,
  },
  create: (params, ctx) => new PartsProcessor(params, ctx),
});

interface Part {
  tone: Tone;
  out: OutPlace;
  port: number;
  channel: number;
  low: number;
  high: number;
  level: number;
  mod: number;
  expr: number;
  foot: number;
  damper: number;
  loud: number;
}

class PartsProcessor extends Player {
  private readonly parts: Part[];
  private readonly tones: Tones;
  constructor(params: Params, ctx: DeviceContext) {
    super(OUTPUTS, ctx);
    this.tones = new Tones(ctx.sampleRate, ctx.maxBlock);
    this.parts = numbers.map(() => ({
      tone: newTone('piano'),
      out: outPlace('main'),
      port: 0,
      channel: 1,
      low: 0,
      high: 127,
      level: 0,
      mod: 1,
      expr: 11,
      foot: 4,
      damper: 64,
      loud: 1,
    }));
    this.set(params, true);
  }
  set(p: Params, immediate: boolean): void {
    this.parts.forEach((part, i) => {
      const k = `p${i + 1}`;
      part.tone.sound = String(p[`${k}.sound`]);
      part.tone.pan = (p[`${k}.pan`] as number) / 100;
      part.level = dbToGain(p[`${k}.level`] as number);
      part.tone.gain.to(part.level * part.loud, immediate ? 0 : this.glide);
      part.out = outPlace(String(p[`${k}.out`]));
      part.port = 'ABCD'.indexOf(String(p[`${k}.port`]));
      for (const v of ['channel', 'low', 'high', 'mod', 'expr', 'foot', 'damper'] as const) {
        part[v] = p[`${k}.${v}`] as number;
      }
    });
    this.bank.set(p, immediate);
  }
  protected take(type: number, port: number, channel: number, a: number, b: number): void {
    if (type === ALL_OFF) {
      this.tones.allOff();
      return;
    }
    for (let k = 0; k < this.parts.length; k++) {
      const p = this.parts[k];
      if (p.tone.sound === 'none') continue;
      if (type === HIT) {
        if (k === a) {
          const key = Math.min(p.high, Math.max(p.low, 60));
          this.tones.on(p.tone, key, b, 0, 0, TRIED);
        }
        continue;
      }
      if (p.port !== port || p.channel !== channel) continue;
      if (type === CONTROL) this.control(p, a, b);
      else if (a < p.low || a > p.high) continue;
      else if (type === NOTE_ON) this.tones.on(p.tone, a, b, channel);
      else if (type === NOTE_OFF) this.tones.off(p.tone, a, channel);
    }
  }
  private control(p: Part, number: number, value: number): void {
    if (number === p.mod) p.tone.vibrato = (value / 127) * 45;
    if (number === p.expr) {
      p.loud = square(value / 127);
      p.tone.gain.to(p.level * p.loud, this.glide);
    }
    if (number === p.foot) p.tone.bright = 0.15 + (0.85 * value) / 127;
    // the standard counts 64 and more as down
    if (number === p.damper) {
      p.tone.damper = value >= 64;
      if (value < 64) this.tones.lift(p.tone);
    }
  }
  protected sound(from: number, to: number): void {
    this.tones.render(from, to, this.put);
    for (let k = 0; k < this.parts.length; k++) this.parts[k].tone.gain.advance(to - from);
  }
  private readonly put = (line: Float64Array, from: number, to: number, tone: Tone): void => {
    let out = this.parts[0].out;
    for (let k = 0; k < this.parts.length; k++) if (this.parts[k].tone === tone) out = this.parts[k].out;
    addTone(this.bank, out, tone.pan, line, from, to);
  };
  reset(): void {
    this.tones.reset();
  }
}

export const newTone = (sound: string): Tone => ({
  sound,
  gain: new Ramp(1),
  pan: 0,
  vibrato: 0,
  bright: 1,
  damper: false,
  attack: 1,
  release: 1,
});

/** Adds a voice where an output takes it: panned (constant power) into both sides, or whole into one half. */
export function addTone(
  bank: OutputBank,
  out: OutPlace,
  pan: number,
  line: Float64Array,
  from: number,
  to: number,
): void {
  const dl = bank.left(out);
  const dr = bank.right(out);
  if (dl === dr) {
    for (let i = from; i < to; i++) dl[i] += line[i];
    return;
  }
  const a = ((pan + 1) * Math.PI) / 4;
  const gl = Math.cos(a);
  const gr = Math.sin(a);
  for (let i = from; i < to; i++) {
    dl[i] += gl * line[i];
    dr[i] += gr * line[i];
  }
}
