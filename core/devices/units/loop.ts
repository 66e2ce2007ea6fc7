import { StereoDelay } from '../align.ts';
import { dbToGain } from '../math.ts';
import { UNIT_MODELS, restOf } from './index.ts';
import type { DeviceContext, Processor } from '../spec.ts';
import type { HardwareUse, Line } from '../../model/hardware.ts';
import type { Params } from '../../model/types.ts';

/**
 * Delay of the simulated loops in samples: two buffers of 128 and the converters of a usual interface (common
 * practice: 5 to 10 ms there and back).
 */
const USUAL_DELAY = 311;

/** A way out and back with nothing wrong in it. */
export const CLEAN_LINE: Line = {
  delay: USUAL_DELAY,
  gain: 0,
  polarity: 1,
  noise: null,
  hum: null,
  swapped: false,
  dead: false,
};

/** What a simulated loop is made of. */
export interface LoopSpec {
  /** which units, by their models; another list is another loop */
  units: string;
  /** positions of the panel of each unit */
  positions: Record<string, number>[];
  line: Line;
  /** what is put right on the way back from real ports; a simulated line has it in itself */
  correct: NonNullable<HardwareUse['correct']>;
  /** what stands in where no unit is chosen runs on both sides */
  bothSides: boolean;
}

interface Written {
  units: { model: string; positions: Record<string, number> }[];
  line: Line;
  correct: NonNullable<HardwareUse['correct']>;
}

const written = new WeakMap<HardwareUse, { params: Params; running: Params }>();

/**
 * The values of a loop with its hardware among them, for the processor. Units without a simulation are a cable. The
 * same object as long as both are the same.
 */
export function loopOf(params: Params, hardware: HardwareUse): Params {
  const known = written.get(hardware);
  if (known?.params === params) return known.running;
  const units = hardware.units.flatMap(({ unit, positions }) =>
    unit.simulated && UNIT_MODELS[unit.simulated] ? [{ model: unit.simulated, positions }] : [],
  );
  const { correct = {} } = hardware;
  const text = JSON.stringify({ units, line: lineWith(hardware), correct } satisfies Written);
  const unitNames = hardware.units.map((u) => u.unit.name).join(' → ');
  const running: Params = { ...params, hardware: text, ...(unitNames ? { unitNames } : {}) };
  written.set(hardware, { params, running });
  return running;
}

/**
 * The line as it comes back: with what is put right behind it. In the place of real ports it takes as long as they were
 * measured to take, so that what stands in for them is in time.
 */
function lineWith({ line = CLEAN_LINE, correct = {}, measured }: HardwareUse): Line {
  const polarity = correct.turned ? line.polarity === 1 : line.polarity !== 1;
  const isReal = !!measured && measured.buffer !== null;
  return {
    ...line,
    delay: isReal ? Math.round(measured.delay) : line.delay,
    polarity: polarity ? -1 : 1,
    swapped: line.swapped !== !!correct.swapped,
  };
}

/** What stands in for hardware as long as no unit is chosen, by the value of that name. */
const STAND_INS: Record<string, { model: string; positions: Record<string, number>; late: number } | null> = {
  wire: null,
  compressor: {
    model: 'compressor',
    positions: { threshold: -22, ratio: 4, attack: 8, release: 180, makeup: 4 },
    late: 0,
  },
  spring: { model: 'spring', positions: {}, late: 26 },
};

const specs = new Map<string, LoopSpec>();

/** What a loop's values stand for. */
export function loopSpec(params: Params): LoopSpec {
  const key = String(params.hardware ?? `=${String(params.unit)}`);
  const known = specs.get(key);
  if (known) return known;
  const spec = typeof params.hardware === 'string' ? fromText(params.hardware) : standIn(String(params.unit));
  // a knob that is turned leaves many behind: they are small, but not for ever
  if (specs.size > 500) specs.clear();
  specs.set(key, spec);
  return spec;
}

function fromText(text: string): LoopSpec {
  const { units, line, correct } = JSON.parse(text) as Written;
  return {
    units: units.map((u) => u.model).join('+'),
    positions: units.map((u) => u.positions),
    line: { ...CLEAN_LINE, ...line },
    correct,
    bothSides: false,
  };
}

function standIn(unit: string): LoopSpec {
  const it = STAND_INS[unit] ?? null;
  const line = { ...CLEAN_LINE, delay: USUAL_DELAY + (it?.late ?? 0) };
  return { units: it?.model ?? '', positions: it ? [it.positions] : [], line, correct: {}, bothSides: true };
}

/** One unit at its place in a loop. */
class UnitRun {
  private readonly model;
  private readonly procs: Processor[];
  constructor(
    model: string,
    positions: Record<string, number>,
    private readonly bothSides: boolean,
    private readonly ctx: DeviceContext,
  ) {
    this.model = UNIT_MODELS[model];
    this.procs = this.stages(positions).map((s) => s.device.create(s.params, ctx));
  }
  private stages(positions: Record<string, number>) {
    const at = { ...restOf(this.model.panel), ...positions };
    return this.model.stages((control) => at[control]);
  }
  set(positions: Record<string, number>, immediate: boolean): void {
    this.stages(positions).forEach((s, i) => this.procs[i].set(s.params, immediate));
  }
  get reduction(): number {
    return Math.min(0, ...this.procs.map((p) => p.reduction));
  }
  /** samples that its simulation takes beside what the line takes */
  get latency(): number {
    return this.stages({}).reduce((sum, s) => sum + s.device.latency(s.params, this.ctx.sampleRate), 0);
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    if (this.model.width === 'mono' && !this.bothSides) {
      for (let i = 0; i < n; i++) l[i] = r[i] = 0.5 * (l[i] + r[i]);
    }
    for (const p of this.procs) p.process(l, r, n, l, r);
  }
  reset(): void {
    this.procs.forEach((p) => p.reset());
  }
}

/** Hz of the mains that a simulated hum has, with the shares of its harmonics. */
const MAINS = 50;
const HUM_PARTS = [1, 0.3, 0.15];

/** What the ports carry: the units behind a delay for the way out and back, and what is wrong with the line. */
export class Loop {
  private readonly delay: StereoDelay;
  private readonly units: UnitRun[];
  private line: Line;
  private seed = 1;
  private at = 0;
  constructor(
    spec: LoopSpec,
    private readonly ctx: DeviceContext,
  ) {
    this.line = spec.line;
    const models = spec.units ? spec.units.split('+') : [];
    this.units = models.map((m, i) => new UnitRun(m, spec.positions[i], spec.bothSides, ctx));
    const inside = this.units.reduce((sum, u) => sum + u.latency, 0);
    this.delay = new StereoDelay(ctx.sampleRate, ctx.maxBlock);
    this.delay.set(Math.max(0, Math.round(spec.line.delay - inside)), true);
  }
  /** New positions and faults of the same units. */
  set(spec: LoopSpec, immediate: boolean): void {
    this.line = spec.line;
    this.units.forEach((u, i) => u.set(spec.positions[i], immediate));
  }
  get reduction(): number {
    return Math.min(0, ...this.units.map((u) => u.reduction));
  }
  process(l: Float64Array, r: Float64Array, n: number): void {
    this.delay.process(l, r, n);
    for (const u of this.units) u.process(l, r, n);
    this.disturb(l, r, n);
  }

  private disturb(l: Float64Array, r: Float64Array, n: number): void {
    const { gain, polarity, noise, hum, swapped, dead } = this.line;
    const g = dead ? 0 : polarity * dbToGain(gain);
    if (g !== 1) {
      for (let i = 0; i < n; i++) {
        l[i] *= g;
        r[i] *= g;
      }
    }
    if (swapped) for (let i = 0; i < n; i++) [l[i], r[i]] = [r[i], l[i]];
    if (noise !== null) this.addNoise(l, r, n, dbToGain(noise) * Math.sqrt(3));
    if (hum !== null) this.addHum(l, r, n, dbToGain(hum));
    this.at += n;
  }
  /** Even noise of a fixed seed: the same sound every time. (Numbers: W. H. Press and others, “Numerical Recipes”.) */
  private addNoise(l: Float64Array, r: Float64Array, n: number, top: number): void {
    for (let i = 0; i < n; i++) {
      this.seed = (Math.imul(this.seed, 1664525) + 1013904223) | 0;
      l[i] += (top * this.seed) / 2147483648;
      this.seed = (Math.imul(this.seed, 1664525) + 1013904223) | 0;
      r[i] += (top * this.seed) / 2147483648;
    }
  }
  private addHum(l: Float64Array, r: Float64Array, n: number, top: number): void {
    const turn = (2 * Math.PI * MAINS) / this.ctx.sampleRate;
    for (let i = 0; i < n; i++) {
      const x = HUM_PARTS.reduce((sum, part, k) => sum + part * Math.sin((k + 1) * turn * (this.at + i)), 0);
      l[i] += top * x;
      r[i] += top * x;
    }
  }
  reset(): void {
    this.delay.reset();
    this.units.forEach((u) => u.reset());
    this.seed = 1;
    this.at = 0;
  }
}
