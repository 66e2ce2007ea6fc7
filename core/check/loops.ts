import { DEVICE_TYPES } from '../devices/index.ts';
import { simulatedRoundTrip } from '../hardware/simulated.ts';
import type { HardwareLoop } from '../devices/spec.ts';
import type { HardwareUse } from '../model/hardware.ts';
import type { Device, Session, Track } from '../model/types.ts';
import { walkSlots } from '../session/slots.ts';
import { onDevice, type Hit } from './rule.ts';

/** A device on a line that plays through hardware. */
export interface LoopOn {
  t: Track;
  x: Device;
  loop: HardwareLoop;
}

/** Every loop of a line that is on, also inside its racks. */
export function loopsOn(t: Track): LoopOn[] {
  return [...walkSlots(t.chain)].flatMap((x) => {
    const loop = x.kind === 'device' && x.state === 'on' ? DEVICE_TYPES[x.type].loop : undefined;
    return x.kind === 'device' && loop ? [{ t, x, loop }] : [];
  });
}
export const loopsIn = (s: Session): LoopOn[] => s.tracks.filter((t) => t.state === 'on').flatMap(loopsOn);

const known = new Map<string, number>();
/** Whether a loop was measured over real ports: only they have a buffer. */
export const isReal = (d: Device): boolean => (d.hardware?.measured?.buffer ?? null) !== null;

/**
 * The round trip of a loop in ms: over real ports as it was measured there; of a simulated one measured here, once for
 * each line and rate.
 */
export function measured(d: Device, rate: number): number {
  const there = d.hardware?.measured;
  if (there && isReal(d)) return Math.round((there.delay * 1e6) / there.sampleRate) / 1000;
  const key = `${JSON.stringify(d.hardware?.line ?? d.params.unit)}@${rate}`;
  const found = known.get(key) ?? Math.round(simulatedRoundTrip(d, rate) * 1000) / 1000;
  known.set(key, found);
  return found;
}

/** The measured round trip written into the device that a hit speaks of, and into what it remembers of its loop. */
export const setMeasured = (s: Session, h: Hit): Session =>
  onDevice(s, h, (d) => {
    const ms = measured(d, s.sampleRate);
    const params = { ...d.params, [DEVICE_TYPES[d.type].loop!.roundTrip]: ms };
    if (!d.hardware?.measured || isReal(d)) return { params };
    const now = { delay: (ms * s.sampleRate) / 1000, sampleRate: s.sampleRate, at: new Date().toISOString() };
    return { params, hardware: { ...d.hardware, measured: { ...d.hardware.measured, ...now } } };
  });

/** What the device that a hit speaks of goes through, changed. */
export const withHardware = (s: Session, h: Hit, change: (use: HardwareUse) => HardwareUse): Session =>
  onDevice(s, h, (d) => (d.hardware ? { hardware: change(d.hardware) } : {}));
