/**
 * Instruments in the engine: notes by port and channel, separate outputs and their halves, lined up in time,
 * at any block size, after a seek, and gone with their device.
 */
import {
  DEVICE_TYPES,
  Renderer,
  compile,
  createTrack,
  renderNow,
  sessionLength,
  validateSession,
  type NoteClip,
  type Session,
  type Track,
} from '../index.ts';
import { EventBuffer, NOTE_OFF, NOTE_ON, type InstrumentProcessor } from '../devices/instrument.ts';
import { Score } from './midi.ts';
import { db, device, difference, noteClip, peak, sessionWith } from '../../tests/support/build.ts';

const sounds = new Map();
const hits = (...keys: number[]): NoteClip =>
  noteClip(
    keys.map((key, i) => ({ at: i, key, velocity: 127 })),
    { length: keys.length + 1 },
  );
const plays = (clip: NoteClip, channel = 0): Partial<Track> => ({
  id: 'notes',
  name: 'Notes',
  role: 'midi',
  output: { kind: 'midi', port: 'A', channel },
  notes: [clip],
});
const kitOn = (params = {}, over: Partial<Track> = {}): Partial<Track> => ({
  id: 'kit',
  name: 'Kit',
  role: 'instrument',
  input: { kind: 'midi', port: 'A', channel: 10 },
  chain: [device('kit', { 'oh.level': -60, 'room.level': -60, ...params }, { id: 'k' })],
  ...over,
});
const takes = (
  id: string,
  output: number,
  take: 'stereo' | 'left' | 'right' | 'sum' = 'stereo',
  over: Partial<Track> = {},
): Partial<Track> => ({
  id,
  name: id,
  input: { kind: 'deviceOutput', track: 'kit', slot: 'k', output, take },
  ...over,
});
const out = (s: Session, taps: string[], seconds = 1.2, blockSize = 512) =>
  renderNow(s, { sounds, from: 0, to: seconds, taps, blockSize });

test('a note comes out where its part is assigned: on the main output, on a pair, on one half; nowhere else', () => {
  const s = sessionWith(
    [
      plays(hits(36, 38, 42)),
      kitOn({ 'p1.out': '3', 'p2.out': '4R' }),
      takes('kick', 3),
      takes('left', 4, 'left', { channels: 1 }),
      takes('right', 4, 'right', { channels: 1 }),
      takes('sum', 4, 'sum'),
    ],
    { tempo: 120 },
  );
  expect(validateSession(s)).toEqual([]);
  const r = out(s, ['kit:in', 'kit:pre', 'kick:in', 'left:in', 'right:in', 'sum:in'], 1.5);
  const at = (tap: string, second: number) =>
    peak(r[tap][0].subarray(second * 24000, second * 24000 + 12000));
  expect(at('kick:in', 0)).toBeGreaterThan(0.2);
  expect(at('kick:in', 1)).toBeLessThan(0.1);
  expect(peak(r['left:in'][0])).toBe(0);
  expect(at('right:in', 1)).toBeGreaterThan(0.2);
  expect(db(peak(r['right:in'][0]) / peak(r['sum:in'][0]))).toBeCloseTo(6.02, 2);
  expect(at('kit:pre', 0)).toBe(0);
  expect(at('kit:pre', 2)).toBeGreaterThan(0.02);
});

test('channels and ports are kept apart: what the line does not take is not heard; a MIDI track may set the channel', () => {
  const heard = (over: Partial<Track>, channel = 0) =>
    peak(out(sessionWith([plays(hits(36), channel), kitOn({}, over)]), ['kit:pre'])['kit:pre'][0]) > 0.1;
  expect([
    heard({}),
    heard({ input: { kind: 'midi', port: 'A', channel: 9 } }),
    heard({ input: { kind: 'midi', port: 'B', channel: 10 } }),
    heard({ input: { kind: 'midi', port: 'A', channel: 0 } }),
  ]).toEqual([true, false, false, true]);
  expect([heard({}, 3), heard({ input: { kind: 'midi', port: 'A', channel: 3 } }, 3)]).toEqual([false, true]);
  expect(
    heard({
      input: { kind: 'midi', port: 'A', channel: 10, filter: { low: 37, high: 127, controllers: true } },
    }),
  ).toBe(false);
});

test('separate outputs line up with everything else: a late device before the instrument and beside it changes nothing', () => {
  const late = device('outboard', { unit: 'wire', roundTrip: 6.48 }, { id: 'late', state: 'bypassed' });
  const plain = sessionWith([plays(hits(36)), kitOn({ 'p1.out': '1' }), takes('kick', 1)]);
  const delayed = sessionWith([
    plays(hits(36)),
    kitOn({ 'p1.out': '1' }),
    takes('kick', 1),
    { id: 'other', name: 'Other', chain: [late] },
  ]);
  const inFront = sessionWith([
    plays(hits(36)),
    kitOn(
      { 'p1.out': '1' },
      {
        chain: [
          { ...late, id: 'front' },
          device('kit', { 'oh.level': -60, 'room.level': -60, 'p1.out': '1' }, { id: 'k' }),
        ],
      },
    ),
    takes('kick', 1),
  ]);
  expect(compile(inFront).latency).toBe(compile(delayed).latency);
  const [a, b, c] = [plain, delayed, inFront].map((s) => out(s, ['master']).master[0]);
  expect(difference(a, b)).toBe(0);
  expect(difference(a, c)).toBe(0);
});

test('every instrument sounds the same at any block size', () => {
  for (const type of ['kit', 'parts', 'keys', 'bass']) {
    const chord = noteClip(
      [
        { at: 0.11, key: 48 },
        { at: 0.37, key: 55 },
        { at: 0.5, key: 36, length: 1.3 },
        { at: 1, key: 42 },
      ],
      {
        length: 4,
        channel: 1,
        controllers: [
          { at: 0.6, number: 11, value: 70 },
          { at: 0.7, number: 64, value: 127 },
          { at: 0.8, number: 1, value: 90 },
        ],
      },
    );
    const s = sessionWith([
      plays(chord),
      {
        id: 'kit',
        name: 'It',
        role: 'instrument',
        input: { kind: 'midi', port: 'A', channel: 1 },
        chain: [device(type, {}, { id: 'k' })],
      },
    ]);
    const [a, b] = [128, 1024].map((n) => out(s, ['master'], 1.5, n).master[0]);
    expect(peak(a)).toBeGreaterThan(0.05);
    expect(db(difference(a, b) / peak(a))).toBeLessThan(-100);
  }
});

test('a pattern plays its steps at the tempo, on its channels, its semitones going on over the bar line; swing comes late; any stretch gives the same as the whole', () => {
  const track = createTrack('midi', {
    output: { kind: 'midi', port: 'B', channel: 0 },
    chain: [
      device(
        'pattern',
        {
          'l1.steps': 'X..x',
          'l1.channel': 3,
          'l1.key': 60,
          'l1.keys': '0 3 7',
          'l1.gate': 50,
          'l2.on': false,
          'l3.on': false,
          swing: '66',
        },
        { id: 'pat' },
      ),
    ],
  });
  const score = new Score(track, 120, 48000);
  const e = new EventBuffer();
  const read = (from: number, to: number) => {
    e.count = 0;
    score.collect(from, to, e);
    return Array.from({ length: e.count }, (_, i) => [
      from + e.frame[i],
      e.type[i],
      e.channel[i],
      e.a[i],
      e.b[i],
    ]);
  };
  // a sixteenth at 120 bpm is 6,000 frames; odd steps come 0.32 of one later
  expect(read(0, 48000).filter((x) => x[1] === NOTE_ON)).toEqual([
    [0, 1, 3, 60, 120],
    [19920, 1, 3, 63, 92],
    [24000, 1, 3, 67, 120],
    [43920, 1, 3, 60, 92],
  ]);
  expect(
    read(0, 30000)
      .filter((x) => x[1] === NOTE_OFF)
      .map((x) => [x[0], x[3]]),
  ).toEqual([
    [3000, 60],
    [22920, 63],
    [27000, 67],
  ]);
  expect(score.port).toBe(1);
  const pieces = Array.from({ length: 300 }, (_, i) => read(i * 640, i * 640 + 640)).flat();
  expect(pieces).toEqual(read(0, 192000));
  expect(
    sessionLength(
      sessionWith(
        [
          {
            id: 'p',
            name: 'P',
            role: 'midi',
            output: { kind: 'midi', port: 'A', channel: 0 },
            chain: [device('pattern')],
          },
        ],
        { tempo: 120 },
      ),
    ),
  ).toBe(16);
});

test.each([
  ['kit', 'p1.level', -12, 12],
  ['kit', 'p1.pan', -100, 100],
  ['kit', 't0', -12, 12],
  ['parts', 'p1.level', -12, 12],
  ['keys', 'level', -12, 12],
  ['bass', 'clean.level', -12, 12],
] as const)('%s: moving %s while it sounds leaves no step', (type, param, low, high) => {
  const spec = DEVICE_TYPES[type];
  const l = new Float64Array(128);
  const r = new Float64Array(128);
  const run = (moving: boolean) => {
    const proc = spec.create(
      {
        ...spec.defaults,
        ...(type === 'kit'
          ? { 'p1.sound': 'stomp', 'oh.level': -60, 'room.level': -60 }
          : { 'p1.sound': 'organ' }),
      },
      { sampleRate: 48000, tempo: 120, maxBlock: 128 },
    ) as InstrumentProcessor;
    let edge = 0;
    let p = 0;
    let a = 0;
    let b = 0;
    for (let k = 0; k < 150; k++) {
      proc.events.count = 0;
      if (k === 0) proc.events.push(0, NOTE_ON, 0, 1, 36, 110);
      if (moving) {
        proc.set(
          {
            ...spec.defaults,
            'p1.sound': type === 'kit' ? 'stomp' : 'organ',
            ...(type === 'kit' ? { 'oh.level': -60, 'room.level': -60 } : {}),
            [param]: k % 24 < 12 ? low : high,
          },
          false,
        );
      }
      l.fill(0);
      r.fill(0);
      proc.process(l, r, 128, l, r);
      for (const x of l) {
        if (k > 20) edge = Math.max(edge, Math.abs(x - 2 * a + b));
        p = Math.max(p, Math.abs(x));
        b = a;
        a = x;
      }
    }
    return edge / p;
  };
  expect(run(true)).toBeLessThan(run(false) * 4 + 0.01);
});

test('playing from the middle sounds as it would from the start: controllers stand where they were', () => {
  const s = sessionWith(
    [
      plays(
        noteClip([{ at: 2, key: 60, length: 2 }], {
          channel: 1,
          controllers: [
            { at: 0.5, number: 11, value: 40 },
            { at: 1, number: 1, value: 127 },
          ],
        }),
      ),
      {
        id: 'kit',
        name: 'It',
        role: 'instrument',
        input: { kind: 'midi', port: 'A', channel: 1 },
        chain: [device('keys', { sound: 'organ' }, { id: 'k' })],
      },
    ],
    { tempo: 120 },
  );
  const whole = renderNow(s, { sounds, to: 2 }).master[0];
  const late = renderNow(s, { sounds, from: 0.75, to: 2 }).master[0];
  const loud = (x: Float32Array) => peak(x.subarray(x.length - 24000, x.length - 12000));
  expect(db(loud(late) / loud(whole))).toBeCloseTo(0, 1);
});

test('a solo on a MIDI line silences nothing; a solo on one output’s line leaves that and its kit', () => {
  const s = (soloed: string) =>
    sessionWith(
      [plays(hits(36, 38)), kitOn({ 'p1.out': '1', 'p2.out': '2' }), takes('kick', 1), takes('snare', 2)].map(
        (t) => ({ ...t, solo: t.id === soloed }),
      ),
    );
  const level = (soloed: string, at: number) =>
    peak(out(s(soloed), ['master'], 1.2).master[0].subarray(at * 24000, at * 24000 + 12000));
  expect([level('notes', 0), level('notes', 1)]).toEqual([level('', 0), level('', 1)]);
  expect(level('snare', 0)).toBe(0);
  expect(level('snare', 1)).toBeGreaterThan(0.1);
});

test('live: a part can be struck while nothing plays, a stop ends held notes, a kit that is bypassed is silent on all its outputs', () => {
  const s = sessionWith([
    plays(noteClip([{ at: 0, key: 60, length: 64 }], { length: 64, channel: 10 })),
    kitOn({ 'p1.out': '1' }),
    takes('kick', 1),
    {
      id: 'organ',
      name: 'Organ',
      role: 'instrument',
      input: { kind: 'midi', port: 'A', channel: 10 },
      chain: [device('keys', { sound: 'organ' }, { id: 'o' })],
    },
  ]);
  const r = new Renderer(48000, 128, sounds);
  const l = new Float32Array(128);
  const rr = new Float32Array(128);
  const run = (seconds: number) => {
    let p = 0;
    for (let i = 0; i < (seconds * 48000) / 128; i++) {
      r.process(l, rr, 128);
      p = Math.max(p, peak(l));
    }
    return p;
  };
  r.update(s, true);
  expect(run(0.1)).toBe(0);
  r.hit('k', 0, 127);
  expect(run(0.1)).toBeGreaterThan(0.2);
  run(1.5);
  r.play();
  expect(run(0.5)).toBeGreaterThan(0.05);
  r.stop();
  run(1);
  expect(run(0.2)).toBeLessThan(1e-4);
  r.update({
    ...s,
    tracks: s.tracks.map((t) =>
      t.id === 'kit' ? { ...t, chain: t.chain.map((d) => ({ ...d, state: 'bypassed' as const })) } : t,
    ),
  });
  run(0.1);
  r.hit('k', 0, 127);
  expect(run(0.2)).toBeLessThan(1e-4);
});

test('an output whose instrument is gone, sleeps or has no such output is silent, and the session still plays', () => {
  for (const chain of [
    [],
    [device('kit', {}, { id: 'k', state: 'inactive' as const })],
    [device('bass', {}, { id: 'k' })],
    [device('trim', {}, { id: 'k' })],
  ]) {
    const s = sessionWith([plays(hits(36)), kitOn({}, { chain }), takes('kick', 7)]);
    expect(validateSession(s)).toEqual([]);
    expect(peak(out(s, ['kick:in'])['kick:in'][0])).toBe(0);
  }
});

test('rules of the model: what cannot be is named', () => {
  const s = sessionWith([plays(hits(36)), kitOn(), takes('kick', 3)]);
  const broken = (change: (t: Record<string, Track>) => void) => {
    const x = structuredClone(s);
    change(Object.fromEntries(x.tracks.map((t) => [t.id, t])));
    return validateSession(x).map((p) => p.rule);
  };
  expect(
    broken((t) => {
      t.kick.input = { kind: 'deviceOutput', track: 'kick', slot: 'k', output: 1, take: 'stereo' };
    }),
  ).toEqual(['self']);
  expect(
    broken((t) => {
      t.kick.input = { kind: 'deviceOutput', track: 'nobody', slot: 'k', output: 0, take: 'stereo' };
    }),
  ).toEqual(['exists', 'range']);
  expect(
    broken((t) => {
      t.kit.input = { kind: 'midi', port: 'E' as 'A', channel: 17 };
    }),
  ).toEqual(['choice', 'range']);
  expect(
    broken((t) => {
      t.kick.output = { kind: 'midi', port: 'A', channel: 1 };
    }),
  ).toEqual(['choice']);
  expect(
    broken((t) => {
      t.notes.notes![0].notes[0].key = 128;
    }),
  ).toEqual(['note']);
  expect(
    broken((t) => {
      t.kit.input = { kind: 'midi', port: 'A', channel: 1, filter: { low: 60, high: 50, controllers: true } };
    }),
  ).toEqual(['range']);
});

test('all instruments have parts, keys and outputs that fit their tables', () => {
  for (const d of Object.values(DEVICE_TYPES).filter((x) => x.instrument)) {
    const parts = d.instrument!.parts(d.defaults);
    expect(new Set(parts.map((p) => p.id)).size).toBe(parts.length);
    for (const p of parts) {
      if (d.instrument!.outputs) expect(d.byId[p.outParam].choices!.some((c) => c.id === p.out)).toBe(true);
    }
    expect(d.instrument!.outputs === 0 || d.byId[d.instrument!.trim(d.instrument!.outputs)!]).toBeTruthy();
  }
});
