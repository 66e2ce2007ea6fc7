import {
  CONTROLLER_NAMES,
  bend,
  controllerName,
  controllersIn,
  createRack,
  createStrand,
  freeController,
  handleConflicts,
  moveController,
  racksIn,
  tieTargets,
  tieValue,
  toPosition,
  validateSession,
  type Handle,
  type Rack,
  type Session,
} from '../index.ts';
import fc from 'fast-check';
import { anySession } from '../../tests/support/generate.ts';
import { dev, device, sessionWith } from '../../tests/support/build.ts';

const handle = (id: string, cc: number | null, ties: Handle['ties']): Handle => ({
  id,
  name: id,
  colour: 'kelp',
  value: 0,
  cc,
  ties,
});
const rackOf = (n: number, cc: number | null): Rack => {
  const d = device('saturator', {}, { id: `d${n}` });
  return {
    ...createRack(`R${n}`, [], { id: `r${n}`, strands: [createStrand('S', [d], { id: `s${n}` })] }),
    handles: [
      handle(`h${n}`, cc, [{ id: `t${n}`, slot: `d${n}`, param: 'drive', from: 0, to: 36, curve: 0 }]),
    ],
  };
};
const session = (...numbers: (number | null)[]): Session =>
  sessionWith(numbers.map((cc, i) => ({ id: `a${i}`, name: `Line ${i}`, chain: [rackOf(i, cc)] })));
const drives = (s: Session) =>
  s.tracks.slice(0, -1).map((t) => dev((t.chain[0] as Rack).strands[0].chain[0]).params.drive);

describe('controllers', () => {
  test('0 and 127 are the two ends exactly; everything that listens to the number moves, nothing else', () => {
    const s = session(20, 21, 20, null);
    expect(drives(moveController(s, 20, 127))).toEqual([36, 6, 36, 6]);
    expect(drives(moveController(s, 20, 0))).toEqual([0, 6, 0, 6]);
    const moved = moveController(s, 21, 64);
    expect(moved.tracks[0]).toBe(s.tracks[0]);
    expect(drives(moved)[1]).toBeCloseTo((64 / 127) * 36, 1);
    expect(moveController(s, 99, 64)).toBe(s);
  });

  test('values outside of a controller’s range are held at its ends', () => {
    expect(drives(moveController(session(20), 20, 500))).toEqual([36]);
    expect(drives(moveController(session(20), 20, -3))).toEqual([0]);
  });

  // MIDI 1.0 detailed specification, table of controller numbers: those without a function
  test('a free number is one that the standard leaves undefined and nobody uses', () => {
    expect(freeController([])).toBe(20);
    expect(freeController([20, 21, 22])).toBe(23);
    for (const cc of [1, 7, 10, 11, 64]) expect(CONTROLLER_NAMES[cc]).toBeDefined();
    const all = Array.from({ length: 128 }, (_, i) => i);
    expect(freeController(all)).toBeNull();
    for (
      let used: number[] = [], n = freeController(used);
      n !== null;
      used = [...used, n], n = freeController(used)
    ) {
      expect(CONTROLLER_NAMES[n]).toBeUndefined();
      expect(n).toBeLessThan(120);
    }
    expect(controllerName(11)).toBe('CC 11 (expression)');
    expect(controllerName(20)).toBe('CC 20');
  });

  test('two on one number are a conflict of both, named with their lines', () => {
    const s = session(20, 20, 21);
    expect(controllersIn(s.tracks.map((t) => t.chain))).toEqual([20, 20, 21]);
    const [c] = handleConflicts(s);
    expect([c.kind, c.handles.map((h) => h.track)]).toEqual(['controller', ['a0', 'a1']]);
    expect(c.text).toContain('CC 20');
  });

  test('any controller at any value leaves any session sound, and moves each value to where its curve says', () => {
    fc.assert(
      fc.property(anySession(), fc.nat(127), (s, value) => {
        for (const cc of new Set(controllersIn(s.tracks.map((t) => t.chain)))) {
          const after = moveController(s, cc, value);
          expect(validateSession(after)).toEqual([]);
          for (const t of after.tracks) {
            for (const r of racksIn(t.chain)) {
              for (const h of r.handles) {
                if (h.cc === cc) expect(h.value).toBeCloseTo((value / 127) * 100, 9);
              }
            }
          }
        }
      }),
      { numRuns: 80 },
    );
  });

  test('a curve bends between fixed ends and never turns back', () => {
    for (const curve of [-100, -40, 0, 40, 100]) {
      expect([bend(0, curve), bend(1, curve)]).toEqual([0, 1]);
      for (let x = 0; x < 1; x += 0.05) expect(bend(x + 0.05, curve)).toBeGreaterThanOrEqual(bend(x, curve));
    }
    const rack = rackOf(0, null);
    const { spec } = tieTargets(rack).find((t) => t.param === 'drive')!;
    const at = (v: number, curve: number) => toPosition(spec, tieValue(spec, { from: 0, to: 36, curve }, v));
    expect(at(50, 50)).toBeLessThan(at(50, 0));
    expect(at(50, -50)).toBeGreaterThan(at(50, 0));
  });
});
