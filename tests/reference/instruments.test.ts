/**
 * Instruments against the outside. Constant-power pan: −3.01 dB on each side at the centre (W3C Web Audio
 * 1.1, equal-power panning; AES17 levels). Damper pedal: values of 64 and more are down, under 64 up, and
 * expression scales the volume
 * (MIDI 1.0 Detailed Specification, table of controllers; from memory). Velocity and expression curves:
 * common practice (amplitude by the square). Sixteen channels a port (MIDI 1.0).
 */
import { CONTROL, HIT, NOTE_OFF, NOTE_ON, type InstrumentProcessor } from '../../core/devices/instrument.ts';
import { DEVICE_TYPES, type Params } from '../../core/index.ts';
import { db, peak, rms, toneAt } from '../support/build.ts';

type Event = [seconds: number, type: number, channel: number, a: number, b: number, port?: number];
/** Plays events and gives the main output and every separate one. */
function play(type: string, params: Params, events: Event[], seconds = 1, fs = 48000) {
  const spec = DEVICE_TYPES[type];
  const N = 240;
  const frames = Math.round((seconds * fs) / N) * N;
  const proc = spec.create(
    { ...spec.defaults, ...params },
    { sampleRate: fs, tempo: 120, maxBlock: N },
  ) as InstrumentProcessor;
  const main = [new Float32Array(frames), new Float32Array(frames)];
  const outs = proc.outputs.map(() => [new Float32Array(frames), new Float32Array(frames)]);
  for (let at = 0; at < frames; at += N) {
    proc.events.count = 0;
    for (const [t, kind, channel, a, b, port = 0] of events) {
      const f = Math.round(t * fs);
      if (f >= at && f < at + N) proc.events.push(f - at, kind, port, channel, a, b);
    }
    const l = new Float64Array(N);
    const r = new Float64Array(N);
    proc.process(l, r, N, l, r);
    main[0].set(l, at);
    main[1].set(r, at);
    proc.outputs.forEach((o, k) => {
      outs[k][0].set(o.l.subarray(0, N), at);
      outs[k][1].set(o.r.subarray(0, N), at);
    });
  }
  return { main, outs };
}
const dry = { 'oh.level': -60, 'room.level': -60 };
const loud = (x: Float32Array) => db(peak(x));

test('kit: centre is −3.01 dB on each side of a pair, a half takes the part whole, the hard side all of it', () => {
  const at = (out: string, pan: number) =>
    play('kit', { ...dry, 'p1.out': out, 'p1.pan': pan }, [[0, HIT, 0, 0, 127]], 0.4).outs[0];
  const whole = at('1L', 0);
  expect(loud(whole[0])).toBeCloseTo(-6.02, 1);
  expect(peak(whole[1])).toBe(0);
  for (const side of at('1', 0)) expect(loud(side) - loud(whole[0])).toBeCloseTo(-3.01, 2);
  const right = at('1', 100);
  expect(loud(right[1]) - loud(whole[0])).toBeCloseTo(0, 2);
  expect(peak(right[0])).toBeLessThan(1e-9);
});

test('kit: half the velocity is 12 dB less; level and output trim are in dB; the same hit at another rate is as loud and lasts as long', () => {
  const hit = (velocity: number, params: Params = {}, fs = 48000) =>
    play('kit', { ...dry, 'p1.out': '1L', ...params }, [[0, HIT, 0, 0, velocity]], 0.5, fs).outs[0][0];
  const full = hit(126);
  expect(loud(hit(63)) - loud(full)).toBeCloseTo(-12.04, 1);
  expect(loud(hit(126, { 'p1.level': -9 })) - loud(full)).toBeCloseTo(-9, 2);
  expect(loud(hit(126, { t1: 6 })) - loud(full)).toBeCloseTo(6, 2);
  for (const fs of [44100, 96000]) {
    const x = hit(126, {}, fs);
    expect(Math.abs(loud(x) - loud(full))).toBeLessThan(0.3);
    expect(Math.abs(db(rms(x) / rms(full)))).toBeLessThan(0.5);
  }
});

test('kit: a closed hat ends an open one; overheads come later than the close sound and hear every part, the room after them', () => {
  const open = (events: Event[]) =>
    rms(play('kit', { ...dry, 'p7.out': '1L' }, events, 0.6).outs[0][0], 19200, 28800);
  expect(
    db(
      open([
        [0, NOTE_ON, 10, 46, 120],
        [0.3, NOTE_ON, 10, 42, 120],
      ]) / open([[0, NOTE_ON, 10, 46, 120]]),
    ),
  ).toBeLessThan(-30);
  const { outs } = play(
    'kit',
    { 'p2.out': '1L', 'oh.out': '2', 'room.out': '3', 'oh.level': 0, 'room.level': 0 },
    [[0, NOTE_ON, 10, 38, 127]],
    0.5,
  );
  const first = (x: Float32Array) => x.findIndex((v) => Math.abs(v) > 1e-4) / 48;
  expect(first(outs[1][0]) - first(outs[0][0])).toBeCloseTo(2.6, 0);
  expect(first(outs[2][0])).toBeGreaterThan(first(outs[1][0]) + 5);
  for (const key of [36, 38, 42, 45, 49, 51, 70]) {
    expect(
      peak(play('kit', { 'oh.out': '2' }, [[0, NOTE_ON, 10, key, 127]], 0.3).outs[1][0]),
    ).toBeGreaterThan(1e-3);
  }
});

test('parts player: a part hears its own port, channel and keys alone, of sixteen', () => {
  const params = {
    'p1.channel': 16,
    'p1.port': 'C',
    'p1.low': 48,
    'p1.high': 60,
    'p1.out': '1L',
    'p2.channel': 15,
    'p2.port': 'C',
    'p2.out': '2L',
  };
  const heard = (channel: number, port: number, key: number) =>
    play('parts', params, [[0, NOTE_ON, channel, key, 100, port]], 0.4)
      .outs.slice(0, 2)
      .map((o) => peak(o[0]) > 0.001);
  expect(heard(16, 2, 60)).toEqual([true, false]);
  expect(heard(15, 2, 60)).toEqual([false, true]);
  expect(heard(16, 0, 60)).toEqual([false, false]);
  expect(heard(16, 2, 61)).toEqual([false, false]);
  expect(heard(16, 2, 47)).toEqual([false, false]);
});

test('damper: notes that are let go while it is down ring until it comes up; 64 is down, 63 is up', () => {
  const ring = (pedal: [number, number][]) =>
    rms(
      play(
        'keys',
        { sound: 'organ' },
        [
          [0, NOTE_ON, 1, 60, 100],
          ...pedal.map(([t, v]): Event => [t, CONTROL, 1, 64, v]),
          [0.3, NOTE_OFF, 1, 60, 0],
        ],
        1,
      ).main[0],
      36000,
      46000,
    );
  const held = ring([[0.1, 64]]);
  const free = ring([]);
  expect(db(free / held)).toBeLessThan(-50);
  expect(db(ring([[0.1, 63]]) / held)).toBeLessThan(-50);
  expect(
    db(
      ring([
        [0.1, 127],
        [0.5, 0],
      ]) / held,
    ),
  ).toBeLessThan(-30);
  expect(db(ring([[0.1, 127]]) / held)).toBeCloseTo(0, 2);
});

test('expression scales by the square, a part’s own number moves it, vibrato moves the pitch and nothing else; foot darkens', () => {
  const level = (value: number, params: Params = {}, number = 11) =>
    rms(
      play(
        'parts',
        { 'p1.sound': 'organ', 'p1.out': '1L', ...params },
        [
          [0, CONTROL, 1, number, value],
          [0.1, NOTE_ON, 1, 60, 100],
        ],
        0.8,
      ).outs[0][0],
      24000,
      36000,
    );
  expect(db(level(64) / level(127))).toBeCloseTo(40 * Math.log10(64 / 127), 1);
  expect(db(level(64, { 'p1.expr': 20 }) / level(127))).toBeCloseTo(0, 2);
  expect(db(level(64, { 'p1.expr': 20 }, 20) / level(127))).toBeCloseTo(40 * Math.log10(64 / 127), 1);
  const tone = (number: number, value: number, f: number) =>
    toneAt(
      play(
        'parts',
        { 'p1.sound': 'concertina', 'p1.out': '1L' },
        [
          [0, CONTROL, 1, number, value],
          [0.1, NOTE_ON, 1, 69, 100],
        ],
        1,
      ).outs[0][0],
      f,
      48000,
      24000,
      48000,
    );
  expect(db(tone(4, 0, 4400) / tone(4, 0, 440)) - db(tone(4, 127, 4400) / tone(4, 127, 440))).toBeLessThan(
    -10,
  );
  expect(db(tone(1, 127, 440) / tone(1, 0, 440))).toBeLessThan(-3);
});

test('bass: the clean way keeps its harmonics, the driven way has more of them, and each goes to its own output', () => {
  const { outs, main } = play(
    'bass',
    { 'clean.out': '1', 'dirty.out': '2', drive: 30 },
    [[0, NOTE_ON, 1, 40, 110]],
    1,
  );
  expect(peak(main[0])).toBe(0);
  const f = 440 * 2 ** ((40 - 69) / 12);
  const high = (x: Float32Array) =>
    db(toneAt(x, f * 15, 48000, 9600, 28800) / toneAt(x, f, 48000, 9600, 28800));
  expect(high(outs[1][0]) - high(outs[0][0])).toBeGreaterThan(12);
  // tried alone, one way sounds alone
  const alone = play('bass', { 'clean.out': '1', 'dirty.out': '2' }, [[0, HIT, 0, 1, 110]], 0.4).outs;
  expect([peak(alone[0][0]), peak(alone[1][0]) > 0.01]).toEqual([0, true]);
});
