/**
 * Doubler, chorus, width, reverb, outboard loop and live meter. Sources: J. S. Abel, P. Huang, "A simple,
 * robust measure of reverberation echo density", AES 121, 2006 (the share of a window that lies over its
 * standard deviation against that of a normal distribution); ISO 3382-1 (decay by backward integration, EDT
 * against T); mid and side as half sum and difference (common practice); ITU-R BS.1770-5 (loudness).
 */
import {
  DEVICE_TYPES,
  LiveMeter,
  METER_READINGS,
  createDevice,
  measureLoudness,
  renderNow,
  rt60,
  type Params,
} from '../../core/index.ts';
import { simulatedRoundTrip } from '../../core/hardware/simulated.ts';

const measureRoundTrip = (unit: string, rate: number) =>
  simulatedRoundTrip(createDevice('outboard', { unit }), rate);
import { voiceOf } from '../../core/devices/voice.ts';
import {
  both,
  clipOf,
  db,
  device,
  difference,
  impulse,
  noise,
  peak,
  rms,
  runDevice,
  sessionWith,
  sine,
  toneAt,
} from '../support/build.ts';

const set = (type: string, over: Params): Params => ({ ...DEVICE_TYPES[type].defaults, ...over });
/** both sides of one device */
const stereo = (type: string, params: Params, l: Float32Array, r = l) => {
  const s = sessionWith([{ id: 'a', clips: [clipOf('x', l.length / 48000)], chain: [device(type, params)] }]);
  return renderNow(s, { sounds: new Map([['x', { l, r }]]), to: l.length / 48000, taps: ['a:pre'] })['a:pre'];
};
const correlation = (a: Float32Array, b: Float32Array, from = 0) => {
  let ab = 0;
  let aa = 0;
  let bb = 0;
  for (let i = from; i < a.length; i++) {
    ab += a[i] * b[i];
    aa += a[i] * a[i];
    bb += b[i] * b[i];
  }
  return ab / Math.sqrt(aa * bb);
};

describe('Reverb without a metallic ring', () => {
  const tail = (type: string) =>
    stereo(
      'reverb',
      set('reverb', { type, decay: 2, mix: 100, damping: 0, preDelay: 0, lowCut: 20, highCut: 20000 }),
      impulse(2.2),
    );
  /** normalised echo density of a window of 20 ms: 1 is as dense as noise */
  const density = (x: Float32Array, at: number) => {
    const n = 960;
    const w = x.subarray(at, at + n);
    const dev = rms(w);
    return w.filter((v) => Math.abs(v) > dev).length / n / 0.3173;
  };
  test.each(['room', 'hall', 'plate', 'chamber'])(
    '%s: echo density grows and reaches that of noise within 150 ms',
    (type) => {
      const [l] = tail(type);
      expect(density(l, 7200)).toBeGreaterThan(0.85);
      for (const at of [14400, 24000, 48000]) expect(density(l, at)).toBeGreaterThan(0.85);
    },
  );
  test.each(['room', 'hall', 'plate', 'chamber'])(
    '%s: a flat decay: every octave from 125 Hz to 8 kHz within 15 %% of the time asked for, no straggling mode',
    (type) => {
      const [l] = tail(type);
      for (const f of [125, 250, 500, 1000, 2000, 4000, 8000]) {
        const band = runDevice(
          'eq',
          set('eq', {
            'b1.on': true,
            'b1.type': 'bandPass',
            'b1.freq': f,
            'b1.q': 1.4,
            'b2.on': true,
            'b2.type': 'bandPass',
            'b2.freq': f,
            'b2.q': 1.4,
          }),
          l,
        );
        expect(Math.abs(rt60(band, 48000) / 2 - 1)).toBeLessThan(0.15);
      }
      // a ringing tone would stand out of the late tail. Noise of that length reaches about 12 times the mean
      // (11 dB); rooms with few modes a little more; a mode that outlives the others passes 100
      const late = l.subarray(48000, 48000 + 24000);
      const power = rms(late) ** 2 * late.length;
      let most = 0;
      for (let k = 60; k < 6000; k += 7) {
        const f = k * 2;
        most = Math.max(most, ((toneAt(late, f, 48000) * late.length) / 2) ** 2 / power);
      }
      expect(10 * Math.log10(most)).toBeLessThan(16);
    },
  );
});

describe('Doubler', () => {
  test.each(['2', '3', '4'])(
    '%s voices: each as far out of tune as it says, none in tune, mean zero',
    (voices) => {
      const p = set('doubler', { voices, detune: 20, mix: 100, spread: 0 });
      const cents = Array.from({ length: Number(voices) }, (_, k) => voiceOf(p, k).cents);
      expect(Math.max(...cents.map(Math.abs))).toBeCloseTo(20, 6);
      for (const c of cents) expect(Math.abs(c)).toBeGreaterThan(2);
      const out = runDevice('doubler', p, sine(1000, 0.5, 4));
      // each voice is a tone at 1000 Hz × 2^(cents/1200); together they leave little at 1000 Hz itself
      for (const c of cents) {
        expect(toneAt(out, 1000 * 2 ** (c / 1200), 48000, 48000, 192000)).toBeGreaterThan(0.05);
      }
      expect(toneAt(out, 1000, 48000, 48000, 192000)).toBeLessThan(0.06);
    },
  );
  test('spread puts the copies to the sides, the dry sound stays in the middle; no copy is at the dry sound’s time', () => {
    const x = noise(0.5, 0.3, 3);
    const [l, r] = stereo('doubler', set('doubler', { mix: 100, spread: 100, detune: 0 }), x);
    expect(Math.abs(correlation(l, r, 4800))).toBeLessThan(0.2);
    const [a, b] = stereo('doubler', set('doubler', { mix: 0 }), x);
    expect([difference(a, x), difference(b, x)]).toEqual([0, 0]);
    expect(
      peak(
        stereo('doubler', set('doubler', { mix: 100, delay: 20, detune: 0 }), impulse(0.2))[0].subarray(
          0,
          480,
        ),
      ),
    ).toBeLessThan(0.01);
  });
});

describe('Chorus', () => {
  test('the swing: a tone’s pitch moves by the slope of the delay, 2π × rate × depth (Doppler)', () => {
    // delay = d + depth · sin: the largest slope is 2π · rate · depth; at 3 ms and 1 Hz that is 1.885 % of
    // the frequency
    const out = runDevice(
      'chorus',
      set('chorus', { rate: 1, depth: 3, delay: 10, feedback: 0, mix: 100 }),
      sine(1000, 0.5, 3),
    );
    const periods: number[] = [];
    let last = -1;
    for (let i = 24001; i < out.length; i++) {
      if (out[i - 1] <= 0 && out[i] > 0) {
        const at = i - 1 - out[i - 1] / (out[i] - out[i - 1]);
        if (last > 0) periods.push(at - last);
        last = at;
      }
    }
    const f = periods.map((n) => 48000 / n);
    expect(Math.max(...f) / 1000 - 1).toBeCloseTo(0.01885, 3);
    expect(1 - Math.min(...f) / 1000).toBeCloseTo(0.01885, 3);
  });
  test('short delays with feedback comb: a flanger’s notches lie at odd halves of 1/delay', () => {
    const at = (f: number) => {
      const x = sine(f, 0.3, 1);
      return (
        rms(
          runDevice('chorus', set('chorus', { rate: 0.02, depth: 0, delay: 1, feedback: 0, mix: 50 }), x),
          24000,
        ) / rms(x)
      );
    };
    expect(db(at(1500) / at(1000))).toBeLessThan(-20);
    expect(db(at(2500) / at(2000))).toBeLessThan(-20);
  });
});

describe('Width', () => {
  const l = noise(0.5, 0.3, 5);
  const r = noise(0.5, 0.3, 6);
  const mid = (a: Float32Array, b: Float32Array) => a.map((v, i) => (v + b[i]) / 2);
  const side = (a: Float32Array, b: Float32Array) => a.map((v, i) => (v - b[i]) / 2);
  test.each([0, 50, 100, 200])('%i %%: the middle stays, the sides are scaled by it', (width) => {
    const [a, b] = stereo('width', set('width', { width }), l, r);
    expect(difference(mid(a, b), mid(l, r))).toBeLessThan(1e-6);
    expect(
      difference(
        side(a, b),
        side(l, r).map((v) => (v * width) / 100),
      ),
    ).toBeLessThan(1e-6);
  });
  test('lows in the middle: sides are gone two octaves under the frequency and whole two octaves over it', () => {
    const p = set('width', { lows: true, below: 200 });
    for (const [f, low, high] of [
      [50, -60, -20],
      [800, -1, 0.5],
    ] as const) {
      const x = sine(f, 0.3, 1);
      const [a, b] = stereo(
        'width',
        p,
        x,
        x.map((v) => -v),
      );
      const d = db(toneAt(side(a, b), f, 48000, 24000, 48000) / 0.3);
      expect(d).toBeGreaterThan(low);
      expect(d).toBeLessThan(high);
    }
  });
});

describe('Outboard loop', () => {
  test.each(['wire', 'compressor', 'spring'])(
    '%s: the measured round trip, taken as its latency, puts the return where the dry sound is',
    (unit) => {
      const ms = Math.round(measureRoundTrip(unit, 48000) * 100) / 100;
      expect(ms).toBeGreaterThan(5);
      const x = impulse(0.3);
      const out = runDevice('outboard', set('outboard', { unit, roundTrip: ms, mix: 100 }), x);
      if (unit !== 'spring') expect(out.findIndex((v) => Math.abs(v) > 0.2)).toBe(0);
      // a mix of both does not comb through a cable: a wrong round trip would
      if (unit === 'wire') {
        expect(
          difference(
            runDevice('outboard', set('outboard', { unit, roundTrip: ms, mix: 50 }), noise(0.2)),
            noise(0.2),
          ),
        ).toBeLessThan(1e-6);
      }
    },
  );
  test('another rate: the round trip is measured in time, not assumed', () =>
    expect(Math.abs(measureRoundTrip('wire', 96000) * 2 - measureRoundTrip('wire', 48000))).toBeLessThan(
      0.05,
    ));
});

test('the live meter agrees with the measure of the whole: loudness within 0.1 LU, true peak within 0.1 dB, correlation of what is known', () => {
  const fs = 48000;
  const l = sine(997, 0.25, 6).map((v, i) => v * (i < 144000 ? 1 : 0.3));
  const r = noise(6, 0.1, 8);
  const m = new LiveMeter(fs, 128);
  const a = new Float64Array(128);
  const b = new Float64Array(128);
  for (let at = 0; at < l.length; at += 128) {
    a.set(l.subarray(at, at + 128));
    b.set(r.subarray(at, at + 128));
    m.take(a, b, Math.min(128, l.length - at));
  }
  const whole = measureLoudness([l, r], fs);
  const read = (label: (typeof METER_READINGS)[number]) => m.readings[METER_READINGS.indexOf(label)];
  expect(Math.abs(read('integrated') - whole.integrated)).toBeLessThan(0.1);
  expect(Math.abs(read('true peak') - whole.truePeak)).toBeLessThan(0.1);
  expect(Math.abs(read('correlation'))).toBeLessThan(0.1);
  for (const [x, y, want] of [
    [l, l, 1],
    [l, l.map((v) => -v), -1],
  ] as const) {
    const k = new LiveMeter(fs, 128);
    for (let at = 0; at < 48000; at += 128) {
      a.set(x.subarray(at, at + 128));
      b.set(y.subarray(at, at + 128));
      k.take(a, b, 128);
    }
    expect(k.readings[6]).toBeCloseTo(want, 6);
  }
  expect(createDevice('meter').params).toEqual({});
  expect(difference(runDevice('meter', {}, both(l).l), l)).toBe(0);
});
