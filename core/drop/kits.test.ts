/**
 * Instruments with outputs and notes, saved and dropped: outputs stay with their instrument, MIDI channels
 * that are taken move together, and every value is explained.
 */
import {
  applyDrop,
  applyLayout,
  capture,
  captureStarter,
  createPreset,
  instrumentAt,
  listenersIn,
  nullTest,
  planDrop,
  planLayout,
  renderNow,
  rootsOf,
  sentBy,
  startSession,
  stateOf,
  takersOf,
  unprint,
  updateFromShelf,
  validateSession,
  withPrint,
  type Preset,
  type Session,
  type Track,
} from '../index.ts';
import { render } from '../engine/render.ts';
import { dev, device, difference, kitSession, noteClip, sessionWith } from '../../tests/support/build.ts';

const kitRig = (): { s: Session; rig: Preset } => {
  const s = applyLayout(kitSession(), planLayout(kitSession(), 'k'));
  return {
    s,
    rig: createPreset(
      capture(
        s,
        s.tracks.filter((t) => t.role !== 'master').map((t) => t.id),
      ),
      { id: 'kit-rig', name: 'Deck kit' },
    ),
  };
};
const drop = (s: Session, p: Preset, options = {}) => {
  const plan = planDrop(s, p, options);
  return { plan, ...applyDrop(s, plan, p) };
};
const addresses = (s: Session) => listenersIn(s.tracks).map((l) => `${l.port}${l.channel}`);
const named = (s: Session, name: string): Track => s.tracks.find((t) => t.name === name)!;

test('a kit rig in an empty session: nothing is adapted, every line takes its own kit’s output, the same content comes back, and it sounds the same', async () => {
  const { rig } = kitRig();
  expect(rig.content.looseEnds.map((e) => [e.kind, e.role])).toEqual([['output', 'master']]);
  const empty = sessionWith([], { tempo: 120 });
  const { session, plan, report } = drop(empty, rig);
  expect([plan.adaptations, report.intact, report.counts.adapted]).toEqual([[], true, 0]);
  expect(validateSession(session)).toEqual([]);
  const kit = named(session, 'Deck kit').chain[0].id;
  expect(takersOf(session, kit)).toHaveLength(takersOf(kitRig().s, 'k').length);
  expect(
    capture(
      session,
      plan.tracks.map((t) => t.id),
    ).hash,
  ).toBe(rig.hash);
  const found = await nullTest(session, rig, plan);
  expect(found.residual).toBe(-Infinity);
  // the same where one of the two is rendered somewhere else meanwhile; how far it is only grows
  const shares: number[] = [];
  const onProgress = (share: number) => void shares.push(share);
  expect(await nullTest(session, rig, plan, { beside: render, onProgress })).toEqual(found);
  expect(shares).toEqual(shares.toSorted((a, b) => a - b));
  expect(shares.at(-1)).toBe(1);
  expect((await nullTest(session, rig, plan)).reference).toBeGreaterThan(-60);
});

test('where the channel is taken, kit and pattern move to a free one together; each plays only its own; undo is byte for byte', () => {
  const { s, rig } = kitRig();
  const { session, plan, report } = drop(s, rig);
  expect(plan.adaptations.map((a) => [a.path, a.fromText, a.toText])).toEqual([
    ['midi/A/10', 'port A, channel 10', 'port A, channel 1'],
  ]);
  expect(plan.adaptations[0].reason).toBe('Kit on Deck kit already listens to port A, channel 10');
  expect(addresses(session)).toEqual(['A10', 'A1']);
  expect([named(session, 'Beat').output, named(session, 'Beat 2').output]).toEqual([
    { kind: 'midi', port: 'A', channel: 10 },
    { kind: 'midi', port: 'A', channel: 1 },
  ]);
  expect(report.intact).toBe(true);
  expect(
    report.rows
      .filter((r) => r.verdict === 'adapted' && /channel/.test(r.wanted))
      .map((r) => [r.label, r.found]),
  ).toEqual([
    ['Beat · output', 'port A, channel 1'],
    ['Deck kit · input', 'port A, channel 1'],
  ]);
  // the first kit sounds as it did, and muting the second pattern leaves only that
  const alone = (x: Session) =>
    renderNow(
      { ...x, tracks: x.tracks.map((t) => (t.name === 'Beat 2' ? { ...t, mute: true } : t)) },
      { sounds: new Map(), to: 1 },
    ).master[0];
  expect(difference(alone(session), alone(s))).toBe(0);
  // kept as it was saved when that is wanted
  const kept = drop(s, rig, { adapt: { 'midi/A/10': false } });
  expect(addresses(kept.session)).toEqual(['A10', 'A10']);
  expect(kept.report.intact).toBe(true);
  // a third and a fourth time
  const third = drop(drop(session, rig).session, rig);
  expect(new Set(addresses(third.session)).size).toBe(4);
});

test('parts with channels of their own move one by one, or as a whole to another port; patterns that keep their channels follow; what moved is no change', () => {
  const lines = (channel: number): Partial<Track>[] => [
    {
      id: 'pat',
      name: 'Layers',
      role: 'midi',
      output: { kind: 'midi', port: 'A', channel: 0 },
      chain: [
        device('pattern', { 'l1.channel': channel, 'l2.channel': channel + 1, 'l3.on': false }, { id: 'p' }),
      ],
      notes: [noteClip([{ at: 0, key: 60, channel }], { length: 4 })],
    },
    {
      id: 'parts',
      name: 'Shanty parts',
      role: 'instrument',
      input: { kind: 'midi', port: 'A', channel: 0 },
      chain: [
        device(
          'parts',
          { 'p1.channel': channel, 'p2.channel': channel + 1, 'p3.sound': 'none', 'p4.sound': 'none' },
          { id: 'pp' },
        ),
      ],
    },
  ];
  const s = sessionWith(lines(1));
  const p = createPreset(
    capture(s, ['pat', 'parts'], { parts: ['chain', 'input', 'output', 'name', 'clips'] }),
    {
      id: 'p',
      name: 'Parts',
    },
  );
  const { session, plan, report } = drop(s, p);
  expect(plan.adaptations.map((a) => a.path)).toEqual(['midi/A/1', 'midi/A/2']);
  expect(report.intact).toBe(true);
  expect(addresses(session)).toEqual(['A1', 'A2', 'A3', 'A4']);
  expect(sentBy(named(session, 'Layers 2'))).toEqual([
    { port: 'A', channel: 3 },
    { port: 'A', channel: 4 },
  ]);
  expect(named(session, 'Layers 2').notes![0].notes[0].channel).toBe(3);
  const root = rootsOf(session).find((r) => r.track.name === 'Shanty parts 2' && !r.slot)!;
  expect(stateOf(root, p, 1)).toMatchObject({ changes: [] });
  // a later version brings its own values and leaves the channels where they were put
  const later = {
    ...s,
    tracks: s.tracks.map((t) =>
      t.id === 'parts'
        ? { ...t, chain: [device('parts', { ...dev(t.chain[0]).params, 'p1.level': -9 }, { id: 'pp' })] }
        : t,
    ),
  };
  const next = createPreset(capture(later, ['pat', 'parts'], { parts: p.content.parts }), {
    id: 'p',
    name: 'Parts',
    version: 2,
  });
  const u = updateFromShelf(session, root, p, next);
  expect([
    u.conflicts,
    addresses(u.session),
    dev(named(u.session, 'Shanty parts 2').chain[0]).params['p1.level'],
  ]).toEqual([[], ['A1', 'A2', 'A3', 'A4'], -9]);
  // fifteen channels taken: both go to a port where they are free
  const full = sessionWith([
    {
      id: 'big',
      name: 'Big',
      role: 'instrument',
      input: { kind: 'midi', port: 'A', channel: 0 },
      chain: [
        device(
          'parts',
          Object.fromEntries(Array.from({ length: 15 }, (_, i) => [`p${i + 1}.sound`, 'organ'])),
          { id: 'b' },
        ),
      ],
    },
  ]);
  const moved = drop(full, p);
  expect(moved.plan.adaptations.map((a) => [a.path, a.toText])).toEqual([['midi/A', 'port B']]);
  expect(moved.report.intact).toBe(true);
  expect(addresses(moved.session).slice(-2)).toEqual(['B1', 'B2']);
  expect(named(moved.session, 'Layers').output).toEqual({ kind: 'midi', port: 'B', channel: 0 });
});

test('a pattern that comes alone plays what listens here already; with an instrument of its own it moves with that', () => {
  const { s } = kitRig();
  const p = createPreset(capture(s, ['beat']), { id: 'beat', name: 'Beat' });
  const { plan, session } = drop(s, p);
  expect(plan.adaptations).toEqual([]);
  expect(sentBy(named(session, 'Beat 2'))).toEqual([{ port: 'A', channel: 10 }]);
  const both = createPreset(capture(s, ['beat', 'kit']), { id: 'both', name: 'Both' });
  // somebody here plays on that channel and nobody listens: the rig's kit would play along
  const player = sessionWith([{ ...s.tracks[0], id: 'other', name: 'Other beat' }]);
  expect(drop(player, both).plan.adaptations.map((a) => [a.path, a.reason])).toEqual([
    ['midi/A/10', 'a MIDI line here already plays on port A, channel 10'],
  ]);
});

test('lines saved without their kit ask for one: a kit with enough outputs, by name; otherwise the input stays open', () => {
  const { s } = kitRig();
  const ids = takersOf(s, 'k')
    .filter((t) => t.name === 'Kick' || t.name === 'Room')
    .map((t) => t.id);
  const p = createPreset(capture(s, ids, { spares: false }), { id: 'two', name: 'Kick and room' });
  expect(p.content.looseEnds.filter((e) => e.kind === 'input').map((e) => e.label)).toEqual(['Deck kit']);
  const bass = { id: 'bass', name: 'Deck bass', role: 'instrument' as const, chain: [device('bass')] };
  const { session, plan, report } = drop(
    sessionWith([
      bass,
      { id: 'other', name: 'Deck kit', role: 'instrument', chain: [device('kit', {}, { id: 'k2' })] },
    ]),
    p,
  );
  const end = plan.ends.find((e) => e.end.kind === 'input')!;
  expect(end.choices.map((c) => (c.kind === 'track' ? c.label : c.kind))).toEqual(['Deck kit', 'open']);
  expect(named(session, 'Room').input).toEqual({
    kind: 'deviceOutput',
    track: 'other',
    slot: 'k2',
    output: 12,
    take: 'stereo',
  });
  expect(report.intact).toBe(true);
  const open = drop(sessionWith([bass]), p);
  expect(named(open.session, 'Kick').input).toEqual({ kind: 'none' });
  expect(open.report.intact).toBe(true);
});

test('a printed kit is saved as it was before the print; a starter brings it all', () => {
  const { s, rig } = kitRig();
  const media = takersOf(s, 'k').map((t, i) => ({
    track: t.id,
    ref: {
      id: i.toString(16).padStart(64, '0'),
      name: t.name,
      sampleRate: 48000,
      channels: 2 as const,
      frames: 48000,
    },
  }));
  const printed = withPrint(s, 'k', media);
  expect(
    capture(
      printed,
      s.tracks.filter((t) => t.role !== 'master').map((t) => t.id),
    ).hash,
  ).toBe(rig.hash);
  expect(unprint(printed)).toEqual(s);
  const { session, report } = startSession(
    createPreset(captureStarter(printed), { id: 'st', name: 'Kit session' }),
  );
  expect(report.intact).toBe(true);
  expect(instrumentAt(session, named(session, 'Deck kit').chain[0].id).parts.length).toBe(18);
});

test('hardware is offered by the names of the session’s studio; a starter takes them along', () => {
  const from = sessionWith([{ id: 'v', name: 'Voice', input: { kind: 'hardware', port: 'Cabin in 3' } }]);
  const p = createPreset(capture(from, ['v']), { id: 'v', name: 'Voice' });
  const setup = { name: 'Harbour Hall', inputs: ['Hall in 3', 'Hall in 4'], outputs: ['Hall out 1'] };
  const plan = planDrop({ ...sessionWith([]), setup }, p);
  expect(plan.ports[0]).toMatchObject({
    port: 'Cabin in 3',
    chosen: 'Hall in 3',
    choices: ['Cabin in 3', 'Hall in 3', 'Hall in 4'],
    reason: 'similar name',
  });
  const other = planDrop({ ...sessionWith([]), setup: { ...setup, inputs: ['Booth A'] } }, p);
  expect(other.ports[0]).toMatchObject({
    chosen: 'Cabin in 3',
    reason: '“Harbour Hall” has no port of that name; it keeps its own',
  });
  const { session } = startSession(
    createPreset(captureStarter({ ...from, setup }), { id: 'st', name: 'Hall' }),
  );
  expect(session.setup).toEqual(setup);
  expect(validateSession({ ...session, setup: { ...setup, inputs: [''] } }).map((x) => x.rule)).toEqual([
    'list',
  ]);
});
