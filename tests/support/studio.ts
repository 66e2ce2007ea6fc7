import { UNIT_MODELS } from '../../core/devices/units/index.ts';
import { bayJack, portJack } from '../../core/hardware/jacks.ts';
import type { WantedPatch } from '../../core/hardware/plan.ts';
import type { Cable, Measured, Normal, Port, Studio, Unit } from '../../core/model/hardware.ts';

/** A port of a test's studio at +4 dBu and +18 dBu. */
export const port = (id: string, side: 'in' | 'out', number: number, over: Partial<Port> = {}): Port => ({
  id,
  name: `${side === 'in' ? 'In' : 'Out'} ${number}`,
  side,
  number,
  pair: null,
  connector: 'XLR',
  nominal: 'plus4',
  alignment: 18,
  ...over,
});

/** A unit of a family that is simulated. */
export const unit = (id: string, over: Partial<Unit> = {}): Unit => ({
  id,
  name: id,
  family: 'compressor',
  width: 'mono',
  hasKey: false,
  nominal: 'plus4',
  panel: UNIT_MODELS.compressor.panel,
  simulated: 'compressor',
  note: '',
  ...over,
});

/** What was measured of a loop with nothing wrong in it. */
export const measuredAs = (over: Partial<Measured>): Measured => ({
  at: '2026-01-01T00:00:00Z',
  sampleRate: 48000,
  buffer: null,
  delay: 311,
  gain: 0,
  polarity: 1,
  swapped: false,
  noise: -90,
  hum: { 50: -120, 60: -120 },
  clipped: false,
  distortion: -90,
  response: [],
  faults: [],
  ...over,
});

/** A studio with what a test names in it; units by their ids alone are compressors. */
export const studio = (
  over: Partial<Omit<Studio, 'units'>> & { units?: (string | Unit)[] } = {},
): Studio => ({
  format: 'rope-shelf/setup',
  id: 'studio',
  version: 1,
  name: 'Studio',
  note: '',
  ports: [],
  bays: [],
  wires: [],
  cables: [],
  controllers: [],
  midi: {},
  loops: [],
  ...over,
  units: (over.units ?? []).map((u) => (typeof u === 'string' ? unit(u) : u)),
});

/** Sixty-four loops over a bay of 256 pairs: each wants its own return, and what is plugged is one place off. */
export function shiftedBay(mode: Normal) {
  const count = 64;
  const ports = Array.from({ length: count }, (_, i) => [
    port(`o${i}`, 'out', i + 1),
    port(`i${i}`, 'in', i + 1),
  ]).flat();
  const names = Array.from({ length: 256 }, () => ({ mode, upper: '', lower: '' }));
  const wires = Array.from({ length: count }, (_, i) => [
    { from: portJack(`o${i}`), to: bayJack('b', i + 1, 'upper') },
    { from: bayJack('b', ((i + 7) % count) + 1, 'lower'), to: portJack(`i${i}`) },
  ]).flat();
  const cables = Array.from({ length: count }, (_, i): Cable => {
    const wrong = (i + 1) % count;
    return {
      id: `c${i}`,
      from: bayJack('b', i + 1, 'upper'),
      to: bayJack('b', ((wrong + 7) % count) + 1, 'lower'),
    };
  });
  const wants = Array.from({ length: count }, (_, i): WantedPatch => {
    return { from: portJack(`o${i}`), to: portJack(`i${i}`) };
  });
  return { made: studio({ ports, bays: [{ id: 'b', name: 'Bay', pairs: names }], wires, cables }), wants };
}
