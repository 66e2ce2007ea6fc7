/** Panels of outboard: where a control of one stands on another. */
import fc from 'fast-check';
import { carryPositions, nearestPosition, positionText, type Control, type Unit } from '../index.ts';
import { UNIT_MODELS } from '../devices/units/index.ts';
import { unit } from '../../tests/support/studio.ts';

const control = (id: string, over: Partial<Control> = {}): Control => ({
  id,
  label: id,
  kind: 'knob',
  unit: 'dB',
  min: -20,
  max: 20,
  taper: 'linear',
  default: 0,
  column: 0,
  row: 0,
  ...over,
});
const panelOf = (...panel: Control[]): Unit => unit('unit', { panel });
const carry = (from: Unit, positions: Record<string, number>, to: Unit) =>
  carryPositions({ unit: from, positions }, to);

const units = Object.values(UNIT_MODELS).map(({ panel }, i) => unit(`unit ${i}`, { panel }));
/** A unit with its controls anywhere. */
const anyUse = fc.constantFrom(...units).chain((one) =>
  fc.record({
    unit: fc.constant(one),
    positions: fc
      .tuple(...one.panel.map((c) => fc.integer({ min: Math.ceil(c.min * 10), max: Math.floor(c.max * 10) })))
      .map((all) => Object.fromEntries(one.panel.map((c, i) => [c.id, nearestPosition(c, all[i] / 10)]))),
  }),
);

test('on its own panel everything stands as it did; on any other each control carries one at most, within its range', () => {
  fc.assert(
    fc.property(anyUse, fc.constantFrom(...units), (use, other) => {
      const own = carryPositions(use, use.unit);
      expect(own.positions).toEqual(use.positions);
      expect(own.carried.every((c) => c.exact && c.from === c.to)).toBe(true);
      const { positions, carried } = carryPositions(use, other);
      expect(carried.filter((c) => c.to !== null).length).toBeLessThanOrEqual(other.panel.length);
      for (const c of other.panel) expect(nearestPosition(c, positions[c.id])).toBe(positions[c.id]);
      // what is told as the same reads the same; a panel that goes below 0 dB writes its plus
      const read = (text: string | null) => text?.replace('+', '');
      for (const c of carried) if (c.exact) expect(read(c.to)).toBe(read(c.from));
    }),
  );
});

test('both sides of a stereo panel set the same thing, and stay on their sides', () => {
  const sides = panelOf(control('left', { means: 'gain' }), control('right', { means: 'gain' }));
  expect(carry(sides, { left: 3, right: -4 }, sides).positions).toEqual({ left: 3, right: -4 });
  const turned = panelOf(control('right', { means: 'gain' }), control('left', { means: 'gain' }));
  expect(carry(sides, { left: 3, right: -4 }, turned).positions).toEqual({ left: 3, right: -4 });
  const mono = panelOf(control('gain', { means: 'gain' }));
  const { positions, carried } = carry(sides, { left: 3, right: -4 }, mono);
  expect(positions).toEqual({ gain: 3 });
  expect(carried.map((c) => c.to)).toEqual([positionText(mono.panel[0], 3), null]);
});

test('a switch stands where its position is called the same; where none is, it is at rest and that is told', () => {
  const names = (...labels: string[]) =>
    panelOf(control('speed', { kind: 'switch', unit: '', min: 0, max: labels.length - 1, labels }));
  const [slowFirst, fastFirst] = [names('Slow', 'Fast'), names('fast', 'slow')];
  expect(carry(slowFirst, { speed: 0 }, fastFirst)).toEqual({
    positions: { speed: 1 },
    carried: [{ control: 'speed', from: 'Slow', to: 'slow', exact: true }],
  });
  expect(carry(slowFirst, { speed: 1 }, names('Off', 'On')).carried).toEqual([
    { control: 'speed', from: 'Fast', to: 'Off', exact: false },
  ]);
});

test('a scale that is only numbered goes over by its way, and is not called the same', () => {
  const numbered = (max: number) => panelOf(control('drive', { unit: '', min: 0, max }));
  const { positions, carried } = carry(numbered(10), { drive: 5 }, numbered(100));
  expect(positions.drive).toBeCloseTo(50, 9);
  expect(carried[0].exact).toBe(false);
});
