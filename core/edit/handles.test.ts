import fc from 'fast-check';
import {
  DEVICE_TYPES,
  addHandle,
  addHandles,
  addTie,
  changeTie,
  createRack,
  duplicateTrack,
  lineCheck,
  monoOf,
  moveController,
  renderNow,
  switchTargets,
  takenControllers,
  takenTo,
  tieTarget,
  tieTargets,
  turnHandle,
  turnOnLine,
  validateSession,
  withControllers,
  type Handle,
  type Params,
  type Rack,
  type Session,
} from '../index.ts';
import { clipOf, device, noise, sessionWith } from '../../tests/support/build.ts';

const rackOf = (s: Session, line = 0) => s.tracks[line].chain[0] as Rack;
const inRack = (type: string, params = {}) =>
  sessionWith([{ id: 'a', chain: [createRack('Rack', [device(type, params, { id: 'd' })], { id: 'r' })] }]);
const strands = (s: Session) => JSON.stringify([rackOf(s).strands, rackOf(s).blend]);
const TYPES = Object.keys(DEVICE_TYPES).filter((type) => !DEVICE_TYPES[type].foreign);

/** A device of any kind with one of its numbers anywhere in its range. */
const anyNumber = fc
  .constantFrom(...TYPES)
  .chain((type) => {
    const numbers = DEVICE_TYPES[type].params.filter((p) => p.kind === 'number');
    return fc.record({
      type: fc.constant(type),
      spec: fc.constantFrom(...(numbers.length ? numbers : [null])),
      share: fc.double({ min: 0, max: 1, noNaN: true }),
    });
  })
  .filter(({ spec }) => spec !== null);

test('a fresh handle or tie has a range with room in it around the value, and nothing moves until it does', () => {
  fc.assert(
    fc.property(anyNumber, fc.double({ min: 0, max: 100, noNaN: true }), ({ type, spec, share }, at) => {
      const value = spec!.min! + share * (spec!.max! - spec!.min!);
      const s = inRack(type, { [spec!.id]: value });
      const made = addHandle('a', 'r', [{ slot: 'd', param: spec!.id }], 'Handle');
      const now = made.edit(s);
      expect(validateSession(now)).toEqual([]);
      expect(strands(now)).toBe(strands(s));
      const [{ ties, value: stands }] = rackOf(now).handles;
      expect(ties[0].from).not.toBe(ties[0].to);
      const [low, high] = [ties[0].from, ties[0].to].sort((x, y) => x - y);
      expect(low).toBeLessThanOrEqual(value + (spec!.step ?? 0.01));
      expect(high).toBeGreaterThanOrEqual(value - (spec!.step ?? 0.01));
      // at both ends it is where the range says
      for (const [where, wanted] of [
        [0, ties[0].from],
        [100, ties[0].to],
      ]) {
        const turned = turnHandle('a', made.id, where)(now);
        expect(tieTarget(rackOf(turned), ties[0])!.value).toBe(wanted);
        expect(validateSession(turned)).toEqual([]);
      }
      // another range: the value stays, the handle goes to where it is
      const wider = changeTie('a', 'r', made.id, ties[0].id, { from: spec!.min!, to: spec!.max! })(now);
      expect(strands(wider)).toBe(strands(s));
      const there = turnHandle('a', made.id, rackOf(wider).handles[0].value)(wider);
      // a value between two steps goes to one of them
      const reach = (spec!.max! - spec!.min!) / 150 + (spec!.step ?? 0) / 2;
      expect(Math.abs(tieTarget(rackOf(there), ties[0])!.value - value)).toBeLessThanOrEqual(reach);
      // one more value on a handle that stands anywhere
      const empty = addHandle('a', 'r', [], 'Empty');
      const bare = turnHandle('a', empty.id, at)(empty.edit(s));
      const tied = addTie(
        'a',
        'r',
        rackOf(bare).handles[0],
        tieTargets(rackOf(bare)).find((t) => t.param === spec!.id)!,
      )(bare);
      expect(strands(tied)).toBe(strands(s));
      expect(Number.isFinite(stands)).toBe(true);
    }),
    { numRuns: 300 },
  );
});

test('every share of every device has all of its range, wherever that begins, and stays where it is', () => {
  for (const type of TYPES) {
    for (const spec of DEVICE_TYPES[type].params) {
      if (spec.kind !== 'number' || spec.unit !== '%') continue;
      const value = spec.min! + 0.3 * (spec.max! - spec.min!);
      const now = addHandle('a', 'r', [{ slot: 'd', param: spec.id }], 'Share').edit(
        inRack(type, { [spec.id]: value }),
      );
      const [{ ties, value: stands, id }] = rackOf(now).handles;
      expect([type, spec.id, ties[0].from, ties[0].to]).toEqual([type, spec.id, spec.min, spec.max]);
      const there = tieTarget(rackOf(turnHandle('a', id, stands)(now)), ties[0])!.value;
      expect(Math.abs(there - value)).toBeLessThanOrEqual(
        (spec.max! - spec.min!) / 150 + (spec.step ?? 0) / 2,
      );
    }
  }
});

test('a share keeps all of its range and the handle stands where it is; bands that are off come with a hint', () => {
  const s = inRack('delay', { mix: 30 });
  const wet = rackOf(addHandle('a', 'r', [{ slot: 'd', param: 'mix' }], 'Wet').edit(s)).handles[0];
  expect([wet.value, wet.ties[0].from, wet.ties[0].to]).toEqual([30, 0, 100]);
  const twice = createRack('Two', [device('eq', {}, { name: 'EQ' }), device('eq', {}, { name: 'EQ' })]);
  const targets = tieTargets(twice);
  const off = targets.filter((t) => t.hint);
  expect(off.length).toBeGreaterThan(0);
  expect(targets.indexOf(off[0])).toBe(targets.length - off.length);
  expect(new Set(targets.map((t) => t.label)).size).toBe(targets.length);
});

test('switches: a device on or bypassed, mute and solo of the line, mono check; a handle for them is a button', () => {
  const s = inRack('saturator');
  const labels = switchTargets(rackOf(s)).map((t) => t.label);
  expect(labels).toEqual(
    expect.arrayContaining([
      'Saturator · on',
      'This line · mute',
      'This line · solo',
      'Listening · mono check',
    ]),
  );
  const { edit, ids } = addHandles('a', 'r', switchTargets(rackOf(s)));
  const now = edit(s);
  expect(validateSession(now)).toEqual([]);
  expect(rackOf(now).handles.every((h) => h.button === 'toggle')).toBe(true);
  const handleOf = (of: Session, param: string, slot?: string) =>
    rackOf(of).handles.find((h) => h.ties[0].param === param && (!slot || h.ties[0].slot === slot))!;
  const bypass = handleOf(now, 'state', 'd');
  const flipped = turnHandle('a', bypass.id, 100)(now);
  expect(rackOf(flipped).strands[0].chain[0].state).toBe('bypassed');
  expect(rackOf(turnHandle('a', bypass.id, 0)(flipped)).strands[0].chain[0].state).toBe('on');
  const muted = turnHandle('a', handleOf(now, 'mute').id, 100)(now);
  expect([muted.tracks[0].mute, muted.tracks[0].solo]).toEqual([true, false]);
  const mono = handleOf(now, 'mono');
  expect(monoOf({ ...mono, value: 100 })).toBe(true);
  expect(ids).toHaveLength(labels.length);
  // what is inactive stays so
  const asleep = sessionWith([
    { id: 'a', chain: [createRack('Rack', [device('eq', {}, { id: 'd', state: 'inactive' })], { id: 'r' })] },
  ]);
  const made = addHandle('a', 'r', [{ slot: 'd', param: 'state' }], 'On');
  const woken = turnOnLine(made.edit(asleep).tracks[0], made.id, 100);
  expect((woken.chain[0] as Rack).strands[0].chain[0].state).toBe('inactive');
});

const stands = (value: number, button?: Handle['button']): Handle => ({
  id: 'h',
  name: 'H',
  colour: 'rust',
  value,
  cc: 20,
  ties: [],
  button,
});
test.each<[string, Handle, 'jump' | 'pass' | 'scale', number | null, number, number | null]>([
  ['a knob jumps', stands(80), 'jump', 10, 0, 0],
  ['it has not come to the handle', stands(80), 'pass', 10, 20, null],
  ['it passes the handle', stands(80), 'pass', 100, 104, (104 / 127) * 100],
  ['it holds the handle', stands(50), 'pass', 63, 0, 0],
  ['nothing is known of where it was', stands(80), 'pass', null, 20, null],
  ['up: both arrive at the top together', stands(50), 'scale', 0, 127, 100],
  ['down: both arrive at the bottom together', stands(50), 'scale', 127, 0, 0],
  ['a button goes down', stands(0, 'toggle'), 'pass', 0, 127, 100],
  ['a button comes up', stands(100, 'toggle'), 'pass', 127, 0, null],
  ['a button is held', stands(0, 'hold'), 'pass', 0, 127, 100],
  ['a button is let go', stands(100, 'hold'), 'pass', 127, 0, 0],
])('%s', (_what, handle, pickUp, was, now, to) => {
  const found = takenTo(handle, pickUp, was, now);
  if (to === null) expect(found).toBeNull();
  else expect(found).toBeCloseTo(to, 6);
});

test('copies of racks: one control moves all, or each has its own, or none; nothing warns of what was chosen', () => {
  const s = inRack('saturator');
  const made = addHandle('a', 'r', [{ slot: 'd', param: 'drive' }], 'Drive');
  const before = made.edit(s);
  rackOf(before).handles[0].cc = 21;
  const { edit, ids } = duplicateTrack('a', undefined, 15);
  expect(takenControllers(before, edit)).toBe(15);
  const rackIn = (of: Session, id: string) => of.tracks.find((t) => t.id === id)!.chain[0] as Rack;
  for (const how of ['linked', 'free', 'none'] as const) {
    const now = withControllers(edit, how)(before);
    expect(validateSession(now)).toEqual([]);
    expect(lineCheck(now).filter((f) => f.rule === 'controller-twice')).toEqual([]);
    const numbers = ids.map((id) => rackIn(now, id).handles[0].cc);
    const moved = moveController(now, 21, 127);
    const follow = ids.filter((id) => rackIn(moved, id).handles[0].value === 100).length;
    expect([follow, new Set(numbers).size]).toEqual({ linked: [15, 1], free: [0, 15], none: [0, 1] }[how]);
  }
});

test('the limiter’s output turns down what comes out; a document from before it sounds as it did', () => {
  const sounds = new Map([['x', { l: noise(0.5, 0.4, 1), r: noise(0.5, 0.4, 2) }]]);
  const loud = (params: Params) => {
    const chain = [device('limiter', { threshold: -12, ...params })];
    const s = sessionWith([{ id: 'a', clips: [clipOf('x', 0.5)], chain }]);
    return renderNow(s, { sounds, to: 0.3 }).master[0];
  };
  const [plain, down] = [loud({}), loud({ output: -6 })];
  for (let i = 0; i < plain.length; i++) expect(down[i]).toBeCloseTo(plain[i] * 10 ** (-6 / 20), 7);
  const old = inRack('limiter');
  const limiter = rackOf(old).strands[0].chain[0];
  if (limiter.kind === 'device') delete limiter.params.output;
  expect(validateSession(old)).toEqual([]);
  expect(tieTargets(rackOf(old)).find((t) => t.param === 'output')!.value).toBe(0);
});
