import {
  renderNow,
  DEVICE_TYPES,
  DUPLICATE_PARTS,
  applyLayout,
  compile,
  createRack,
  createStrand,
  devicesIn,
  findSlot,
  lineCheck,
  listenersIn,
  planLayout,
  validateSession,
  type Device,
  type Rack,
  type Session,
  addDevice,
  alongside,
  duplicateSlot,
  groupSlots,
  moveSlot,
  removeSlot,
  ungroup,
  addHandle,
  addInstrument,
  addSend,
  addTrack,
  commonDestinations,
  destinations,
  moveTrack,
  removeSend,
  removeTrack,
  setClips,
  copyParts,
  duplicateTrack,
  onDevice,
  onSend,
  onTrack,
  onTracks,
  setParam,
  setParams,
  type Params,
  setState,
  turnHandle,
  type Edit,
} from '../index.ts';
import {
  clipOf,
  db,
  device,
  difference,
  mediaRef,
  noise,
  send,
  sessionWith,
} from '../../tests/support/build.ts';

const gainOf = (d: Device) => (d.type === 'eq' ? 'b3.gain' : 'gain');
/** two lines into a bus, a return, and a line whose compressor listens to the first */
function start(): Session {
  const s = sessionWith(
    [
      {
        id: 'a',
        name: 'Lead',
        chain: [
          device('trim', {}, { id: 'd1' }),
          device('eq', {}, { id: 'd2' }),
          device('delay', {}, { id: 'd3' }),
        ],
        clips: [clipOf('x')],
        output: { kind: 'track', track: 'bus' },
      },
      {
        id: 'b',
        name: 'Choir',
        chain: [device('compressor', {}, { id: 'd4', key: { kind: 'track', track: 'a', tap: 'pre' } })],
      },
      { id: 'f', name: 'Crew', role: 'folder' },
      { id: 'bus', name: 'Voice bus', role: 'bus' },
      { id: 'r', name: 'Plate', role: 'return' },
    ],
    { media: [mediaRef('x')] },
  );
  s.tracks[0].sends = [send('r', -12, { id: 's1' })];
  s.tracks[1].folder = 'f';
  return s;
}
const ids = (s: Session) => s.tracks.map((t) => t.id);
const chain = (s: Session, id: string) => s.tracks.find((t) => t.id === id)!.chain.map((d) => d.id);
const track = (s: Session, id: string) => s.tracks.find((t) => t.id === id)!;
const dev = (s: Session, id: string) => s.tracks.map((t) => findSlot(t.chain, id)).find(Boolean) as Device;

/**
 * every edit: a sound session comes out, the one that went in is as it was, and what it does not touch is the
 * same object
 */
function check(edit: Edit, touched: string[]): Session {
  const s = start();
  const before = JSON.stringify(s);
  const out = edit(s);
  expect(JSON.stringify(s)).toBe(before);
  expect(validateSession(out)).toEqual([]);
  expect(() => compile(out)).not.toThrow();
  for (const t of s.tracks) {
    if (!touched.includes(t.id)) expect(out.tracks.find((x) => x.id === t.id)).toBe(t);
  }
  return out;
}

describe('instruments', () => {
  test('each comes with a line, a pattern that plays it, and an address of its own; drums ask for channel 10', () => {
    let s = start();
    const made = ['kit', 'keys', 'bass', 'parts', 'kit'].map((type) => {
      const a = addInstrument(type, s, true);
      s = a.edit(s);
      return a;
    });
    expect(validateSession(s)).toEqual([]);
    expect(() => compile(s)).not.toThrow();
    const heard = listenersIn(s.tracks);
    expect(heard.map((l) => `${l.port}${l.channel}`)).toEqual([
      'A10',
      'A1',
      'A2',
      'A3',
      'A4',
      'A5',
      'A6',
      'B10',
    ]);
    expect(
      lineCheck(s)
        .filter((f) => f.rule !== 'same-name' && f.rule !== 'nothing-feeds')
        .map((f) => f.rule),
    ).toEqual([]);
    for (const a of made) expect(track(s, a.id).chain[0].id).toBe(a.device);
  });

  test('it begins with the values that every new one begins with, and keeps away from what sleeps or is still empty', () => {
    let s = sessionWith([
      {
        id: 'asleep',
        role: 'instrument',
        state: 'inactive',
        input: { kind: 'midi', port: 'A', channel: 10 },
      },
      { id: 'notes', role: 'midi', output: { kind: 'midi', port: 'A', channel: 1 } },
    ]);
    s = onTrack('asleep', { chain: [device('kit', {}, { state: 'inactive' })] })(s);
    const begins = (type: string): Params => (type === 'kit' ? { 'p1.level': -5, 'p1.out': '3' } : {});
    const kit = addInstrument('kit', s, true, begins);
    s = kit.edit(s);
    expect(track(s, kit.id).input).toEqual({ kind: 'midi', port: 'B', channel: 10 });
    expect(dev(s, kit.device).params).toMatchObject({ 'p1.level': -5, 'p1.out': '3' });
    const keys = addInstrument('keys', s, true, begins);
    expect(track(keys.edit(s), keys.id).input).toMatchObject({ port: 'A', channel: 2 });
    const six = { 'p5.name': 'Fifth', 'p5.sound': 'kick', 'p5.port': 'A', 'p5.channel': 1 };
    const parts = addInstrument('parts', s, false, () => six);
    const heard = listenersIn(parts.edit(s).tracks).map((l) => `${l.port}${l.channel}`);
    expect(new Set(heard).size).toBe(heard.length);
    expect(heard).not.toContain('A1');
  });

  test('when an instrument’s line goes, lines on its outputs listen to nothing; a MIDI line begins without an output', () => {
    const a = addInstrument('kit', start(), false);
    const with1 = a.edit(start());
    const laid = applyLayout(with1, planLayout(with1, a.device));
    const gone = removeTrack(a.id)(laid);
    expect(validateSession(gone)).toEqual([]);
    for (const t of gone.tracks) expect(t.input.kind).toBe('none');
    const m = addTrack('midi');
    expect(track(check(m.edit, []), m.id).output).toEqual({ kind: 'none' });
  });
});

describe('lines', () => {
  test('a new line goes with its kind, under a free name, to the master', () => {
    const bus = addTrack('bus', { name: 'Voice bus' });
    const s = check(bus.edit, []);
    expect(track(s, bus.id)).toMatchObject({
      name: 'Voice bus 2',
      role: 'bus',
      output: { kind: 'track', track: ids(s).at(-1) },
    });
    expect(ids(s).indexOf(bus.id)).toBe(ids(s).indexOf('r') - 1);
    const audio = addTrack('audio', {}, 99);
    expect(ids(check(audio.edit, [])).at(-2)).toBe(audio.id);
  });
  test('a copy has ids of its own, the same settings, and stands beside the original', () => {
    const made = duplicateTrack('a', [...DUPLICATE_PARTS, 'clips']);
    const d = { edit: made.edit, id: made.ids[0] };
    const s = check(d.edit, []);
    expect(ids(s).indexOf(d.id)).toBe(1);
    const [was, is] = [track(s, 'a'), track(s, d.id)];
    expect(is.name).toBe('Lead 2');
    expect(devicesIn(is.chain).map((x) => [x.type, x.params])).toEqual(
      devicesIn(was.chain).map((x) => [x.type, x.params]),
    );
    expect(is.sends.map((x) => [x.to, x.level])).toEqual([['r', -12]]);
    expect(is.chain.some((x) => chain(s, 'a').includes(x.id))).toBe(false);
    expect(is.clips).toHaveLength(1);
    // lanes move the copy’s own values; those of what was not copied stay behind
    const moving = {
      ...start(),
      tracks: start().tracks.map((t) =>
        t.id === 'a'
          ? {
              ...t,
              automation: ['a', devicesIn(t.chain)[0].id, t.sends[0].id].map((of, i) => ({
                id: `lane${i}`,
                of,
                param: i === 1 ? gainOf(devicesIn(t.chain)[0]) : 'level',
                on: true,
                points: [{ at: 0, value: -3 }],
              })),
            }
          : t,
      ),
    };
    const m = duplicateTrack('a', ['chain', 'automation']);
    const moved = track(m.edit(moving), m.ids[0]);
    expect(moved.automation!.map((l) => l.of)).toEqual([m.ids[0], devicesIn(moved.chain)[0].id]);
    // parts that were not chosen are those of a new line
    const plain = duplicateTrack('a', ['sends']);
    expect(track(check(plain.edit, []), plain.ids[0])).toMatchObject({
      chain: [],
      clips: [],
      level: 0,
      sends: [{ to: 'r' }],
    });
  });
  test('fifteen copies come in order, and more of them behind those that are there, at once or one by one', () => {
    const many = duplicateTrack('a', DUPLICATE_PARTS, 15);
    let s = check(many.edit, []);
    for (let n = 0; n < 2; n++) s = duplicateTrack('a').edit(s);
    const names = s.tracks.slice(0, 18).map((t) => t.name);
    expect(names).toEqual(['Lead', ...Array.from({ length: 17 }, (_, i) => `Lead ${i + 2}`)]);
    expect(ids(s).slice(1, 16)).toEqual(many.ids);
    expect(new Set(s.tracks.flatMap((t) => [t.id, ...chain(s, t.id)])).size).toBe(
      s.tracks.reduce((sum, t) => sum + 1 + chain(s, t.id).length, 0),
    );
  });
  test('a deleted bus hands its feeders on to where it went; sends, keys and folders that pointed to the line go', () => {
    expect(track(check(removeTrack('bus'), ['a', 'bus']), 'a').output).toEqual({
      kind: 'track',
      track: ids(start()).length ? expect.stringMatching(/^trk/) : '',
    });
    expect(track(check(removeTrack('r'), ['a', 'r']), 'a').sends).toEqual([]);
    expect(dev(check(removeTrack('a'), ['a', 'b']), 'd4').key).toEqual({ kind: 'own' });
    expect(track(check(removeTrack('f'), ['f', 'b']), 'b').folder).toBeNull();
    const s = start();
    expect(removeTrack(ids(s).at(-1)!)(s)).toBe(s);
  });
  test('what was remembered for a deleted line is forgotten', () => {
    const s = { ...start(), lastTies: { 'p/send/Plate': 'r', 'p/output/Voice bus': 'bus' } };
    expect(removeTrack('r')(s).lastTies).toEqual({ 'p/output/Voice bus': 'bus' });
  });
  test('moved before another, to the end, never under the master', () => {
    expect(ids(check(moveTrack('b', 'a'), [])).slice(0, 2)).toEqual(['b', 'a']);
    expect(ids(check(moveTrack('a', null), [])).at(-2)).toBe('a');
    const s = start();
    expect(moveTrack('a', 'a')(s)).toBe(s);
    expect(moveTrack(ids(s).at(-1)!, 'a')(s)).toBe(s);
  });
  test('values of one line', () => {
    expect(track(check(onTrack('a', { level: -7, pan: 20 }), ['a']), 'a')).toMatchObject({
      level: -7,
      pan: 20,
      name: 'Lead',
    });
    expect(
      track(
        check(
          onTrack('a', (t) => ({ mute: !t.mute })),
          ['a'],
        ),
        'a',
      ).mute,
    ).toBe(true);
  });
});

describe('devices', () => {
  test('added at the end or at a spot, removed, copied beside the original', () => {
    const end = addDevice({ track: 'a' }, 'reverb');
    const mid = addDevice({ track: 'a', at: 1 }, 'reverb', { decay: 3 });
    expect(chain(check(end.edit, ['a']), 'a').at(-1)).toBe(end.id);
    expect(chain(check(mid.edit, ['a']), 'a')[1]).toBe(mid.id);
    expect(chain(check(removeSlot('a', 'd2'), ['a']), 'a')).toEqual(['d1', 'd3']);
    const copy = duplicateSlot('a', 'd2');
    expect(chain(check(copy.edit, ['a']), 'a')).toEqual(['d1', 'd2', copy.id, 'd3']);
  });
  test.each<[string, string, number, string[], string[]]>([
    ['d1', 'a', 3, ['d2', 'd3', 'd1'], ['d4']],
    ['d1', 'a', 2, ['d2', 'd1', 'd3'], ['d4']],
    ['d3', 'a', 0, ['d3', 'd1', 'd2'], ['d4']],
    ['d2', 'a', 1, ['d1', 'd2', 'd3'], ['d4']],
    ['d2', 'b', 0, ['d1', 'd3'], ['d2', 'd4']],
    ['d2', 'b', 1, ['d1', 'd3'], ['d4', 'd2']],
  ])('%s dragged to spot %s:%i', (d, to, at, a, b) => {
    const s = check(moveSlot('a', d, { track: to, at }), ['a', 'b']);
    expect([chain(s, 'a'), chain(s, 'b')]).toEqual([a, b]);
  });
  test('values and states of one device', () => {
    expect(dev(check(setParam('a', 'd1', 'gain', -6), ['a']), 'd1').params).toMatchObject({
      gain: -6,
      mono: false,
    });
    expect(
      dev(check(setParams('a', 'd2', { 'b1.on': true, 'b1.freq': 99 }), ['a']), 'd2').params,
    ).toMatchObject({ 'b1.on': true, 'b1.freq': 99 });
    expect(track(check(setState('a', 'd2', 'inactive'), ['a']), 'a').chain.map((d) => d.state)).toEqual([
      'on',
      'inactive',
      'on',
    ]);
    expect(
      track(
        check(
          onDevice('b', 'd4', (d) => ({ name: d.name + ', hard' })),
          ['b'],
        ),
        'b',
      ).chain[0].name,
    ).toBe('Compressor, hard');
  });
});

describe('racks', () => {
  const inRack = (e: Edit) => (s: Session) =>
    e(
      onTrack('a', (t) => ({
        chain: [
          createRack('R', [], {
            id: 'rk',
            strands: [
              createStrand('One', [t.chain[0]], { id: 'st1' }),
              createStrand('Two', [t.chain[1]], { id: 'st2' }),
            ],
          }),
          t.chain[2],
        ],
      }))(s),
    );
  const rack = (s: Session, id = 'rk') => findSlot(track(s, 'a').chain, id) as Rack;
  test('grouping keeps the order and stands where the first one stood; ungrouping gives the chain back', () => {
    const g = groupSlots('a', ['d3', 'd1']);
    const s = check(g.edit, ['a']);
    expect(chain(s, 'a')).toEqual(['d2', g.id].reverse());
    expect(rack(s, g.id).strands[0].chain.map((x) => x.id)).toEqual(['d1', 'd3']);
    expect(chain(ungroup('a', g.id)(s), 'a')).toEqual(['d1', 'd3', 'd2']);
  });
  test('a slot moves between strands, lines and levels; a rack never into itself; ties that no longer reach come off', () => {
    const tied = addHandle('a', 'rk', [{ slot: 'd1', param: 'gain', from: 0, to: 6 }], 'Push');
    const s = check(
      inRack((x) => moveSlot('a', 'd1', { track: 'a', container: 'st2', at: 0 })(tied.edit(x))),
      ['a'],
    );
    expect([
      rack(s).strands[0].chain.length,
      rack(s).strands[1].chain.map((x) => x.id),
      rack(s).handles[0].ties.length,
    ]).toEqual([0, ['d1', 'd2'], 1]);
    const out = moveSlot('a', 'd1', { track: 'b', at: 0 })(s);
    expect([chain(out, 'b'), rack(out).handles[0].ties]).toEqual([['d1', 'd4'], []]);
    expect(moveSlot('a', 'rk', { track: 'a', container: 'st1' })(s)).toBe(s);
  });
  test('a handle of two ties turns both at once, and a copy of the rack has ties of its own', () => {
    const h = addHandle(
      'a',
      'rk',
      [
        { slot: 'd1', param: 'gain', from: 0, to: 12 },
        { slot: 'st1', param: 'level', from: 0, to: -12 },
      ],
      'Drive',
    );
    const copy = duplicateSlot('a', 'rk');
    const s = check(
      inRack((x) => {
        const y = copy.edit(h.edit(x));
        return turnHandle('a', rack(y, copy.id).handles[0].id, 100)(y);
      }),
      ['a'],
    );
    expect([rack(s).strands[0].level, dev(s, 'd1').params.gain]).toEqual([0, 0]);
    const c = rack(s, copy.id);
    expect([c.strands[0].level, (c.strands[0].chain[0] as Device).params.gain]).toEqual([-12, 12]);
  });
  test('a device that mixes its own dry sound in gives that to the rack, sounds as before, and gets it back', () => {
    const sounds = new Map([['x', { l: noise(0.5, 0.4, 1), r: noise(0.5, 0.4, 2) }]]);
    for (const type of Object.keys(DEVICE_TYPES).filter((t) => DEVICE_TYPES[t].byId.mix?.unit === '%')) {
      const s = sessionWith([
        { id: 'a', clips: [clipOf('x', 0.5)], chain: [device(type, { mix: 40 }, { id: 'd' })] },
      ]);
      const blended = alongside('a', 'd');
      const now = blended.edit(s);
      const inside = rack(now, blended.id);
      expect(inside.blend).toEqual({ mode: 'linear', position: 40 });
      expect(dev(now, 'd').params.mix).toBe(100);
      const [was, is] = [s, now].map((x) => renderNow(x, { to: 0.5, sounds }).master[0]);
      // the multiband's own dry sound goes through its crossovers' phases, a rack's does not
      if (type !== 'multiband') expect(db(difference(was, is))).toBeLessThan(-100);
      expect(dev(ungroup('a', blended.id)(now), 'd').params.mix).toBe(40);
    }
  });
  test('a dry path beside a device', () => {
    const p = alongside('a', 'd2');
    expect(rack(check(p.edit, ['a']), p.id)).toMatchObject({
      blend: { mode: 'power' },
      strands: [
        { name: 'Dry', chain: [] },
        { name: 'Wet', chain: [{ id: 'd2' }] },
      ],
    });
  });
});

describe('several lines', () => {
  test('one change to all, and parts of one copied to the others, never a way into a loop', () => {
    expect(
      check(
        onTracks(['a', 'b'], () => ({ colour: 'rosehip' })),
        ['a', 'b'],
      )
        .tracks.filter((t) => t.colour === 'rosehip')
        .map((t) => t.id),
    ).toEqual(['a', 'b']);
    const s = check(
      (x) => copyParts(track(x, 'a'), ['a', 'b', 'bus', 'r'], ['chain', 'sends', 'output'], true)(x),
      ['b', 'bus', 'r'],
    );
    expect(track(s, 'b').chain.length).toBe(4);
    expect([track(s, 'b').output, track(s, 'r').sends]).toEqual([{ kind: 'track', track: 'bus' }, []]);
    expect(track(s, 'bus').output).toEqual({ kind: 'track', track: s.tracks.at(-1)!.id });
  });
});

describe('sends, sounds, destinations', () => {
  test('a new send starts low, never wide open; changed and removed', () => {
    const s = check(addSend('b', 'r'), ['b']);
    expect(track(s, 'b').sends).toMatchObject([{ to: 'r', level: -18, tap: 'post', on: true }]);
    expect(track(check(onSend('a', 's1', { level: -3, tap: 'pre' }), ['a']), 'a').sends[0]).toMatchObject({
      level: -3,
      tap: 'pre',
      to: 'r',
    });
    expect(track(check(removeSend('a', 's1'), ['a']), 'a').sends).toEqual([]);
  });
  test('a sound is listed once in the session, however many clips play it', () => {
    const s = check(setClips('b', [clipOf('x'), clipOf('y')], [mediaRef('x'), mediaRef('y')]), ['b']);
    expect(s.media.map((m) => m.id)).toEqual(['x', 'y']);
    expect(track(check(setClips('a', [], []), ['a']), 'a').clips).toEqual([]);
  });
  test('only what cannot feed the line itself is offered', () => {
    const s = start();
    const names = (id: string, send: boolean) => destinations(s, track(s, id), send).map((t) => t.name);
    expect(names('a', true)).toEqual(['Crew', 'Voice bus', 'Plate']);
    expect(names('a', false)).toEqual(['Crew', 'Voice bus', 'Plate', 'Master']);
    s.tracks.find((t) => t.id === 'bus')!.sends = [send('r')];
    expect(names('r', true)).toEqual(['Crew']);
    expect(names('r', false)).toEqual(['Crew', 'Master']);
    const both = commonDestinations(s, [track(s, 'a'), track(s, 'r')], false);
    expect(both.map((t) => t.name)).toEqual(['Crew', 'Master']);
  });
});
