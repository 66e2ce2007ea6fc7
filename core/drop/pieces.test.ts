import {
  applyDrop,
  capture,
  captureSlot,
  clone,
  createPreset,
  createRack,
  createStrand,
  findSlot,
  handleConflicts,
  moveHandle,
  planDrop,
  racksIn,
  validatePreset,
  validateSession,
  type Place,
  type Preset,
  type Rack,
  type Session,
} from '../index.ts';
import fc from 'fast-check';
import { anySession } from '../../tests/support/generate.ts';
import { dev, device, sessionWith } from '../../tests/support/build.ts';

/** a rack with two strands, a handle with a controller, and a key from another line inside */
function home(cc: number | null = 21): Session {
  const drive = device('saturator', { drive: 6 }, { id: 'drive', name: 'Drive' });
  const duck = device(
    'compressor',
    { threshold: -30 },
    { id: 'duck', name: 'Duck', key: { kind: 'track', track: 'kick', tap: 'pre' } },
  );
  const rack: Rack = {
    ...createRack('Dirt', [], {
      id: 'rack',
      strands: [
        createStrand('Clean', [duck], { id: 'clean' }),
        createStrand('Dirt', [drive], { id: 'dirt', level: -6 }),
      ],
    }),
    handles: [
      {
        id: 'h',
        name: 'Grit',
        colour: 'rust',
        value: 50,
        cc,
        ties: [{ id: 'tie', slot: 'drive', param: 'drive', from: 0, to: 12, curve: 0 }],
      },
    ],
  };
  return sessionWith([
    { id: 'bass', name: 'Bass', chain: [device('eq', {}, { id: 'eq' }), rack] },
    { id: 'kick', name: 'Kick' },
  ]);
}
const rackPreset = (session = home()): Preset => {
  const d = captureSlot(session, 'bass', 'rack');
  return createPreset(d, { id: 'p', kind: d.kind, name: 'Dirt' });
};
const dropInto = (session: Session, preset: Preset, place: Place, options = {}) => {
  const plan = planDrop(session, preset, { place, ...options });
  return { plan, ...applyDrop(session, plan, preset) };
};
const end = (track: string): Place => ({ kind: 'onto', track, chain: 'append' });

describe('a rack or device saved alone', () => {
  test('its content is the slot and nothing of the line; the key is a loose end; the kind is told', () => {
    const p = rackPreset();
    expect(validatePreset(p)).toEqual([]);
    expect(p.kind).toBe('rack');
    expect(p.content.tracks).toHaveLength(1);
    expect(p.content.tracks[0]).toMatchObject({ level: 0, sends: [], output: { kind: 'none' } });
    expect(p.content.parts).toEqual(['chain', 'keys']);
    expect(p.content.looseEnds.map((e) => [e.kind, e.label])).toEqual([['key', 'Kick']]);
    expect(captureSlot(home(), 'bass', 'eq').kind).toBe('device');
    expect(captureSlot(home(), 'bass', 'drive').content.tracks[0].chain).toHaveLength(1);
  });

  test('what is switched off in the session is saved as on: a preset is not a state', () => {
    const s = home();
    s.tracks[0].chain[1].state = 'bypassed';
    expect(captureSlot(s, 'bass', 'rack').content.tracks[0].chain[0].state).toBe('on');
  });

  test('the same settings give the same hash, wherever the rack stands', () => {
    const nested = home();
    nested.tracks[0].chain[1] = createRack('Around', [nested.tracks[0].chain[1]]);
    expect(captureSlot(nested, 'bass', 'rack').hash).toBe(captureSlot(home(), 'bass', 'rack').hash);
    const other = home();
    dev(findSlot(other.tracks[0].chain, 'drive')).params.drive = 7;
    expect(captureSlot(other, 'bass', 'rack').hash).not.toBe(captureSlot(home(), 'bass', 'rack').hash);
  });

  test('a slot that is gone cannot be saved, and the sentence says so', () => {
    expect(() => captureSlot(home(), 'bass', 'nowhere')).toThrow(/not on this line/);
  });
});

describe('dropped into a chain', () => {
  test('at a spot of a strand: everything intact, ids fresh, ties lead to the new ones', () => {
    const s = home(null);
    const { session, report } = dropInto(s, rackPreset(home(null)), {
      kind: 'onto',
      track: 'bass',
      chain: 'at',
      container: 'dirt',
      at: 0,
    });
    expect(report.intact).toBe(true);
    const outer = session.tracks[0].chain[1] as Rack;
    const inner = outer.strands[1].chain[0] as Rack;
    expect(inner.name).toBe('Dirt');
    expect(inner.id).not.toBe('rack');
    const drive = inner.strands[1].chain[0];
    expect(inner.handles[0].ties[0].slot).toBe(drive.id);
    const turned = moveHandle(inner, inner.handles[0].id, 100);
    expect(dev(turned.strands[1].chain[0]).params.drive).toBe(12);
    expect(validateSession(session)).toEqual([]);
  });

  test('in place of another slot, which goes with everything in it; its neighbours stay the same objects', () => {
    const s = home();
    const { session } = dropInto(s, rackPreset(home(null)), {
      kind: 'onto',
      track: 'bass',
      chain: 'swap',
      slot: 'rack',
    });
    expect(session.tracks[0].chain[0]).toBe(s.tracks[0].chain[0]);
    expect(session.tracks[0].chain).toHaveLength(2);
    expect(session.tracks[0].chain[1].id).not.toBe('rack');
    expect(session.tracks[0].name).toBe('Bass');
    expect(() =>
      planDrop(s, rackPreset(), { place: { kind: 'onto', track: 'bass', chain: 'swap', slot: 'gone' } }),
    ).toThrow(/to be replaced/);
    expect(() =>
      planDrop(s, rackPreset(), { place: { kind: 'onto', track: 'bass', chain: 'at', container: 'gone' } }),
    ).toThrow(/strand/);
  });

  test('the key is tied to the track of the same name, or left open', () => {
    const tied = dropInto(home(null), rackPreset(home(null)), end('bass'));
    const duckOf = (session: Session) => dev(racksIn(session.tracks[0].chain).at(-1)!.strands[0].chain[0]);
    expect(duckOf(tied.session).key).toEqual({ kind: 'track', track: 'kick', tap: 'pre' });
    const alone = dropInto(sessionWith([{ id: 'x', name: 'X' }]), rackPreset(), end('x'));
    expect(duckOf(alone.session).key).toEqual({ kind: 'own' });
    expect(alone.report.rows.filter((r) => r.verdict === 'left out').map((r) => r.label)).toEqual([
      expect.stringMatching(/Duck · key/),
    ]);
  });

  test('onto the trigger itself: it listens to its own input, no loop is proposed; asked for one, the drop is refused in words', () => {
    const plan = planDrop(home(null), rackPreset(home(null)), { place: end('kick') });
    expect(plan.ends[0].choices.every((c) => c.track !== 'kick')).toBe(true);
    expect(plan.ends[0].chosen).toBe('open');
    expect(plan.problems).toEqual([]);
    const asked = planDrop(home(null), rackPreset(home(null)), {
      place: end('kick'),
      ties: { [plan.ends[0].end.id]: 'track:bass' },
    });
    expect(asked.problems[0].message).toMatch(/loop.*“Kick”/);
    expect(() => applyDrop(home(null), asked, rackPreset(home(null)))).toThrow(/loop/);
  });

  test('a controller that is taken is moved and said; taken back, both share it and the conflict shows', () => {
    const s = home(21);
    const { plan, session, report } = dropInto(s, rackPreset(home(21)), end('kick'));
    expect(plan.adaptations.map((a) => [a.path.endsWith('/cc'), a.from, a.on])).toEqual([[true, 21, true]]);
    expect(report.counts.adapted).toBe(1);
    expect(handleConflicts(session)).toEqual([]);
    const kept = dropInto(s, rackPreset(home(21)), end('kick'), {
      adapt: { [plan.adaptations[0].path]: false },
    });
    expect(kept.report.counts.adapted).toBe(0);
    expect(handleConflicts(kept.session).map((c) => [c.kind, c.handles.length])).toEqual([['controller', 2]]);
  });

  test('numbers that the preset shares on purpose stay shared, also when they move', () => {
    const two = home(21);
    const rack = two.tracks[0].chain[1] as Rack;
    rack.handles.push({ ...rack.handles[0], id: 'h2', name: 'Second', ties: [] });
    const { session } = dropInto(home(21), rackPreset(two), end('kick'));
    const numbers = racksIn(session.tracks[1].chain)[0].handles.map((h) => h.cc);
    expect(numbers[0]).toBe(numbers[1]);
    expect(numbers[0]).not.toBe(21);
  });

  test('twice: two independent copies', () => {
    const p = rackPreset(home(null));
    const once = dropInto(home(null), p, end('kick')).session;
    const twice = dropInto(once, p, end('kick')).session;
    const [a, b] = racksIn(twice.tracks[1].chain);
    const ids = (r: Rack) => JSON.stringify(r).match(/"id":"[^"]+"/g)!;
    expect(ids(a).some((x) => ids(b).includes(x))).toBe(false);
    expect(a).toEqual(racksIn(once.tracks[1].chain)[0]);
  });
});

test('any slot of any session: saved, dropped beside itself, saved again, it has the same hash', () => {
  fc.assert(
    fc.property(anySession(), fc.nat(50), (s, pick) => {
      const slots = s.tracks.flatMap((t) => t.chain.map((x) => [t.id, x.id] as const));
      if (!slots.length) return;
      const [track, slot] = slots[pick % slots.length];
      const draft = captureSlot(s, track, slot);
      const p = createPreset(draft, { id: 'g', kind: draft.kind, name: 'G' });
      const before = JSON.stringify(s);
      const plan = planDrop(s, p, { place: end(track) });
      if (plan.problems.length || plan.adaptations.length) return;
      const { session, report, inverse } = applyDrop(s, plan, p);
      expect(report.counts.unexplained).toBe(0);
      expect(JSON.stringify(s)).toBe(before);
      expect(inverse.length).toBeGreaterThan(0);
      const landed = plan.ids[p.content.tracks[0].chain[0].id];
      const again = captureSlot(session, track, landed);
      if (!draft.content.looseEnds.length) expect(again.hash).toBe(draft.hash);
    }),
    { numRuns: 120 },
  );
});

test('a whole line with racks is captured as before: strips and pieces do not get in each other’s way', () => {
  const s = home();
  const strip = createPreset(capture(s, ['bass']), { id: 's', name: 'Bass' });
  const { session, report } = dropInto(clone(s), strip, { kind: 'new' });
  expect(report.counts.unexplained).toBe(0);
  expect(session.tracks.filter((t) => racksIn(t.chain).length)).toHaveLength(2);
});
