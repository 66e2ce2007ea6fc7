import {
  applyDrop,
  borrow,
  capture,
  captureSlot,
  captureStarter,
  clone,
  createPreset,
  dropSeveral,
  newLines,
  nothingToDecide,
  nullTest,
  planDrop,
  rootsOf,
  startSession,
  stateOf,
  updateFromShelf,
  validatePreset,
  validateSession,
  verifyDrop,
  type CaptureOptions,
  type Preset,
  type Session,
} from '../index.ts';
import { dev, device, send, sessionWith } from '../../tests/support/build.ts';

const to = (track: string) => ({ kind: 'track' as const, track });
/**
 * A crew in a folder: a kick that is heard nowhere ducks a bus that holds the rest; a return; and a bus of
 * the session around it.
 */
const home = (): Session => {
  const s = sessionWith(
    [
      { id: 'crew', name: 'Crew', role: 'folder' },
      { id: 'kick', name: 'Kick', folder: 'crew', output: { kind: 'none' } },
      {
        id: 'box',
        name: 'Concertina',
        folder: 'crew',
        output: to('bed'),
        sends: [send('room', -12)],
        note: 'level first',
      },
      {
        id: 'bass',
        name: 'Bass',
        folder: 'crew',
        channels: 1,
        output: to('bed'),
        input: { kind: 'hardware', port: 'Mic 3' },
      },
      {
        id: 'bed',
        name: 'Bed',
        role: 'bus',
        output: to('hall'),
        chain: [
          device(
            'compressor',
            { release: 312.5, threshold: -30 },
            { name: 'Duck', key: { kind: 'track', track: 'kick', tap: 'pre' } },
          ),
        ],
      },
      { id: 'hall', name: 'Hall bus', role: 'bus', chain: [device('eq')] },
      { id: 'room', name: 'Room', role: 'return', chain: [device('reverb')] },
    ],
    { tempo: 96 },
  );
  return s;
};
const RIG = ['kick', 'box', 'bass', 'bed'];
const rig = (o: CaptureOptions = {}, s = home(), ids = RIG) =>
  createPreset(capture(s, ids, o), { id: 'rig', name: 'Ducked bed' });
const drop = (s: Session, p: Preset, o: Parameters<typeof planDrop>[2] = {}) => {
  const plan = planDrop(s, p, o);
  return { plan, ...applyDrop(s, plan, p) };
};
const named = (s: Session, name: string) => s.tracks.find((t) => t.name === name)!;

describe('saving several lines', () => {
  test('what lies inside stays tied, what leaves is listed with its lines and may be kept, taken along or cut', () => {
    const d = capture(home(), RIG);
    expect(createPreset(d, { id: 'x', name: 'X' }).kind).toBe('rig');
    expect(d.leaving.map((x) => [x.key, x.from.join('+'), x.choice, x.canSpare])).toEqual([
      ['folder:crew', 'Kick+Concertina+Bass', 'keep', false],
      ['send:room', 'Concertina', 'spare', true],
      ['output:hall', 'Bed', 'spare', true],
    ]);
    expect(dev(d.content.tracks[3].chain[0]).key).toMatchObject({ track: 't1', tap: 'pre' });
    const chosen = capture(home(), RIG, {
      ends: { 'send:room': 'cut', 'output:hall': 'keep', 'folder:crew': 'cut' },
    });
    expect(chosen.content.looseEnds.map((e) => [e.kind, e.label, e.spare])).toEqual([
      ['output', 'Hall bus', undefined],
    ]);
    expect(chosen.content.tracks[1]).toMatchObject({ sends: [], folder: null });
    expect(chosen.content.spares).toEqual([]);
    for (const c of [d, chosen]) expect(validatePreset(createPreset(c, { id: 'x', name: 'X' }))).toEqual([]);
  });
  test('a folder among the chosen lines keeps them inside; parts may differ by line', () => {
    const p = rig({ trackParts: { kick: ['name', 'colour'] } }, home(), ['crew', ...RIG]);
    expect(p.content.tracks.slice(1, 4).map((t) => t.folder)).toEqual([null, 't1', 't1']);
    const r = drop(sessionWith([]), p);
    expect(r.report.intact).toBe(true);
    expect(named(r.session, 'Concertina').folder).toBe(named(r.session, 'Crew').id);
    expect(named(r.session, 'Kick').output).toMatchObject({ kind: 'track' });
  });
  test('the master goes into starters only', () => {
    const s = home();
    expect(() => capture(s, ['kick', s.tracks.at(-1)!.id])).toThrow(/starter/);
  });
});

describe('dropping several lines', () => {
  test('into an unlike session: keys, buses and order hold, spares come, names that are taken are changed', async () => {
    const other = sessionWith(
      [
        { id: 'k', name: 'Kick' },
        { id: 'r', name: 'Deck room', role: 'return' },
      ],
      { tempo: 96, sampleRate: 44100 },
    );
    const r = drop(other, rig());
    expect(r.report.intact).toBe(true);
    expect(r.session.tracks.map((t) => t.name)).toEqual([
      'Kick',
      'Kick 2',
      'Concertina',
      'Bass',
      'Bed',
      'Hall bus',
      'Deck room',
      'Master',
    ]);
    expect(dev(named(r.session, 'Bed').chain[0]).key).toMatchObject({ track: named(r.session, 'Kick 2').id });
    expect(named(r.session, 'Concertina').sends[0].to).toBe('r');
    expect(await nullTest(r.session, rig(), r.plan, { seconds: 1 })).toMatchObject({ residual: -Infinity });
    // another release is another sound, and the test says by how much
    named(r.session, 'Bed').chain = [
      {
        ...dev(named(r.session, 'Bed').chain[0]),
        params: { ...dev(named(r.session, 'Bed').chain[0]).params, threshold: -10 },
      },
    ];
    expect((await nullTest(r.session, rig(), r.plan, { seconds: 1 })).residual).toBeGreaterThan(-60);
  });
  test('two returns of one name: each end finds its own, by what is in it', () => {
    const s = sessionWith([
      { id: 'v', name: 'Voice', sends: [send('p1', -10), send('p2', -20)] },
      { id: 'p1', name: 'Plate', role: 'return', chain: [device('reverb', { decay: 1 })] },
      { id: 'p2', name: 'Plate', role: 'return', chain: [device('reverb', { decay: 3 })] },
    ]);
    const p = createPreset(capture(s, ['v']), { id: 'p', name: 'Voice' });
    expect(p.content.looseEnds.map((e) => e.label)).toEqual(['Plate', 'Plate', 'Master']);
    const back = sessionWith([
      { id: 'b', name: 'Plate', role: 'return', chain: [device('reverb', { decay: 3 })] },
      { id: 'a', name: 'Plate', role: 'return', chain: [device('reverb', { decay: 1 })] },
    ]);
    expect(named(drop(back, p).session, 'Voice').sends.map((x) => [x.to, x.level])).toEqual([
      ['a', -10],
      ['b', -20],
    ]);
    // same names, other sound: still not both on one
    const plain = clone(back);
    plain.tracks.forEach((t) => {
      t.chain = [];
    });
    expect(new Set(named(drop(plain, p).session, 'Voice').sends.map((x) => x.to)).size).toBe(2);
    expect(nothingToDecide(planDrop(plain, p))).toBe(false);
    expect(nothingToDecide(planDrop(s, p))).toBe(true);
  });
  test('hardware goes by name: the same, a similar one, another by choice, or none', () => {
    const s = sessionWith([{ id: 'q', name: 'Q', input: { kind: 'hardware', port: 'Hall mic' } }], {
      tempo: 96,
    });
    expect(planDrop(s, rig()).ports).toMatchObject([
      { side: 'input', port: 'Mic 3', chosen: 'Hall mic', reason: 'similar name' },
    ]);
    const own = drop(s, rig(), { ports: { 'input/Mic 3': 'Mic 3' } });
    expect(named(own.session, 'Bass').input).toEqual({ kind: 'hardware', port: 'Mic 3' });
    const none = drop(s, rig(), { ports: { 'input/Mic 3': null } });
    expect(named(none.session, 'Bass').input).toEqual({ kind: 'none' });
    for (const r of [own, none, drop(s, rig())]) expect(r.report.intact).toBe(true);
  });
  test('a third-party device stays as it is, or a built-in one of its kind takes its place', () => {
    const s = sessionWith([
      {
        id: 'v',
        name: 'Voice',
        chain: [
          device(
            'opaque',
            {},
            {
              name: 'Silver De-Ess',
              state: 'bypassed',
              foreign: { format: 'CLAP', identifier: 'x.y', vendor: 'V', name: 'Silver De-Ess', params: [] },
            },
          ),
        ],
      },
    ]);
    const p = createPreset(capture(s, ['v']), { id: 'p', name: 'Voice' });
    const [offer] = planDrop(s, p).standIns;
    expect(offer).toMatchObject({ type: 'deesser', on: false });
    expect(dev(named(drop(sessionWith([]), p).session, 'Voice').chain[0])).toMatchObject({
      type: 'opaque',
      foreign: { identifier: 'x.y' },
    });
    const r = drop(sessionWith([]), p, { standIns: { [offer.path]: true } });
    expect(dev(named(r.session, 'Voice').chain[0])).toMatchObject({
      type: 'deesser',
      name: 'Silver De-Ess',
      state: 'bypassed',
    });
    expect(r.report.intact && r.report.counts.adapted).toBe(1);
    expect(stateOf(rootsOf(r.session)[0], p, 1).changes).toEqual([]);
  });
  test('one preset onto many lines, several presets at once: the second finds what the first brought', () => {
    const s = sessionWith([
      { id: 'a', name: 'A' },
      { id: 'b', name: 'B' },
    ]);
    const strip = createPreset(capture(home(), ['box'], { ends: { 'folder:crew': 'cut' } }), {
      id: 'box',
      name: 'Box',
    });
    const r = dropSeveral(
      s,
      ['a', 'b'].map((track) => ({
        preset: strip,
        options: { place: { kind: 'onto' as const, track, chain: 'append' as const } },
      })),
    );
    expect(r.session.tracks.filter((t) => t.name.startsWith('Room'))).toHaveLength(1);
    expect(named(r.session, 'B').sends[0].to).toBe(named(r.session, 'A').sends[0].to);
    for (const d of r.drops) expect(verifyDrop(r.session, d.preset, d.plan).intact).toBe(true);
    expect(() =>
      dropSeveral(s, [
        { preset: strip },
        { preset: strip, options: { place: { kind: 'onto', track: 'gone', chain: 'append' } } },
      ]),
    ).toThrow(/not in this session/);
  });
  test('borrowed lines come with everything and remember no preset', () => {
    const p = borrow(home(), RIG);
    const r = drop(sessionWith([]), p, { origin: false });
    expect(p.name).toBe('Kick and 3 more');
    expect(r.report.intact).toBe(true);
    expect(rootsOf(r.session)).toEqual([]);
  });
});

describe('starters', () => {
  const starter = createPreset(
    captureStarter({ ...home(), bitDepth: 16, meter: [6, 8], note: 'Cabin set' }),
    { id: 'st', name: 'Cabin evening' },
  );
  test('a session from a starter has its settings and lines; work in it leaves the starter alone', () => {
    expect(validatePreset(starter)).toEqual([]);
    const before = JSON.stringify(starter);
    const r = startSession(starter, { name: 'Tuesday' });
    expect(validateSession(r.session)).toEqual([]);
    expect(r.session).toMatchObject({
      name: 'Tuesday',
      tempo: 96,
      bitDepth: 16,
      meter: [6, 8],
      note: 'Cabin set',
    });
    expect(r.session.tracks.map((t) => [t.name, t.role])).toEqual(home().tracks.map((t) => [t.name, t.role]));
    expect(r.report).toMatchObject({ intact: true, counts: { adapted: 0, tied: 0, 'left out': 0 } });
    r.session.tracks[0].name = 'Other';
    expect(JSON.stringify(starter)).toBe(before);
    // at another tempo the ducking release follows
    expect(
      dev(named(startSession(starter, { tempo: 132 }).session, 'Bed').chain[0]).params.release,
    ).toBeCloseTo(227.27, 1);
  });
  test('a starter dropped into a session leaves that session’s master alone', () => {
    const r = drop(sessionWith([{ id: 'q', name: 'Q' }]), starter);
    expect(r.session.tracks.filter((t) => t.role === 'master')).toHaveLength(1);
    expect(named(r.session, 'Hall bus').output).toEqual(to(r.session.tracks.at(-1)!.id));
    expect(r.report.intact).toBe(true);
  });
  test('a rig starts a session of its own too, its spares with it', () => {
    const r = startSession(rig({ ends: { 'folder:crew': 'cut' } }));
    expect(r.session.tempo).toBe(96);
    expect(r.plan.spares.map((t) => t.name).sort()).toEqual(['Hall bus', 'Room']);
  });
});

describe('living with the shelf', () => {
  test('what the drop adapted is no change, and an update carries it on', () => {
    const p = rig();
    const other = sessionWith([], { tempo: 132 });
    const r = drop(other, p);
    const bed = () => rootsOf(r.session).find((x) => x.track.name === 'Bed')!;
    expect(stateOf(bed(), p, 1).changes).toEqual([]);
    const s2 = home();
    dev(s2.tracks[4].chain[0]).params.threshold = -34;
    s2.tracks[4].chain.unshift(device('eq', {}, { name: 'New tone' }));
    const v2 = { ...rig({}, s2), version: 2 };
    const u = updateFromShelf(r.session, bed(), p, v2);
    expect(u.taken.map((c) => [c.label, c.from, c.to])).toEqual([
      ['New tone', '—', 'there'],
      ['Duck · Threshold', '−30.0 dB', '−34.0 dB'],
    ]);
    const duck = dev(named(u.session, 'Bed').chain[1]);
    expect(duck.params.release).toBeCloseTo(227.27, 1);
    expect(duck.key).toEqual(dev(bed().track.chain[0]).key);
    expect(
      stateOf(
        rootsOf(u.session).find((x) => x.track.name === 'Bed')!,
        v2,
        2,
      ),
    ).toEqual({ changes: [], newer: false });
  });
  test('both changed one value: listed with all three, and whose it is to be can be chosen', () => {
    const p = rig();
    const r = drop(sessionWith([], { tempo: 96 }), p);
    const mine = clone(r.session);
    dev(named(mine, 'Bed').chain[0]).params.threshold = -20;
    const s2 = home();
    dev(s2.tracks[4].chain[0]).params.threshold = -34;
    const v2 = { ...rig({}, s2), version: 2 };
    const root = rootsOf(mine).find((x) => x.track.name === 'Bed')!;
    const u = updateFromShelf(mine, root, p, v2);
    expect(u.conflicts).toMatchObject([
      { label: 'Duck · Threshold', base: '−30.0 dB', mine: '−20.0 dB', theirs: '−34.0 dB', chosen: 'mine' },
    ]);
    const took = updateFromShelf(mine, root, p, v2, { choices: { [u.conflicts[0].path]: 'theirs' } });
    expect(dev(named(took.session, 'Bed').chain[0]).params.threshold).toBe(-34);
  });
  test('a new send of the next version is tied as a drop would tie it', () => {
    const p = rig();
    const r = drop(sessionWith([{ id: 'slap', name: 'Slap', role: 'return' }]), p);
    const s2 = home();
    s2.tracks.splice(6, 0, { ...clone(s2.tracks[6]), id: 'slap', name: 'Slap', chain: [device('delay')] });
    s2.tracks[2].sends.push(send('slap', -21));
    const v2 = { ...rig({}, s2), version: 2 };
    const u = updateFromShelf(
      r.session,
      rootsOf(r.session).find((x) => x.track.name === 'Concertina')!,
      p,
      v2,
    );
    expect(
      named(u.session, 'Concertina').sends.map((x) => [
        u.session.tracks.find((t) => t.id === x.to)!.name,
        x.level,
      ]),
    ).toEqual([
      ['Room', -12],
      ['Slap', -21],
    ]);
  });
  test('a version with one more line and one more device in front: everything finds its counterpart, not its number', () => {
    const p = rig();
    const r = drop(sessionWith([], { tempo: 96 }), p);
    const s2 = home();
    s2.tracks.splice(1, 0, {
      ...clone(s2.tracks[2]),
      id: 'fiddle',
      name: 'Fiddle',
      sends: [],
      chain: [device('eq')],
    });
    s2.tracks.find((t) => t.id === 'box')!.level = -5;
    const v2 = { ...rig({}, s2, ['fiddle', ...RIG]), version: 2 };
    expect(v2.content.tracks[0].name).toBe('Fiddle');
    const u = updateFromShelf(
      r.session,
      rootsOf(r.session).find((x) => x.track.name === 'Concertina')!,
      p,
      v2,
    );
    expect([named(u.session, 'Concertina').level, named(u.session, 'Kick').level]).toEqual([-5, 0]);
    const kick = updateFromShelf(
      r.session,
      rootsOf(r.session).find((x) => x.track.name === 'Kick')!,
      p,
      v2,
    );
    expect(kick.taken).toEqual([]);
    expect(named(kick.session, 'Kick').name).toBe('Kick');
    expect(newLines(p, v2).map((t) => t.name)).toEqual(['Fiddle']);
    expect(
      stateOf(
        rootsOf(u.session).find((x) => x.track.name === 'Concertina')!,
        v2,
        2,
      ),
    ).toEqual({ changes: [], newer: false });
    // a key of the new version between two of its lines is tied to the line that came with the same drop,
    // whatever its number
    const s3 = clone(s2);
    s3.tracks.find((t) => t.id === 'box')!.chain = [
      device('compressor', {}, { key: { kind: 'track', track: 'kick', tap: 'pre' } }),
    ];
    const v3 = { ...rig({}, s3, ['fiddle', ...RIG]), version: 2 };
    const tied = updateFromShelf(
      r.session,
      rootsOf(r.session).find((x) => x.track.name === 'Concertina')!,
      p,
      v3,
    );
    expect(dev(named(tied.session, 'Concertina').chain[0]).key).toMatchObject({
      track: named(r.session, 'Kick').id,
    });
    // a strip whose devices went behind those of another line: each by itself
    const strip = (front: boolean): Preset => {
      const s = sessionWith([
        {
          id: 'v',
          chain: [
            ...(front ? [device('trim', {}, { name: 'New' })] : []),
            device('eq', { 'b1.on': front }, { name: 'A' }),
            device('eq', {}, { name: 'B' }),
          ],
        },
      ]);
      return { ...createPreset(capture(s, ['v']), { id: 'st', name: 'St' }), version: front ? 2 : 1 };
    };
    const d = drop(home(), strip(false), { place: { kind: 'onto', track: 'box', chain: 'append' } });
    const b = updateFromShelf(
      d.session,
      rootsOf(d.session).find((x) => x.slot?.name === 'B')!,
      strip(false),
      strip(true),
    );
    expect(b.taken).toEqual([]);
    const a = updateFromShelf(
      d.session,
      rootsOf(d.session).find((x) => x.slot?.name === 'A')!,
      strip(false),
      strip(true),
    );
    expect(a.taken.map((c) => c.label)).toEqual(['A · Band 1 on']);
  });
  test('a piece inside another line’s chain has a state and updates by itself', () => {
    const s = sessionWith([{ id: 'v', chain: [device('compressor', { threshold: -18 }, { name: 'Hold' })] }]);
    const make = (threshold: number, version: number): Preset => {
      const t = clone(s);
      dev(t.tracks[0].chain[0]).params.threshold = threshold;
      const d = captureSlot(t, 'v', t.tracks[0].chain[0].id);
      return { ...createPreset(d, { id: 'c', name: 'Hold', kind: d.kind }), version };
    };
    const r = drop(home(), make(-18, 1), { place: { kind: 'onto', track: 'box', chain: 'append' } });
    const root = () => rootsOf(r.session)[0];
    expect([root().slot?.name, stateOf(root(), make(-18, 1), 2)]).toEqual([
      'Hold',
      { changes: [], newer: true },
    ]);
    const u = updateFromShelf(r.session, root(), make(-18, 1), make(-25, 2));
    expect(dev(named(u.session, 'Concertina').chain[0]).params.threshold).toBe(-25);
    expect(u.session.tracks.filter((t) => t.id !== 'box')).toEqual(
      r.session.tracks.filter((t) => t.id !== 'box'),
    );
  });
});
