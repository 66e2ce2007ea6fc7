import type { Family, Measured } from '../model/hardware.ts';
import type { Device } from '../model/types.ts';
import { agreed, measureLoop } from './measure.ts';
import { stereoSweep, sweepSignal } from './sweep.ts';

/** Repeats of one measurement of a real loop. */
export interface Taken {
  /** Hz */
  sampleRate: number;
  /** frames of the interface's buffer */
  buffer: number;
  /** frames that the engine takes beside the interface, always the same */
  ahead: number;
  /** what went out, one channel or two */
  played: Float32Array[];
  /** what came in each time, from the moment on at which it was played */
  takes: Float32Array[][];
}

/** Seconds of a sweep, and of the silence behind it in which what is late and what rings comes in. */
const SWEEP = 1.5;
const REST = 0.7;

/** What is played to measure a loop over real ports: one sweep, or one after the other where both sides are stereo. */
export const signalFor = (isStereo: boolean, sampleRate: number): Float32Array[] =>
  isStereo ? stereoSweep(sampleRate, 2 * SWEEP) : [sweepSignal(sampleRate, SWEEP)];

/** Frames to be recorded of a signal. */
export const framesFor = (signal: readonly Float32Array[], sampleRate: number): number =>
  signal[0].length + Math.round(REST * sampleRate);

/**
 * A loop over real ports as its repeats found it. What the engine works ahead counts as a part of the way.
 * @param at when, ISO 8601
 */
export function measureTaken(d: Device, taken: Taken, at: string): Measured {
  const { sampleRate, buffer, ahead, played, takes } = taken;
  const found = agreed(takes.map((recorded) => measureLoop(played, recorded, sampleRate)));
  return {
    ...found,
    faults: faultsOf(found.faults, d),
    delay: found.delay + ahead,
    at,
    sampleRate,
    buffer,
  };
}

/** Faults without what the device's units do by their nature: a compressor follows the level, a saturation bends. */
export function faultsOf(faults: readonly string[], d: Device): string[] {
  const families = new Set<Family>((d.hardware?.units ?? []).map(({ unit }) => unit.family));
  const bends = families.has('compressor') || families.has('saturation') || families.has('preamp');
  return faults.filter((fault) => !bends || !/follows the level|harmonics/.test(fault));
}
