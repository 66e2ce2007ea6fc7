import fc from 'fast-check';
import {
  bend,
  createRack,
  createStrand,
  dropDeadTies,
  findSlot,
  freeController,
  handleConflicts,
  moveController,
  moveHandle,
  moversOf,
  placeOf,
  racksAround,
  renewSlot,
  tieTarget,
  tieTargets,
  tieValue,
  validateSession,
  withChainAt,
  type Device,
  type Handle,
  type Rack,
} from '../index.ts';
import { device, sessionWith } from '../../tests/support/build.ts';

const dirt = () => device('saturator', { drive: 0, output: 0 }, { id: 'sat' });
const handle = (over: Partial<Handle> = {}): Handle => ({
  id: 'h',
  name: 'Dirt',
  colour: 'rust',
  value: 0,
  cc: null,
  ties: [],
  ...over,
});
const tie = (slot: string, param: string, from: number, to: number, curve = 0) => ({
  id: `t-${slot}-${param}-${from}`,
  slot,
  param,
  from,
  to,
  curve,
});
const param = (r: Rack, id: string, p: string) => (findSlot([r], id) as Device).params[p];

test('drive up while output goes down by the same, with one move', () => {
  const r = createRack('Bass', [dirt()], {
    handles: [handle({ ties: [tie('sat', 'drive', 0, 24), tie('sat', 'output', 0, -24)] })],
  });
  for (const v of [0, 12.5, 50, 100]) {
    const moved = moveHandle(r, 'h', v);
    expect(param(moved, 'sat', 'drive')).toBeCloseTo(0.24 * v, 5);
    expect((param(moved, 'sat', 'drive') as number) + (param(moved, 'sat', 'output') as number)).toBeCloseTo(
      0,
      9,
    );
    expect(moved.handles[0].value).toBe(v);
  }
  expect(param(r, 'sat', 'drive')).toBe(0);
});

test('a tie follows its parameter’s taper, ends exactly at its ends, inverse too, and stays inside for any curve', () => {
  const r = createRack('R', [device('eq', {}, { id: 'eq' })]);
  const freq = tieTarget(r, { slot: 'eq', param: 'b3.freq' })!.spec;
  // half way in octaves between 100 Hz and 6.4 kHz (six octaves) is 800 Hz
  expect(tieValue(freq, { from: 100, to: 6400, curve: 0 }, 50)).toBe(800);
  expect(tieValue(freq, { from: 6400, to: 100, curve: 0 }, 50)).toBe(800);
  expect(bend(0.5, 100)).toBeCloseTo(0.0625, 12);
  fc.assert(
    fc.property(
      fc.double({ min: 20, max: 20000, noNaN: true }),
      fc.double({ min: 20, max: 20000, noNaN: true }),
      fc.integer({ min: -100, max: 100 }),
      fc.double({ min: 0, max: 100, noNaN: true }),
      (from, to, curve, v) => {
        const at = tieValue(freq, { from, to, curve }, v);
        expect(at).toBeGreaterThanOrEqual(Math.min(from, to) - 10);
        expect(at).toBeLessThanOrEqual(Math.max(from, to) + 10);
        expect(tieValue(freq, { from, to, curve }, 0)).toBe(from);
        expect(tieValue(freq, { from, to, curve }, 100)).toBe(to);
      },
    ),
    { numRuns: 200 },
  );
});

test('handles reach into nested racks, strands and blends; what moves a value is found from the value', () => {
  const inner = createRack('Inner', [dirt()], { id: 'in' });
  const outer = createRack('Outer', [], {
    id: 'out',
    strands: [createStrand('Clean', [], { id: 's1' }), createStrand('Dirt', [inner], { id: 's2' })],
    blend: { mode: 'power', position: 0 },
    handles: [
      handle({ ties: [tie('out', 'blend', 0, 80), tie('s2', 'level', -12, 3), tie('sat', 'drive', 6, 18)] }),
    ],
  });
  const moved = moveHandle(outer, 'h', 100);
  expect(moved.blend.position).toBe(80);
  expect(moved.strands[1].level).toBe(3);
  expect(param(moved, 'sat', 'drive')).toBe(18);
  expect(tieTargets(outer).map((t) => t.label)).toEqual(
    expect.arrayContaining(['Outer · blend', 'Dirt · level', 'Dirt · Saturator · Drive']),
  );
  expect(racksAround([outer], 'sat').map((r) => r.id)).toEqual(['out', 'in']);
  expect(moversOf([outer], 'sat', 'drive').map((m) => m.handle.name)).toEqual(['Dirt']);
  expect(validateSession(sessionWith([{ id: 'a', chain: [moved] }]))).toEqual([]);
});

test('a controller moves every handle that listens to its number; conflicts are named', () => {
  const one = createRack('One', [dirt()], {
    id: 'r1',
    handles: [
      handle({ id: 'h1', cc: 20, ties: [tie('sat', 'drive', 0, 36)] }),
      handle({ id: 'h3', name: 'Also dirt', ties: [tie('sat', 'drive', 0, 10)] }),
    ],
  });
  const two = createRack('Two', [device('trim', {}, { id: 'tr' })], {
    id: 'r2',
    handles: [handle({ id: 'h2', name: 'Gain', cc: 20, ties: [tie('tr', 'gain', -6, 6)] })],
  });
  const s = sessionWith([
    { id: 'a', name: 'Bass', chain: [one] },
    { id: 'b', chain: [two] },
  ]);
  const moved = moveController(s, 20, 127);
  expect(param(moved.tracks[0].chain[0] as Rack, 'sat', 'drive')).toBe(36);
  expect(param(moved.tracks[1].chain[0] as Rack, 'tr', 'gain')).toBe(6);
  expect(moveController(s, 21, 5)).toBe(s);
  const found = handleConflicts(s);
  expect(found.map((c) => c.kind).sort()).toEqual(['controller', 'value']);
  expect(found.find((c) => c.kind === 'value')!.text).toContain('Saturator · Drive on Bass');
  expect(freeController([20, 21])).toBe(22);
});

test('taking a device out takes its ties off; a renewed rack points at its own devices', () => {
  const r = createRack('R', [dirt()], { id: 'r', handles: [handle({ ties: [tie('sat', 'drive', 0, 10)] })] });
  const s = sessionWith([{ id: 'a', chain: [r] }]);
  const strand = r.strands[0].id;
  expect(placeOf(s.tracks[0], 'sat')).toEqual({ container: strand, at: 0 });
  const without = dropDeadTies(
    withChainAt(s.tracks[0], strand, (c) => c.filter((x) => x.id !== 'sat')).chain,
  );
  expect((without[0] as Rack).handles[0].ties).toEqual([]);
  let n = 0;
  const copy = renewSlot(r, (_o, prefix) => `${prefix}-${++n}`);
  expect(copy.handles[0].ties[0].slot).toBe(copy.strands[0].chain[0].id);
  expect(
    new Set([
      copy.id,
      copy.strands[0].id,
      copy.strands[0].chain[0].id,
      copy.handles[0].id,
      copy.handles[0].ties[0].id,
    ]).size,
  ).toBe(5);
});

test.each<[string, (r: Rack) => void, string]>([
  [
    'no strands',
    (r) => {
      r.strands = [];
    },
    'size',
  ],
  [
    'a tie that leads nowhere',
    (r) => {
      r.handles = [handle({ ties: [tie('gone', 'drive', 0, 1)] })];
    },
    'tie',
  ],
  [
    'a tie beyond the range',
    (r) => {
      r.handles = [handle({ ties: [tie('sat', 'drive', 0, 99)] })];
    },
    'range',
  ],
  [
    'a tie to a switch',
    (r) => {
      r.handles = [handle({ ties: [tie('sat', 'nonsense', 0, 1)] })];
    },
    'tie',
  ],
  [
    'a controller over 119',
    (r) => {
      r.handles = [handle({ cc: 120 })];
    },
    'controller',
  ],
  [
    'an unknown blend',
    (r) => {
      r.blend = { mode: 'other' as 'off', position: 0 };
    },
    'choice',
  ],
  [
    'an id used twice',
    (r) => {
      r.strands[0].id = 'sat';
    },
    'unique-id',
  ],
])('validation refuses %s', (_name, spoil, rule) => {
  const r = createRack('R', [dirt()], { id: 'r' });
  spoil(r);
  expect(validateSession(sessionWith([{ id: 'a', chain: [r] }])).map((p) => p.rule)).toContain(rule);
});

test('racks nest eight deep and no deeper', () => {
  const nest = (n: number): Rack => createRack(`R${n}`, n > 1 ? [nest(n - 1)] : []);
  expect(validateSession(sessionWith([{ chain: [nest(8)] }]))).toEqual([]);
  expect(validateSession(sessionWith([{ chain: [nest(9)] }])).map((p) => p.rule)).toContain('depth');
});
