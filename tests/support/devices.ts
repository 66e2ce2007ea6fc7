import { ADDABLE, type DeviceType, type Params } from '../../core/index.ts';

/** Every device that can be added, with its label for the tests' names. */
export const rows = ADDABLE.map((d) => [d.label, d] as [string, DeviceType]);

/** settings that make a device work */
const busy: Record<string, Params> = {
  eq: { 'b3.on': true, 'b3.gain': 9, 'b1.on': true, 'b1.slope': '48' },
  compressor: { threshold: -30, ratio: 8 },
  deesser: { threshold: -50 },
  limiter: { threshold: -18 },
  saturator: { drive: 18 },
  clipper: { drive: 12 },
  pitchshift: { semitones: 3 },
  multiband: { bands: '4', 'b1.threshold': -40, 'b4.threshold': -50 },
  width: { width: 150, lows: true },
  gate: { threshold: -25 },
  outboard: { roundTrip: 6.48 },
};
export const working = (d: DeviceType): Params => ({ ...d.defaults, ...busy[d.type] });
