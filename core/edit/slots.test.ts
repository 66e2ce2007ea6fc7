import fc from 'fast-check';
import {
  NAME_LENGTH,
  addDevice,
  addHandle,
  addHandles,
  addLane,
  addStrand,
  alongside,
  applyLayout,
  createDevice,
  devicesIn,
  duplicateSlot,
  groupSlots,
  laneTargets,
  moveSlot,
  planLayout,
  racksIn,
  removeHandle,
  removeLane,
  removeSlot,
  removeStrand,
  tieTargets,
  ungroup,
  validateSession,
  type Edit,
  type Session,
  type Spot,
  type Track,
} from '../index.ts';
import { device, sessionWith } from '../../tests/support/build.ts';
import { anySession } from '../../tests/support/generate.ts';

/** Every slot of a line, those in racks too. */
const slotsOf = (t: Track) => [...devicesIn(t.chain), ...racksIn(t.chain)];
const everywhere = (s: Session) => s.tracks.flatMap(slotsOf);
const ids = (s: Session) => everywhere(s).map((x) => x.id);

/** Places that something may be put at: the chain of a line or a strand of one of its racks. */
const spots = (s: Session): Spot[] =>
  s.tracks
    .filter((t) => t.role !== 'midi' && t.role !== 'folder')
    .flatMap((t) => [
      { track: t.id },
      ...racksIn(t.chain).flatMap((r) => r.strands.map((x) => ({ track: t.id, container: x.id }))),
    ]);

type Pick = (n: number) => number;
interface Act {
  edit: Edit;
  /** slots more or less than before; null where that depends */
  more: number | null;
}
/** What a person does with what is in the chains; null where there is nothing to do it with. */
function act(s: Session, what: string, pick: Pick): Act | null {
  const places = spots(s);
  const from = s.tracks.filter((t) => places.some((x) => x.track === t.id) && slotsOf(t).length);
  if (!from.length) return null;
  const t = from[pick(from.length)];
  const slot = slotsOf(t)[pick(slotsOf(t).length)];
  const place = places[pick(places.length)];
  const rack = racksIn(t.chain)[0];
  const targets = rack ? tieTargets(rack) : [];
  const target = targets[pick(targets.length || 1)];
  const lanes = laneTargets(t);
  const inside = slotsOf({ ...t, chain: [slot] }).length;
  const acts: Record<string, () => Act | null> = {
    add: () => ({ edit: addDevice(place, 'eq').edit, more: 1 }),
    remove: () => ({ edit: removeSlot(t.id, slot.id), more: -inside }),
    move: () => ({ edit: moveSlot(t.id, slot.id, { ...place, at: pick(3) }), more: 0 }),
    copy: () => ({ edit: duplicateSlot(t.id, slot.id).edit, more: inside }),
    group: () => ({
      edit: groupSlots(
        t.id,
        t.chain.slice(0, 2).map((x) => x.id),
      ).edit,
      more: 1,
    }),
    ungroup: () => rack && { edit: ungroup(t.id, rack.id), more: -1 },
    blend: () => ({ edit: alongside(t.id, slot.id).edit, more: 1 }),
    strand: () => rack && { edit: addStrand(t.id, rack.id), more: 0 },
    'less strands': () => rack && { edit: removeStrand(t.id, rack.id, rack.strands.at(-1)!.id), more: null },
    handle: () => rack && target && { edit: addHandle(t.id, rack.id, [target], 'Handle').edit, more: 0 },
    handles: () => rack && { edit: addHandles(t.id, rack.id, targets.slice(0, 3)).edit, more: 0 },
    'less handles': () =>
      rack?.handles.length ? { edit: removeHandle(t.id, rack.id, rack.handles[0].id), more: 0 } : null,
    lane: () => (lanes.length ? { edit: addLane(t.id, lanes[pick(lanes.length)]).edit, more: 0 } : null),
    'less lanes': () =>
      t.automation?.length ? { edit: removeLane(t.id, t.automation[0].id), more: 0 } : null,
  };
  return acts[what]();
}
const ACTS = [
  'add',
  'remove',
  'move',
  'copy',
  'group',
  'ungroup',
  'blend',
  'strand',
  'less strands',
  'handle',
  'handles',
  'less handles',
  'lane',
  'less lanes',
];

function frozen<T>(x: T): T {
  if (x && typeof x === 'object' && !Object.isFrozen(x)) {
    Object.freeze(x);
    Object.values(x).forEach(frozen);
  }
  return x;
}

test('whatever is done with devices and racks of any session: it stays sound, nothing else changes, nothing is lost', () => {
  const numbers = fc.array(fc.nat(1000), { minLength: 6, maxLength: 6 });
  const steps = fc.array(fc.tuple(fc.constantFrom(...ACTS), numbers), { maxLength: 10 });
  fc.assert(
    fc.property(anySession(), steps, (session, steps) => {
      let s = frozen(session);
      for (const [what, numbers] of steps) {
        let k = 0;
        const found = act(s, what, (n) => numbers[k++ % numbers.length] % n);
        if (!found) continue;
        const now = frozen(found.edit(s));
        expect([what, validateSession(now)]).toEqual([what, []]);
        expect([what, new Set(ids(now)).size]).toEqual([what, ids(now).length]);
        if (now !== s && found.more !== null) {
          expect([what, ids(now).length - ids(s).length]).toEqual([what, found.more]);
        }
        s = now;
      }
    }),
    { numRuns: 300 },
  );
});

test('a name that is made out of the longest one is not longer than names may be', () => {
  const name = 'é'.repeat(NAME_LENGTH - 1) + 'x';
  const kit = createDevice('kit', {}, { id: 'k', name });
  const s = sessionWith([
    { id: 'a', name, chain: [device('eq', {}, { id: 'd', name })] },
    { id: 'p', name: 'Kit', role: 'instrument', chain: [kit] },
  ]);
  const long = { ...s, tracks: s.tracks.map((t) => (t.id === 'p' ? { ...t, name } : t)) };
  const blended = alongside('a', 'd').edit(long);
  const laid = applyLayout(blended, planLayout(blended, 'k'));
  expect(validateSession(laid)).toEqual([]);
  expect(racksIn(laid.tracks[0].chain)[0].name).toMatch(/é, blended$/);
  expect(laid.tracks.some((t) => t.name.endsWith('é bus'))).toBe(true);
});
