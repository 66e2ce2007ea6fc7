import type { HardwareUse, Studio, UnitUse } from '../model/hardware.ts';
import type { Id, Session } from '../model/types.ts';
import { mapDevices } from '../session/slots.ts';
import type { Edit } from './on.ts';

/** What a device goes through outside the computer; undefined: what its values say. */
export const setHardware =
  (track: Id, device: Id, hardware: HardwareUse | undefined): Edit =>
  (s) => ({
    ...s,
    tracks: s.tracks.map((t) =>
      t.id === track
        ? {
            ...t,
            chain: mapDevices(t.chain, (d) => {
              if (d.id !== device) return d;
              const { hardware: _was, ...rest } = d;
              return hardware ? { ...rest, hardware } : rest;
            }),
          }
        : t,
    ),
  });

/** The units before a hardware input. */
export const setInputUnits =
  (track: Id, units: UnitUse[]): Edit =>
  (s) => ({
    ...s,
    tracks: s.tracks.map((t) => {
      if (t.id !== track || t.input.kind !== 'hardware') return t;
      const { units: _was, ...input } = t.input;
      return { ...t, input: units.length ? { ...input, units } : input };
    }),
  });

/** What is ticked off on the patch list. */
export const setTicks =
  (ticks: string[]): Edit =>
  (s) =>
    s.setup ? { ...s, setup: { ...s.setup, ticks } } : s;

/** The session's copy of its studio, as it is plugged now. */
export const setStudio = (s: Session, studio: Studio): Session =>
  s.setup ? { ...s, setup: { ...s.setup, studio } } : s;
