import fc from 'fast-check';
import type { Cable, Jack, Normal, Studio } from '../model/hardware.ts';
import { bayJack, isJoined, portJack } from './jacks.ts';
import { followSignal, patchProblems } from './follow.ts';
import { planPatch, standing, type WantedPatch } from './plan.ts';
import { port, shiftedBay, studio } from '../../tests/support/studio.ts';

/**
 * How a pair of points behaves, by hand (common practice): does the source behind the upper point reach the input
 * behind the lower one, does a plug in the upper one hear it, and does a plug in the lower one feed the input?
 */
const TRUTH: [Normal, 'none' | 'upper' | 'lower' | 'both', boolean][] = [
  ['thru', 'none', false],
  ['thru', 'upper', false],
  ['thru', 'lower', false],
  ['thru', 'both', false],
  ['normal', 'none', true],
  ['normal', 'upper', false],
  ['normal', 'lower', false],
  ['normal', 'both', false],
  ['half-normal', 'none', true],
  ['half-normal', 'upper', true],
  ['half-normal', 'lower', false],
  ['half-normal', 'both', false],
  ['parallel', 'none', true],
  ['parallel', 'upper', true],
  ['parallel', 'lower', true],
  ['parallel', 'both', true],
];

test.each(TRUTH)('a %s pair with %s plugged: joined is %s', (mode, plugs, joined) => {
  // out 1 behind the upper point, in 1 behind the lower one; out 2 and in 2 hang on cables of their own
  const upper = bayJack('b', 1, 'upper');
  const lower = bayJack('b', 1, 'lower');
  const cables: Cable[] = [
    ...(plugs === 'upper' || plugs === 'both' ? [{ id: 'u', from: upper, to: portJack('i2') }] : []),
    ...(plugs === 'lower' || plugs === 'both' ? [{ id: 'l', from: portJack('o2'), to: lower }] : []),
  ];
  const s = studio({
    ports: [port('o1', 'out', 1), port('o2', 'out', 2), port('i1', 'in', 1), port('i2', 'in', 2)],
    bays: [{ id: 'b', name: 'Bay', pairs: [{ mode, upper: 'Out 1', lower: 'In 1' }] }],
    wires: [
      { from: portJack('o1'), to: upper },
      { from: lower, to: portJack('i1') },
    ],
    cables,
  });
  const ends = (from: Jack) => followSignal(s, from).reaches.map((r) => r.jack);
  expect(ends(portJack('o1')).includes(portJack('i1'))).toBe(joined);
  const upperPlugged = plugs === 'upper' || plugs === 'both';
  const lowerPlugged = plugs === 'lower' || plugs === 'both';
  expect(isJoined(mode, upperPlugged, lowerPlugged)).toBe(joined);
  // a plug in the upper point always hears the source, one in the lower point always feeds the input
  if (upperPlugged) expect(ends(portJack('o1'))).toContain(portJack('i2'));
  if (lowerPlugged) expect(ends(portJack('o2'))).toContain(portJack('i1'));
  // and back again
  const back = followSignal(s, portJack('i1'), 'back').reaches.map((r) => r.jack);
  expect(back.includes(portJack('o1'))).toBe(joined);
  const clash = joined && lowerPlugged;
  expect(patchProblems(s).some((p) => p.kind === 'output-into-output')).toBe(clash);
});

test('a signal is followed through units, past broken cables and round feedback', () => {
  const s = studio({
    ports: [port('o1', 'out', 1), port('i1', 'in', 1)],
    units: ['comp'],
    cables: [
      { id: 'a', from: portJack('o1'), to: 'unit/comp/in1' },
      { id: 'b', from: 'unit/comp/out1', to: portJack('i1') },
    ],
  });
  const there = followSignal(s, portJack('o1')).reaches;
  expect(there.map((r) => [r.jack, r.through])).toEqual([
    ['unit/comp/in1', []],
    [portJack('i1'), ['comp']],
  ]);
  expect(there[1].via.map((j) => j.cable!.id)).toEqual(['a', 'b']);
  expect(followSignal(s, portJack('i1'), 'back').reaches.map((r) => r.jack)).toEqual([
    'unit/comp/out1',
    portJack('o1'),
  ]);
  const broken = { ...s, cables: [{ ...s.cables[0], fault: 'dead' as const }, s.cables[1]] };
  expect(followSignal(broken, portJack('o1')).reaches).toEqual([]);
  expect(followSignal(broken, portJack('o1')).problems.map((p) => p.kind)).toEqual(['broken']);
  expect(patchProblems(broken)[0].message).toContain('carries nothing');
  const round = { ...s, cables: [{ id: 'r', from: 'unit/comp/out1', to: 'unit/comp/in1' }] };
  expect(followSignal(round, 'unit/comp/out1').problems.map((p) => p.kind)).toContain('round-and-round');
});

/** A small bay: sources and inputs behind its points at random, cables in it, and what is wanted. */
const smallBay = fc
  .record({
    modes: fc.array(fc.constantFrom<Normal>('thru', 'normal', 'half-normal', 'parallel'), {
      minLength: 2,
      maxLength: 4,
    }),
    behind: fc.array(fc.constantFrom('out', 'in', 'none'), { minLength: 8, maxLength: 8 }),
    usual: fc.boolean(),
    plugged: fc.array(fc.tuple(fc.nat(7), fc.nat(7), fc.nat(5)), { maxLength: 3 }),
    wanted: fc.array(fc.tuple(fc.nat(3), fc.nat(3)), { minLength: 1, maxLength: 3 }),
  })
  .map(({ modes, behind, usual, plugged, wanted }) => {
    const points = modes.flatMap((_, i) => [bayJack('b', i + 1, 'upper'), bayJack('b', i + 1, 'lower')]);
    const kinds = points.map((_, i) => (usual ? ['out', 'in'][i % 2] : behind[i]));
    const ports = kinds.flatMap((k, i) => (k === 'none' ? [] : [port(`p${i}`, k as 'in' | 'out', i)]));
    const wires = kinds.flatMap((k, i) => (k === 'none' ? [] : [{ from: portJack(`p${i}`), to: points[i] }]));
    const used = new Set<number>();
    const cables = plugged.flatMap(([a, b, broken], i): Cable[] => {
      if (a >= points.length || b >= points.length || a === b || used.has(a) || used.has(b)) return [];
      used.add(a);
      used.add(b);
      return [
        { id: `c${i}`, from: points[a], to: points[b], ...(broken === 0 ? { fault: 'dead' as const } : {}) },
      ];
    });
    const outs = ports.filter((p) => p.side === 'out');
    const ins = ports.filter((p) => p.side === 'in');
    const wants = new Map<string, WantedPatch>();
    for (const [a, b] of wanted) {
      if (a >= outs.length || b >= ins.length) continue;
      wants.set(ins[b].id, { from: portJack(outs[a].id), to: portJack(ins[b].id) });
    }
    const pairs = modes.map((mode) => ({ mode, upper: '', lower: '' }));
    const made = studio({ ports, bays: [{ id: 'b', name: 'Bay', pairs }], wires, cables });
    return { made, points, wants: [...wants.values()] };
  });

/** Right by following the signal: the output reaches the input, and no other output does. */
const isRight = (s: Studio, wants: WantedPatch[]): boolean => {
  const wrong = new Set(patchProblems(s).flatMap((p) => (p.kind === 'two-sources' ? [p.jacks[0]] : [])));
  return wants.every(
    (w) =>
      !wrong.has(w.to) && followSignal(s, w.from).reaches.some((r) => r.jack === w.to && !r.through.length),
  );
};

/** Whether any way in which the points can be plugged is right after fewer moves than `most`. */
function hasCheaper(s: Studio, points: Jack[], wants: WantedPatch[], most: number): boolean {
  const same = (a: Cable, b: Cable) => new Set([a.from, a.to, b.from, b.to]).size === 2;
  const judge = (links: Cable[]): boolean => {
    const kept = s.cables.filter((c) => links.some((l) => same(c, l)));
    // a dead cable may stay where it is or be changed for a sound one
    return (kept.some((c) => c.fault) ? [false, true] : [false]).some((renew) => {
      const old = (l: Cable) => kept.find((c) => same(c, l) && !(renew && c.fault));
      const cables = links.map((l) => old(l) ?? l);
      const stays = cables.filter((c) => s.cables.includes(c)).length;
      const cost = s.cables.length - stays + (cables.length - stays);
      return cost < most && isRight({ ...s, cables }, wants);
    });
  };
  const tryOut = (free: Jack[], links: Cable[]): boolean => {
    if (free.length === 0) return judge(links);
    const [first, ...others] = free;
    const with1 = (far: Jack) =>
      tryOut(
        others.filter((j) => j !== far),
        [...links, { id: `${first}-${far}`, from: first, to: far }],
      );
    return tryOut(others, links) || others.some(with1);
  };
  return tryOut(points, []);
}

test('a patch is planned in the fewest moves, against trying every way, and is right by following the signal', () => {
  fc.assert(
    fc.property(smallBay, ({ made, points, wants }) => {
      const plan = planPatch(made, wants);
      const refused = plan.conflicts.length > 0;
      expect(hasCheaper(made, points, wants, refused ? Infinity : plan.moves.length)).toBe(false);
      if (refused) return;
      const after = { ...made, cables: plan.cables };
      expect(isRight(after, wants)).toBe(true);
      expect(standing(after, wants)).toEqual(wants.map(() => true));
      // every move can be made when its turn comes
      const filled = new Map(made.cables.flatMap((c) => [c.from, c.to].map((j) => [j, c.id])));
      for (const { kind, cable } of plan.moves) {
        for (const jack of [cable.from, cable.to]) {
          if (kind === 'plug') expect(filled.has(jack)).toBe(false);
          if (kind === 'plug') filled.set(jack, cable.id);
          else filled.delete(jack);
        }
      }
    }),
    { numRuns: 500 },
  );
});

test.each(['thru', 'normal', 'half-normal'] as const)(
  'a bay of 512 points with 64 loops one place off: every cable is pulled and plugged once, in a %s bay',
  (mode) => {
    const { made, wants } = shiftedBay(mode);
    const plan = planPatch(made, wants);
    expect(plan.conflicts).toEqual([]);
    expect([plan.moves.length, plan.fewest]).toEqual([128, true]);
    expect(standing({ ...made, cables: plan.cables }, wants).every(Boolean)).toBe(true);
  },
);
