import { Loop, loopSpec, type LoopSpec } from '../devices/units/loop.ts';
import { runningParams } from '../devices/index.ts';
import type { Measured } from '../model/hardware.ts';
import type { Device } from '../model/types.ts';
import { measureLoop, responseTo, type LoopFigures } from './measure.ts';
import { stereoSweep, sweepSignal } from './sweep.ts';
import { faultsOf } from './taken.ts';

const BLOCK = 512;

/** Plays both sides through a simulated loop. */
function throughLoop(spec: LoopSpec, sides: readonly Float32Array[], sampleRate: number): Float64Array[] {
  const loop = new Loop(spec, { sampleRate, tempo: 120, maxBlock: BLOCK });
  const [l, r] = sides.map((x) => Float64Array.from(x));
  for (let at = 0; at < l.length; at += BLOCK) {
    const n = Math.min(BLOCK, l.length - at);
    loop.process(l.subarray(at, at + n), r.subarray(at, at + n), n);
  }
  return [l, r];
}

/** The loop with its units patched out: how long something takes that compresses or rings is not seen through it. */
const bare = (spec: LoopSpec): LoopSpec => ({
  ...spec,
  units: '',
  positions: [],
  line: { ...spec.line, noise: null, hum: null },
});

/**
 * How long a simulated loop takes there and back, by an impulse through it with its units patched out.
 * @returns ms; 0 where nothing comes back
 */
export function simulatedRoundTrip(d: Device, sampleRate: number): number {
  const spec = bare(loopSpec(runningParams(d)));
  const impulse = new Float32Array(spec.line.delay + 2 * BLOCK);
  impulse[0] = 0.01;
  const [l] = throughLoop(spec, [impulse, impulse], sampleRate);
  let best = 0;
  for (let i = 0; i < l.length; i++) if (Math.abs(l[i]) > Math.abs(l[best])) best = i;
  return l[best] === 0 ? 0 : (best * 1000) / sampleRate;
}

/**
 * A simulated loop measured as a real one is: by sweeps on both sides, and its delay without its units where they
 * ring or compress.
 */
export function measureSimulated(d: Device, sampleRate: number, at: string): Measured {
  const spec = loopSpec(runningParams(d));
  // a mono unit hears both sides at once: one sweep goes to both
  const isMono = (d.hardware?.units ?? []).some(({ unit }) => unit.width === 'mono');
  const one = sweepSignal(sampleRate, 1.5);
  const sweep = isMono ? [one, one] : stereoSweep(sampleRate, 2);
  const tail = (x: Float32Array) => {
    const out = new Float32Array(x.length + Math.round(0.4 * sampleRate));
    out.set(x);
    return out;
  };
  const found = measureLoop(sweep, throughLoop(spec, sweep.map(tail), sampleRate), sampleRate);
  const delay = (simulatedRoundTrip(d, sampleRate) * sampleRate) / 1000;
  return { ...found, faults: faultsOf(found.faults, d), delay, at, sampleRate, buffer: null };
}

/** Seconds of the short sweep that settings are compared by. */
const SHORT = 0.4;

/** Gain and response of a simulated loop, quickly: for trying many settings of its panels. */
export function quickResponse(d: Device, sampleRate: number): Pick<LoopFigures, 'gain' | 'response'> {
  const spec = loopSpec(runningParams(d));
  const clean = { ...spec, line: { ...spec.line, noise: null, hum: null, delay: 64 } };
  const sweep = sweepSignal(sampleRate, SHORT);
  const [l] = throughLoop(clean, [sweep, sweep], sampleRate);
  return responseTo(sweep, l, sampleRate);
}
