/**
 * MIDI against the outside: Standard MIDI Files written and read by an independent package (midi-file, from
 * the npm registry), the controller table of the MIDI 1.0 Detailed Specification and the percussion
 * keys of General MIDI Level 1 (both from memory, as references.md lists them).
 */
import fc from 'fast-check';
import { parseMidi, writeMidi as writeOther, type MidiData as Other } from 'midi-file';
import { CONTROLLER_NAMES } from '../../core/session/handles.ts';
import {
  DEVICE_TYPES,
  FormatError,
  PERCUSSION,
  keyName,
  readMidi,
  writeMidi,
  type MidiTrack,
} from '../../core/index.ts';

const anyTrack = (): fc.Arbitrary<MidiTrack> =>
  fc.record({
    name: fc.constantFrom('Deck kit', 'Shanty choir', 'Ölzeug', ''),
    // ticks of 1/480, so that both sides count the same; no key twice at once on one channel; often several
    // channels' notes of one key and moment
    notes: fc
      .uniqueArray(
        fc.record({
          at: fc.oneof(fc.constantFrom(0, 9), fc.nat(3840)),
          length: fc.integer({ min: 1, max: 960 }),
          channel: fc.integer({ min: 1, max: 16 }),
          key: fc.oneof(fc.constantFrom(36, 60), fc.nat(127)),
          velocity: fc.integer({ min: 1, max: 127 }),
          release: fc.nat(127),
        }),
        { maxLength: 30, selector: (n) => n.channel * 128 + n.key },
      )
      .map((l) =>
        l
          .map(({ release, ...n }) => ({
            ...n,
            at: n.at / 480,
            length: n.length / 480,
            ...(release === 64 ? {} : { release }),
          }))
          .sort((a, b) => a.at - b.at || a.key - b.key),
      ),
    controllers: fc
      .array(
        fc.record({
          at: fc.nat(3840),
          channel: fc.integer({ min: 1, max: 16 }),
          number: fc.nat(119),
          value: fc.nat(127),
        }),
        { maxLength: 10 },
      )
      .map((l) => l.map((c) => ({ ...c, at: c.at / 480 })).sort((a, b) => a.at - b.at)),
  });

test('what we write, the other package reads: every note and controller at its tick, tempo and meter; and we read it back the same', () => {
  fc.assert(
    fc.property(
      fc.array(anyTrack(), { minLength: 1, maxLength: 4 }),
      fc.constantFrom(74, 96, 132),
      (tracks, tempo) => {
        const bytes = writeMidi({ tempo, meter: [6, 8], tracks });
        const other = parseMidi(bytes);
        expect([other.header.format, other.header.numTracks, other.header.ticksPerBeat]).toEqual([
          1,
          tracks.length + 1,
          480,
        ]);
        expect(other.tracks[0].find((e) => e.type === 'setTempo')).toMatchObject({
          microsecondsPerBeat: Math.round(60000000 / tempo),
        });
        expect(other.tracks[0].find((e) => e.type === 'timeSignature')).toMatchObject({
          numerator: 6,
          denominator: 8,
        });
        tracks.forEach((t, i) => {
          let tick = 0;
          const seen = { on: [] as number[][], cc: [] as number[][] };
          for (const e of other.tracks[i + 1]) {
            tick += e.deltaTime;
            if (e.type === 'noteOn') seen.on.push([tick, e.channel + 1, e.noteNumber, e.velocity]);
            if (e.type === 'controller') seen.cc.push([tick, e.channel + 1, e.controllerType, e.value]);
          }
          const order = (l: number[][]) => l.map((x) => x.join()).sort();
          expect(order(seen.on)).toEqual(
            order(t.notes.map((n) => [n.at * 480, n.channel, n.key, n.velocity].map(Math.round))),
          );
          expect(order(seen.cc)).toEqual(
            order(t.controllers.map((c) => [c.at * 480, c.channel, c.number, c.value].map(Math.round))),
          );
        });
        const back = readMidi(bytes);
        expect(back.tempo).toBeCloseTo(tempo, 2);
        expect(back.tracks.slice(1).map((t) => t.name)).toEqual(tracks.map((t) => t.name));
        back.tracks.slice(1).forEach((t, i) =>
          t.notes.forEach((n, k) => {
            expect(n.length).toBeCloseTo(tracks[i].notes[k].length, 6);
            expect({ ...n, length: 0 }).toEqual({ ...tracks[i].notes[k], length: 0 });
          }),
        );
      },
    ),
    { numRuns: 60 },
  );
});

test('what the other package writes, we read: running status, note-on with velocity 0 as an end, format 0', () => {
  const events: Other['tracks'][number] = [
    { deltaTime: 0, meta: true, type: 'trackName', text: 'Deck kit' },
    { deltaTime: 0, meta: true, type: 'setTempo', microsecondsPerBeat: 625000 },
    { deltaTime: 0, type: 'noteOn', channel: 9, noteNumber: 36, velocity: 100 },
    { deltaTime: 96, type: 'noteOn', channel: 9, noteNumber: 36, velocity: 0 },
    { deltaTime: 0, type: 'noteOn', channel: 9, noteNumber: 38, velocity: 90 },
    { deltaTime: 48, type: 'noteOff', channel: 9, noteNumber: 38, velocity: 0 },
    { deltaTime: 0, type: 'controller', channel: 0, controllerType: 64, value: 127 },
    { deltaTime: 0, type: 'programChange', channel: 0, programNumber: 5 },
    { deltaTime: 0, meta: true, type: 'endOfTrack' },
  ];
  for (const running of [true, false]) {
    const r = readMidi(
      Uint8Array.from(
        writeOther({ header: { format: 0, numTracks: 1, ticksPerBeat: 96 }, tracks: [events] }, { running }),
      ),
    );
    expect([r.format, r.tempo, r.tracks[0].name]).toEqual([0, 96, 'Deck kit']);
    expect(r.tracks[0].notes).toEqual([
      { at: 0, length: 1, channel: 10, key: 36, velocity: 100 },
      { at: 1, length: 0.5, channel: 10, key: 38, velocity: 90, release: 0 },
    ]);
    expect(r.tracks[0].controllers).toEqual([{ at: 1.5, channel: 1, number: 64, value: 127 }]);
    expect(r.notes).toEqual([
      '1 message beside notes and controllers (programs, pitch bend, system) was left out.',
    ]);
  }
});

test('damaged files end in a sentence that names the file, and know the byte, never in a crash or a hang', () => {
  const good = writeMidi({
    tempo: 120,
    meter: [4, 4],
    tracks: [
      {
        name: 'x',
        notes: Array.from({ length: 20 }, (_, i) => ({
          at: i,
          length: 1,
          channel: 1,
          key: 60,
          velocity: 99,
        })),
        controllers: [],
      },
    ],
  });
  fc.assert(
    fc.property(fc.nat(good.length - 1), fc.nat(255), fc.nat(good.length), (at, value, cut) => {
      for (const bytes of [Uint8Array.from(good, (b, i) => (i === at ? value : b)), good.slice(0, cut)]) {
        try {
          readMidi(bytes, 'beat.mid');
        } catch (e) {
          expect(e).toBeInstanceOf(FormatError);
          expect((e as Error).message).toMatch(/^“beat\.mid”/);
          expect((e as FormatError).place).toMatch(/^byte \d+$/);
        }
      }
    }),
    { numRuns: 300 },
  );
  expect(() => readMidi(new TextEncoder().encode('RIFF....WAVEfmt '), 'a.mid')).toThrow('MThd');
  const frames = good.slice();
  frames[12] = 0xe8;
  expect(() => readMidi(frames)).toThrow('film frames');
});

test('a key that is struck 190,000 times before it is let go is read in the order of its beginnings', () => {
  const times = 190000;
  const events = Array.from({ length: times }, (_, i) => [1, 0x90, 60, 1 + (i % 127)]).flat();
  const bytes = Uint8Array.from([
    ...[0x4d, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 0, 0, 1, 0, 96],
    ...[0x4d, 0x54, 0x72, 0x6b],
    ...[24, 16, 8, 0].map((shift) => (events.length >>> shift) & 255),
    ...events,
  ]);
  const { notes } = readMidi(bytes).tracks[0];
  expect(notes).toHaveLength(times);
  expect(notes.every((n, i) => n.velocity === 1 + (i % 127) && n.at * 96 === i + 1)).toBe(true);
});

test('controller numbers have the names of the standard, and the parts player’s usual ones are those', () => {
  expect(CONTROLLER_NAMES).toMatchObject({
    1: 'modulation',
    2: 'breath',
    4: 'foot',
    7: 'channel volume',
    10: 'pan',
    11: 'expression',
    64: 'damper pedal',
    65: 'portamento',
    66: 'sostenuto',
    67: 'soft pedal',
  });
  const parts = DEVICE_TYPES.parts.instrument!.parts(DEVICE_TYPES.parts.defaults);
  for (const c of parts[0].controllers!) {
    expect(CONTROLLER_NAMES[c.number].split(' ')[0]).toBe(c.label.toLowerCase());
  }
});

test('percussion keys are those of General MIDI Level 1, and the kit’s parts sit on keys of their own kind', () => {
  const gm: [number[], RegExp][] = [
    [[35, 36], /bass drum/i],
    [[37], /side stick/i],
    [[38, 40], /snare/i],
    [[42], /closed/i],
    [[44], /pedal/i],
    [[46], /open/i],
    [[41, 43, 45, 47, 48, 50], /tom/i],
    [[49, 57], /crash/i],
    [[51, 59], /ride/i],
    [[53], /ride bell/i],
    [[54], /tambourine/i],
  ];
  for (const [keys, name] of gm) for (const k of keys) expect(PERCUSSION[k]).toMatch(name);
  const kind: Record<string, RegExp> = {
    kick: /bass drum/i,
    snare: /^snare/i,
    stick: /stick/i,
    clap: /clap/i,
    hat: /closed/i,
    pedal: /pedal/i,
    open: /open hi/i,
    lowtom: /tom/i,
    midtom: /tom/i,
    hightom: /tom/i,
    crash: /crash/i,
    ride: /^ride \d/i,
    bell: /bell/i,
    tambourine: /tambourine/i,
    shaker: /maracas|cabasa/i,
    block: /wood block/i,
  };
  for (const p of DEVICE_TYPES.kit.instrument!.parts(DEVICE_TYPES.kit.defaults)) {
    if (p.kind === 'part') expect(PERCUSSION[p.key]).toMatch(kind[p.sound]);
  }
  expect([keyName(60), keyName(36), keyName(69)]).toEqual(['C4', 'C2', 'A4']);
});

test('equal temperament: keys sound at 440 Hz times the twelfth root of two for each semitone (ISO 16, A4 = 440 Hz)', () => {
  const spec = DEVICE_TYPES.keys;
  const N = 512;
  const zero = (key: number): number => {
    const p = spec.create(
      { ...spec.defaults, sound: 'organ', bright: 0 },
      { sampleRate: 48000, tempo: 120, maxBlock: N },
    ) as unknown as {
      events: { count: number; push: (...a: number[]) => void };
      process: (...a: unknown[]) => void;
    };
    const x: number[] = [];
    const l = new Float64Array(N);
    const r = new Float64Array(N);
    p.events.push(0, 1, 0, 1, key, 100);
    for (let b = 0; b < 100; b++) {
      l.fill(0);
      r.fill(0);
      p.process(l, r, N, l, r);
      p.events.count = 0;
      x.push(...l);
    }
    // autocorrelation peak near the wanted period, refined by a parabola
    const want = 48000 / (440 * 2 ** ((key - 69) / 12));
    const from = 9600;
    const n = 24000;
    const corr = (lag: number) => {
      let s = 0;
      for (let i = from; i < from + n; i++) s += x[i] * x[i + lag];
      return s;
    };
    let best = Math.round(want);
    for (let lag = Math.floor(want * 0.97); lag <= Math.ceil(want * 1.03); lag++) {
      if (corr(lag) > corr(best)) best = lag;
    }
    const [a, b, c] = [corr(best - 1), corr(best), corr(best + 1)];
    return 1200 * Math.log2(want / (best + (a - c) / (2 * (a - 2 * b + c))));
  };
  for (const key of [45, 57, 69]) expect(Math.abs(zero(key))).toBeLessThan(2);
});

test.each<[string, number[], RegExp, number, [number, number]]>([
  ['a tempo of 0', [0xff, 0x51, 3, 0, 0, 0], /tempo without end; 120/, 120, [4, 4]],
  ['a tempo too fast', [0xff, 0x51, 3, 0, 0, 1], /60000000 bpm; 999/, 999, [4, 4]],
  ['a tempo too slow', [0xff, 0x51, 3, 255, 255, 255], /3.576 bpm; 10/, 10, [4, 4]],
  ['a meter of 0', [0xff, 0x58, 4, 0, 2, 24, 8], /0\/2\^2; 4\/4/, 120, [4, 4]],
  ['a huge power', [0xff, 0x58, 4, 4, 200, 24, 8], /4\/2\^200; 4\/4/, 120, [4, 4]],
])('%s is mended, with a note', (_, event, note, tempo, meter) => {
  const body = [0, ...event, 0, 0x90, 60, 100, 10, 0x80, 60, 33, 0, 0xff, 0x2f, 0];
  const head = [...Buffer.from('MThd'), 0, 0, 0, 6, 0, 0, 0, 1, 0, 96];
  const r = readMidi(Uint8Array.from([...head, ...Buffer.from('MTrk'), 0, 0, 0, body.length, ...body]));
  expect(r.notes.join()).toMatch(note);
  expect([r.tempo, r.meter]).toEqual([tempo, meter]);
  expect(r.tracks[0].notes[0].release).toBe(33);
});
