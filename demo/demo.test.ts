import {
  ADDABLE,
  devicesIn,
  compile,
  fixAllSafe,
  lineCheck,
  measureLoudness,
  moveHandle,
  readWav,
  renderNow,
  sha256Hex,
  truePeak,
  validatePreset,
  validateSession,
  type Rack,
  type Session,
  type Sound,
  type Track,
} from '../core/index.ts';
import { db, peak, rms } from '../tests/support/build.ts';
import { makeDemo } from './index.ts';

const demo = makeDemo();
const sounds = (n: number): Map<string, Sound> =>
  new Map(
    [...demo.sessions[n].media].map(([id, bytes]) => {
      const w = readWav(bytes);
      return [id, { l: w.channels[0], r: w.channels[1] ?? w.channels[0] }];
    }),
  );

test('it is what the scenario says: three songs with their tempi and rates, their tracks, a plate under another name, no slap in the second', () => {
  const [kelp, ninth, room] = demo.sessions.map((d) => d.session);
  expect([kelp.name, kelp.tempo, kelp.sampleRate]).toEqual(['Kelp and Copper', 96, 48000]);
  expect([ninth.name, ninth.tempo, ninth.sampleRate]).toEqual(['Ninth Wave Out', 132, 44100]);
  expect([room.name, room.tempo, room.sampleRate]).toEqual(['Lantern Room', 74, 48000]);
  expect(kelp.tracks.map((t) => t.name)).toEqual([
    'Lead voice',
    'Choir',
    'Concertina',
    'Bass',
    'Deck drums',
    'Voice bus',
    'Plate',
    'Slap',
    'Master',
  ]);
  expect(ninth.tracks.filter((t) => t.role === 'return').map((t) => t.name)).toEqual(['Hall plate, dark']);
  expect(ninth.tracks.some((t) => t.name === 'Lead voice')).toBe(true);
  for (const s of [kelp, ninth, room]) {
    expect(validateSession(s)).toEqual([]);
    expect(() => compile(s)).not.toThrow();
  }
});

test('strips, racks, devices, rigs and starters, each sound, with a category, tags and a note on what to touch first', () => {
  for (const p of demo.presets) {
    expect(validatePreset(p)).toEqual([]);
    expect(p.category).toMatch(/^\w+\/\w+/);
    expect(p.tags.length).toBeGreaterThan(0);
    expect(p.note.length).toBeGreaterThan(20);
    expect(p.kind !== 'strip' || p.content.tracks[0].chain.length > 1).toBe(true);
    expect(p.content.media).toEqual([]);
  }
  expect(new Set(demo.presets.map((p) => p.name)).size).toBe(demo.presets.length);
  const names = (kind: string) => demo.presets.filter((p) => p.kind === kind).length;
  expect(['strip', 'rack', 'device', 'rig', 'starter'].map(names)).toEqual([11, 6, 5, 10, 3]);
});

test('the classic sets do what they are for', () => {
  const room = demo.sessions[2].session;
  const sound = sounds(2);
  const level = (s: Session, id: string) => rms(renderNow(s, { sounds: sound, to: 4, taps: [id] })[id][0]);
  const change = (id: string, over: (t: Track) => Partial<Track>): Session => ({
    ...room,
    tracks: room.tracks.map((t) => (t.id === id ? { ...t, ...over(t) } : t)),
  });
  // the trigger is heard nowhere: taking its sound away opens the bus, and turning its fader down changes
  // nothing
  const silent = change('lr-trigger', () => ({ clips: [] }));
  expect(db(level(silent, 'lr-ducked') / level(room, 'lr-ducked'))).toBeGreaterThan(0.5);
  expect(
    level(
      change('lr-trigger', () => ({ level: -40 })),
      'lr-ducked',
    ),
  ).toBe(level(room, 'lr-ducked'));
  expect(
    compile(room)
      .nodes.flatMap((n) => n.inputs)
      .some((e) => e.from === 'lr-trigger'),
  ).toBe(false);
  // all of dry and all of wet on one control
  const swim = room.tracks.find((t) => t.id === 'lr-box')!.chain[1] as Rack;
  const dry = renderNow(
    change('lr-box', (t) => ({ chain: [t.chain[0], moveHandle(swim, swim.handles[0].id, 0)] })),
    { sounds: sound, to: 1, taps: ['lr-box:pre'] },
  );
  const without = renderNow(
    change('lr-box', (t) => ({ chain: [t.chain[0]] })),
    { sounds: sound, to: 1, taps: ['lr-box:pre'] },
  );
  expect(Math.max(...dry['lr-box:pre'][0].map((v, i) => Math.abs(v - without['lr-box:pre'][0][i])))).toBe(0);
});

test('starting settings keep to common practice: voices are high-passed, returns are fully wet, delay returns have their highs rolled off, bus compression is gentle', () => {
  for (const p of demo.presets.filter((x) => x.category.startsWith('Voice'))) {
    const eqs = p.content.tracks
      .filter((t) => t.role === 'audio')
      .flatMap((t) => devicesIn(t.chain))
      .filter((d) => d.type === 'eq');
    expect(
      eqs.some(
        (d) =>
          d.params['b1.on'] && d.params['b1.type'] === 'highPass' && (d.params['b1.freq'] as number) >= 80,
      ),
    ).toBe(true);
  }
  for (const d of demo.sessions) {
    for (const t of d.session.tracks) {
      if (t.role === 'return') {
        for (const x of devicesIn(t.chain)) {
          if (x.type === 'reverb' || x.type === 'delay') {
            expect(x.params.mix).toBe(100);
            expect(x.params.highCut as number).toBeLessThanOrEqual(9000);
          }
        }
      }
      if (t.role === 'bus' || t.role === 'master') {
        for (const x of devicesIn(t.chain)) {
          if (x.type === 'compressor') {
            expect(x.params.ratio as number).toBeLessThanOrEqual(4);
            expect(x.params.attack as number).toBeGreaterThanOrEqual(10);
          }
        }
      }
      for (const s of t.sends) expect(s.level).toBeLessThan(0);
    }
  }
});

test('the sounds are the same on every machine and every run', () => {
  const again = makeDemo();
  demo.sessions.forEach((d, n) => expect([...again.sessions[n].media.keys()]).toEqual([...d.media.keys()]));
  expect(again.presets.map((p) => p.hash)).toEqual(demo.presets.map((p) => p.hash));
  for (const d of demo.sessions) for (const [id, bytes] of d.media) expect(sha256Hex(bytes)).toBe(id);
});

test('each sound has a working level under full scale, its own width, and no offset', () => {
  for (const d of demo.sessions) {
    for (const [id, bytes] of d.media) {
      const w = readWav(bytes);
      const ref = d.session.media.find((m) => m.id === id)!;
      expect([w.sampleRate, w.channels.length, w.channels[0].length]).toEqual([
        ref.sampleRate,
        ref.channels,
        ref.frames,
      ]);
      const top = db(Math.max(...w.channels.map((c) => peak(c))));
      expect(top).toBeLessThan(-5);
      expect(top).toBeGreaterThan(-12);
      for (const c of w.channels) {
        expect(Math.abs(c.reduce((a, b) => a + b, 0) / c.length)).toBeLessThan(0.02);
      }
      // whole bars: four beats each at the session's tempo
      const bars = ((ref.frames / ref.sampleRate) * (d.session.tempo / 60)) / 4;
      expect(Math.abs(bars - Math.round(bars))).toBeLessThan(1e-3);
    }
  }
});

test('both mixes play at a sensible loudness with headroom, and every line is heard', () => {
  demo.sessions.forEach((d, n) => {
    const names = d.session.tracks.map((t) => t.id);
    const out = renderNow(d.session, { sounds: sounds(n), to: 6, taps: ['master', ...names] });
    const m = measureLoudness(out.master, d.session.sampleRate);
    expect(m.integrated).toBeGreaterThan(-27);
    expect(m.integrated).toBeLessThan(-18);
    expect(truePeak(out.master, d.session.sampleRate)).toBeLessThan(-3);
    for (const id of names) expect(db(Math.max(rms(out[id][0]), rms(out[id][1])))).toBeGreaterThan(-66);
  });
});

test('the session that was left in a hurry: every fault is found and named, what is safe is mended, and the good ones have no fault', () => {
  const s = demo.faulty.session;
  expect(validateSession(s)).toEqual([]);
  expect(() => compile(s)).not.toThrow();
  const found = lineCheck(s);
  const on = (rule: string) =>
    found.filter((f) => f.rule === rule).map((f) => s.tracks.find((t) => t.id === f.track)!.name);
  expect(Object.fromEntries([...new Set(found.map((f) => f.rule))].map((r) => [r, on(r)]))).toEqual({
    'key-missing': ['Bass'],
    'key-silent': ['All but the drums'],
    'key-after-fader': ['All but the drums'],
    'key-listened': ['Lead voice'],
    'no-way-out': ['Audio 2'],
    'return-not-wet': ['Plate'],
    'double-path': ['Deck drums'],
    'send-to-sleeping': ['Lead voice'],
    'not-solo-safe': ['All but the drums'],
    'parallel-pre-fader': ['Deck drums'],
    'send-wide-open': ['Lead voice'],
    'controller-twice': ['Bass'],
    'hidden-active': ['Bass'],
    'nothing-feeds': ['Bus'],
    'tempo-bound': ['Quarter echo'],
    'width-on-mono': ['Lead voice'],
    'default-name': ['Audio 2', 'Bus'],
    'same-name': ['Bass'],
    'part-on-main': ['Deck kit'],
    'output-unheard': ['Deck kit', 'Deck kit'],
    'output-empty': ['Kick'],
    'output-twice': ['Clap', 'High tom'],
    'outputs-shifted': ['Deck kit'],
    'half-of-a-pair': ['High tom', 'Crash'],
    'channel-shared': ['Cabin piano'],
    'port-differs': ['Deck beat'],
    'part-port': ['Two parts'],
    'part-controllers': ['Two parts'],
    unplayed: ['Deck kit', 'Cabin piano', 'Two parts'],
  });
  const r = fixAllSafe(s);
  expect(validateSession(r.session)).toEqual([]);
  expect(lineCheck(r.session).filter((f) => f.safe)).toEqual([]);
  for (const d of demo.sessions) {
    expect([
      d.session.name,
      lineCheck(d.session)
        .filter((f) => f.severity !== 'advice')
        .map((f) => f.message),
    ]).toEqual([d.session.name, []]);
  }
});

test('every device type is used somewhere in the demo', () => {
  const used = new Set(
    [
      ...demo.presets.flatMap((p) => [...p.content.tracks, ...p.content.spares]),
      ...demo.sessions.flatMap((d) => d.session.tracks),
    ].flatMap((t) => devicesIn(t.chain).map((d) => d.type)),
  );
  expect([...used].sort()).toEqual(ADDABLE.map((d) => d.type).sort());
});
