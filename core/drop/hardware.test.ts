import fc from 'fast-check';
import { UNIT_MODELS, restOf } from '../devices/units/index.ts';
import { followSignal, patchProblems } from '../hardware/follow.ts';
import { bayJack, inputsOf, outputsOf, portJack } from '../hardware/jacks.ts';
import { matchHardware } from '../hardware/match.ts';
import { planPatch } from '../hardware/plan.ts';
import { positionsOf } from '../hardware/positions.ts';
import { setupOf, unitsUsed, wantedPatches } from '../hardware/studio.ts';
import type { Normal, Studio, Unit, UnitUse } from '../model/hardware.ts';
import { canonicalJson } from '../model/json.ts';
import type { Session } from '../model/types.ts';
import { createDevice, createSession, createTrack } from '../session/create.ts';
import { devicesIn } from '../session/slots.ts';
import { validateSession } from '../session/validate/index.ts';
import { applyDrop } from './apply.ts';
import { capture, createPreset } from './capture.ts';
import { diffPresets } from './diff.ts';
import { applyMove, planMove } from './move.ts';
import { planDrop } from './plan.ts';
import { verifyDrop } from './verify.ts';
import { port, studio } from '../../tests/support/studio.ts';

const MODELS = Object.keys(UNIT_MODELS);
const unitOf = (id: string, model: string, name = id): Unit => {
  const { family, width, hasKey, nominal, panel } = UNIT_MODELS[model];
  return { id, name, family, width, hasKey, nominal, panel, simulated: model, note: '' };
};

/** A studio with so many ports and units, everything behind the points of one bay. */
function studioOf(name: string, count: number, units: Unit[], mode: Normal): Studio {
  const ports = Array.from({ length: count }, (_, i) => {
    const pair = (side: string) => `${side}${i % 2 ? i : i + 2}`;
    return [
      port(`o${i + 1}`, 'out', i + 1, { pair: pair('o') }),
      port(`i${i + 1}`, 'in', i + 1, { pair: pair('i') }),
    ];
  }).flat();
  const sources = [
    ...ports.filter((p) => p.side === 'out').map((p) => portJack(p.id)),
    ...units.flatMap(outputsOf),
  ];
  const sinks = [
    ...ports.filter((p) => p.side === 'in').map((p) => portJack(p.id)),
    ...units.flatMap(inputsOf),
  ];
  const pairs = sources.map(() => ({ mode, upper: '', lower: '' }));
  const wires = [
    ...sources.map((from, i) => ({ from, to: bayJack('b', i + 1, 'upper') })),
    ...sinks.map((to, i) => ({ from: bayJack('b', i + 1, 'lower'), to })),
  ];
  return studio({ id: `studio-${name}`, name, ports, units, bays: [{ id: 'b', name: 'Bay', pairs }], wires });
}

const positions = (unit: Unit, share: number): UnitUse => {
  const at = restOf(unit.panel);
  for (const c of unit.panel) {
    if (c.steps) at[c.id] = c.steps[Math.floor(share * (c.steps.length - 0.01))];
    else if (c.labels) at[c.id] = Math.round(share * c.max);
    else at[c.id] = c.min + share * (c.max - c.min);
  }
  return { id: '1', unit, positions: at };
};

const studios = fc
  .record({
    here: fc.array(fc.constantFrom(...MODELS), { minLength: 1, maxLength: 4 }),
    there: fc.array(fc.constantFrom(...MODELS), { maxLength: 5 }),
    sameNames: fc.boolean(),
    ports: fc.constantFrom(8, 16),
    mode: fc.constantFrom<Normal>('thru', 'normal', 'half-normal'),
    share: fc.double({ min: 0, max: 1, noNaN: true }),
  })
  .map(({ here, there, sameNames, ports, mode, share }) => {
    const cabin = studioOf(
      'Cabin',
      8,
      here.map((m, i) => unitOf(`c${i}`, m, `Unit ${i}`)),
      'half-normal',
    );
    const named = (i: number) => (sameNames ? `Unit ${i}` : `Hall ${i}`);
    const hall = studioOf(
      'Hall',
      ports,
      there.map((m, i) => unitOf(`h${i}`, m, named(i))),
      mode,
    );
    return { cabin, hall, share };
  });

/** A line for each unit of a studio, each a loop of its own through it; the last of several before a microphone. */
function sessionIn(where: Studio, share: number): Session {
  const s = createSession({ name: 'Home' });
  const inLoops = where.units.slice(0, Math.max(1, where.units.length - 1));
  const lines = inLoops.map((unit, i) =>
    createTrack('audio', {
      id: `line${i}`,
      name: `Line ${i}`,
      output: { kind: 'track', track: s.tracks[0].id },
      chain: [
        createDevice(
          'outboard',
          {
            sendPort: `Out ${2 * i + 1}/${2 * i + 2}`,
            returnPort: `In ${2 * i + 1}/${2 * i + 2}`,
            roundTrip: 6.48,
          },
          {
            id: `loop${i}`,
            name: `Loop ${i}`,
            hardware: { units: [positions(unit, share)], measured: null },
          },
        ),
      ],
    }),
  );
  const spare = where.units[inLoops.length];
  const mic = createTrack('audio', {
    id: 'mic',
    name: 'Mic',
    input: { kind: 'hardware', port: 'In 1', ...(spare ? { units: [positions(spare, share)] } : {}) },
  });
  const out = { ...s, tracks: [...lines, mic, ...s.tracks] };
  return { ...out, setup: setupOf(where) };
}

const inStudio = (where: Studio): Session => {
  const s = createSession({ name: 'Away' });
  return { ...s, setup: setupOf(where) };
};

test('saved in one studio, dropped in another: nothing unexplained, no unit twice, no cable into an occupied point; moved back byte for byte', () => {
  fc.assert(
    fc.property(studios, ({ cabin, hall, share }) => {
      const home = sessionIn(cabin, share);
      expect(validateSession(home)).toEqual([]);
      const ids = home.tracks.filter((t) => t.role === 'audio').map((t) => t.id);
      const preset = createPreset(capture(home, ids), { id: 'p', name: 'Set' });
      const away = inStudio(hall);
      const plan = planDrop(away, preset);
      const done = applyDrop(away, plan, preset);
      expect(validateSession(done.session)).toEqual([]);
      expect(verifyDrop(done.session, preset, plan).rows.filter((r) => r.verdict === 'unexplained')).toEqual(
        [],
      );
      const used = unitsUsed(done.session).filter(({ use }) => hall.units.some((u) => u.id === use.unit.id));
      expect(new Set(used.map(({ use }) => use.unit.id)).size).toBe(used.length);
      // what the session wants can be patched, and carries its signal
      const { wanted } = wantedPatches(done.session, hall);
      const patch = planPatch(hall, wanted);
      const after = { ...hall, cables: patch.cables };
      expect(patchProblems(after)).toEqual([]);
      if (!patch.conflicts.length) {
        for (const w of wanted) {
          expect(followSignal(after, w.from).reaches.map((r) => r.jack)).toContain(w.to);
        }
      }
      // and home again from there
      const back = inStudio(cabin);
      const again = planDrop(back, preset);
      const home2 = applyDrop(back, again, preset).session;
      // the session itself moves there and back in one step each
      const settled = { ...home, setupId: cabin.id };
      const there = applyMove(settled, planMove(settled, hall));
      expect(validateSession(there)).toEqual([]);
      expect(canonicalJson(applyMove(there, planMove(there, cabin)))).toBe(canonicalJson(settled));
      // a session that travels on and on does not grow with every move
      let traveller: Session = settled;
      for (let i = 0; i < 12; i++) {
        const to = { ...(i % 2 ? cabin : hall), id: `studio-${i}` };
        traveller = applyMove(traveller, planMove(traveller, to));
      }
      const size = (s: Session) => canonicalJson(s).length;
      expect(size(traveller)).toBeLessThan(6 * (size(settled) + size(there)));
      const uses = (s: Session) =>
        s.tracks.flatMap((t) => devicesIn(t.chain).map((d) => [d.params, d.hardware]));
      expect(canonicalJson(uses(home2))).toBe(canonicalJson(uses(home)));
    }),
    { numRuns: 200 },
  );
});

test('a unit is matched by itself, by name, by family and width; none twice; otherwise a built-in device with its values', () => {
  const compressor = unitOf('c', 'compressor', 'Gull');
  const wanted = [
    { ...positions(compressor, 0.5), positions: { ...restOf(compressor.panel), threshold: -23, ratio: 6 } },
  ];
  const at = (units: Unit[], taken: string[] = []) =>
    matchHardware(wanted, studioOf('Hall', 8, units, 'normal'), new Set(taken))[0];
  expect(at([compressor, unitOf('x', 'compressor')]).chosen).toBe('unit/c');
  expect(at([unitOf('x', 'compressor', 'Gull')]).choices[0].reason).toBe('has the same name');
  const wide = at([unitOf('x', 'spring'), unitOf('s', 'stereo-compressor')]);
  expect([wide.chosen, wide.choices[0].reason]).toEqual([
    'unit/s',
    'a compressor too, stereo where it was mono',
  ]);
  // its threshold goes over as it is, its ratio to the nearest step
  expect(wide.choices[0].use!.positions).toMatchObject({ threshold: -23, ratio: 4 });
  expect(at([compressor], ['c']).chosen).toBe('stand-in');
  const alone = at([]);
  expect(alone.choices.map((c) => c.kind)).toEqual(['stand-in', 'keep', 'print', 'open']);
  expect(alone.choices[0].device).toMatchObject({ type: 'compressor', params: { threshold: -23, ratio: 6 } });
  const two = matchHardware(
    [wanted[0], { ...wanted[0], id: '2' }],
    studioOf('Hall', 8, [compressor], 'normal'),
  );
  expect(two.map((m) => m.chosen)).toEqual(['unit/c', 'stand-in']);
});

test('a position is a value like any other: compared, updated, put back', () => {
  const gull = unitOf('c0', 'compressor', 'Gull');
  const home = sessionIn(studioOf('Cabin', 8, [gull], 'normal'), 0.5);
  const first = createPreset(capture(home, ['line0']), { id: 'p', name: 'Held' });
  const turned = structuredClone(home);
  devicesIn(turned.tracks[0].chain)[0].hardware!.units[0].positions.threshold = -31;
  const second = createPreset(capture(turned, ['line0']), { id: 'p', name: 'Held', version: 2 });
  expect(
    diffPresets(first.content, second.content).map((d) => [d.label.split(' · ').at(-1), d.from, d.to]),
  ).toEqual([['Threshold', '−20.0 dB', '−31.0 dB']]);
  expect(positionsOf(devicesIn(second.content.tracks[0].chain)[0].hardware!.units[0]).threshold).toBe(-31);
});
