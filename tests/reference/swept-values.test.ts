/**
 * No device clicks or zips while a value is swept. The bar is the device's own edges with the value standing
 * still (common practice: a sweep may sound like its values, not like its steps).
 */
import { type DeviceType, type Params, type ParamSpec } from '../../core/index.ts';
import { peak, runDevice, sine } from '../support/build.ts';
import { rows, working } from '../support/devices.ts';

/**
 * The sharpest edge that a sweep leaves, against the same edges when nothing moves: second differences of a
 * low sine are tiny, a click is a large one.
 */
const edge = (x: Float32Array, from: number) => {
  let e = 0;
  for (let i = from + 2; i < x.length; i++) e = Math.max(e, Math.abs(x[i] - 2 * x[i - 1] + x[i - 2]));
  return e;
};
// a change of algorithm (type of room, choice of unit, formants) crossfades; values that are switches and
// choices are swept too
const numeric = (d: DeviceType) => d.params.filter((p) => p.kind !== 'text' && !/^b[2-8]\./.test(p.id));
// what plays by notes is swept while it plays, in core/engine/midi.test.ts
test.each(rows.filter(([, d]) => d.params.length && !d.instrument && !d.pattern))(
  '%s: no click and no zipper while any value is swept',
  (_n, d) => {
    const x = sine(110, 0.25, 0.5);
    // what moves the pitch or clips brings edges of its own: those are the reference; a linear fade has
    // corners, which count with the level
    const bad: string[] = [];
    for (const p of numeric(d)) {
      const start = working(d);
      const span = (t: number): Params => ({
        ...start,
        [p.id]: swept(p, (t * 4) % 2 > 1 ? 2 - ((t * 4) % 2) : (t * 4) % 2, t),
      });
      const out = runDevice(d.type, start, x, { block: 128, change: (t) => span(t) });
      const still = Math.max(
        ...[0, 0.5, 1].map((at) =>
          edge(runDevice(d.type, { ...start, [p.id]: swept(p, at, 0.24 * at) }, x, { block: 128 }), 9600),
        ),
      );
      if (edge(out, 9600) > still * 1.5 + 0.014 * Math.max(0.25, peak(out.subarray(9600)))) {
        bad.push(
          `${p.label}: an edge of ${edge(out, 9600).toFixed(5)} while sweeping, ${still.toFixed(5)} standing still`,
        );
      }
    }
    expect(bad).toEqual([]);
  },
);
const swept = (p: ParamSpec, at: number, t: number) => {
  if (p.kind === 'switch') return Math.floor(t * 8) % 2 === 1;
  if (p.kind === 'choice') return p.choices![Math.floor(t * 8) % p.choices!.length].id;
  const hi = p.unit === 'dB' ? Math.min(p.max!, 12) : p.max!;
  return p.taper === 'log' ? p.min! * (hi / p.min!) ** at : p.min! + at * (hi - p.min!);
};
