/**
 * What an engineer would hear as dirt, device by device. Sources: S. P. Lipshitz and others, JAES 40(5), 1992 (dither);
 * T. I. Laakso and others, 1996 (fractional delay); the limits are what practitioners asked for.
 */
import { interpolators } from '../../core/devices/interpolate.ts';
import { DEVICE_TYPES, readWav, resample, writeWav, type Params } from '../../core/index.ts';
import { db, impulse, noise, peak, rms, runDevice, sine, stereoDevice, toneAt } from '../support/build.ts';

const set = (type: string, over: Params): Params => ({ ...DEVICE_TYPES[type].defaults, ...over });

describe('16 bit', () => {
  const harmonics = (dither?: 'none' | 'triangular') => {
    const x = sine(1000, 10 ** (-90 / 20), 4);
    const [y] = readWav(writeWav([x], 48000, 16, dither)).channels;
    return Math.max(...[2, 3, 5, 7].map((n) => db(toneAt(y, 1000 * n, 48000, 0, 192000))));
  };
  test('a tone at −90 dBFS has no harmonics unless it is asked to be without dither', () => {
    expect(harmonics('none')).toBeGreaterThan(-106);
    expect(harmonics()).toBeLessThan(-125);
    expect(harmonics('triangular')).toBe(harmonics());
  });
  test('24 bit and floating point are as they were, to the last bit; full scale is held', () => {
    const x = noise(0.1, 0.9);
    const again = readWav(writeWav([x], 48000, 24)).channels[0];
    expect(Math.max(...x.map((v, i) => Math.abs(v - again[i])))).toBeLessThanOrEqual(2 ** -24 * 1.0001);
    expect([...readWav(writeWav([x], 48000, 'float')).channels[0]]).toEqual([...x]);
    expect(peak(readWav(writeWav([new Float32Array(2000).fill(1.5)], 48000, 16)).channels[0])).toBeLessThan(
      1,
    );
  });
});

test('96 to 48 kHz: what lies over half the rate does not come back under −120 dB, 20 kHz passes', () => {
  for (const f of [24100, 24500, 26000, 30000, 40000]) {
    const y = resample(sine(f, 1, 1, 96000), 96000, 48000).slice(4000, 44000);
    expect([f, db(rms(y)) < -120]).toEqual([f, true]);
  }
  for (const [from, to] of [
    [96000, 48000],
    [44100, 48000],
    [48000, 44100],
  ]) {
    const y = resample(sine(20000, 0.5, 1, from), from, to);
    expect(Math.abs(db(toneAt(y, 20000, to, to / 4, to / 2) / 0.5))).toBeLessThan(0.02);
  }
});

test.each(['chorus', 'doubler'])('%s: its copies keep their highs, 1 dB at most at 20 kHz', (type) => {
  const level = (f: number, revision: number) => {
    const wet = set(type, { mix: 100, ...(type === 'chorus' ? { feedback: 0 } : {}) });
    const [l, r] = stereoDevice(type, wet, sine(f, 0.5, 3), { revision });
    return db(Math.hypot(rms(l, 48000), rms(r, 48000)));
  };
  for (const [f, most] of [
    [10000, 0.15],
    [15000, 0.3],
    [20000, 1],
  ]) {
    expect(Math.abs(level(f, 2) - level(1000, 2))).toBeLessThan(most);
  }
  expect(level(1000, 1) - level(20000, 1)).toBeGreaterThan(2);
});

test('gate: 2 ms of lookahead and half a millisecond of attack let the first sample through whole', () => {
  const params = set('gate', { lookahead: 2, attack: 0.5, range: -80, ratio: 100, threshold: -40 });
  const x = new Float32Array(48000);
  for (let i = 24000; i < 48000; i++) x[i] = 0.5;
  const y = runDevice('gate', params, x);
  expect(Math.abs(db(y[24000] / 0.5))).toBeLessThan(0.1);
  // a slow attack is slow all the same
  const slow = runDevice('gate', { ...params, attack: 20 }, x);
  expect(db(slow[24000] / 0.5)).toBeLessThan(-20);
});

test.each(['split', 'wide'])('de-esser (%s): the meter says what is taken', (mode) => {
  for (const f of [5500, 7000, 9000, 12000]) {
    const spec = DEVICE_TYPES.deesser;
    const params = set('deesser', { mode, frequency: 5000, threshold: -40, range: -9 });
    const proc = spec.create(params, { sampleRate: 48000, tempo: 120, maxBlock: 256 });
    const x = sine(f, 0.3, 1);
    const [l, r] = [new Float64Array(256), new Float64Array(256)];
    let sum = 0;
    for (let at = 0; at + 256 <= x.length; at += 256) {
      for (let i = 0; i < 256; i++) l[i] = r[i] = x[at + i];
      proc.process(l, r, 256, l, r);
      if (at > 24000) for (let i = 0; i < 256; i++) sum += l[i] * l[i];
    }
    const blocks = Math.ceil((x.length - 24000) / 256) - 1;
    const taken = 10 * Math.log10(sum / (blocks * 256) / (0.045 + 1e-12));
    expect([f, Math.abs(proc.reduction - taken) < 0.5, proc.reduction, taken]).toEqual([
      f,
      true,
      proc.reduction,
      taken,
    ]);
  }
});

describe('delay', () => {
  const wet = { mix: 100, feedback: 0, lowCut: 16, highCut: 24000, mode: 'ms', time: 300 };
  /** dB between the loudest and the quietest tenth of a millisecond of a tone's envelope, from a moment on */
  const flutter = (y: Float32Array, f: number, from: number, to: number) => {
    const period = Math.round(48000 / f);
    const tops: number[] = [];
    for (let i = from; i < to; i += period) tops.push(peak(y.slice(i, i + period)));
    return db(Math.min(...tops) / Math.max(...tops));
  };
  test('a time that is turned for a second glides without a flutter, its pitch bent; a jump waits and fades once', () => {
    const turned = (t: number, p: Params) => ({ ...p, time: 300 + 60 * Math.min(1, Math.max(0, t - 1)) });
    const x = sine(1000, 0.5, 4);
    const glide = runDevice('delay', set('delay', { ...wet, move: 'glide' }), x, { change: turned });
    expect(flutter(glide, 1000, 30000, 180000)).toBeGreaterThan(-0.2);
    // 60 ms in a second: the echo runs at 0.94 of the speed
    expect(db(toneAt(glide, 940, 48000, 72000, 91200) / 0.5)).toBeGreaterThan(-1);
    const jump = runDevice('delay', set('delay', { ...wet, move: 'jump' }), x, { change: turned });
    expect(flutter(jump, 1000, 30000, 96000)).toBeGreaterThan(-0.2);
    const later = runDevice('delay', set('delay', { ...wet, move: 'jump' }), impulse(3), { change: turned });
    expect(later.findIndex((v) => Math.abs(v) > 0.5)).toBe(14400);
  });
  test('once it rests it is exactly where it should be', () => {
    const x = impulse(4).fill(0);
    x[2 * 48000] = 1;
    for (const move of ['glide', 'jump']) {
      const y = runDevice('delay', set('delay', { ...wet, move }), x, {
        change: (t, p) => ({ ...p, time: t < 0.2 ? 300 : 410 }),
      });
      expect(y.findIndex((v) => Math.abs(v) > 0.5)).toBe(2 * 48000 + 0.41 * 48000);
    }
  });
  test('the most feedback ends under full scale, quiet echoes are what they were', () => {
    const loud = set('delay', { ...wet, time: 20, feedback: 98 });
    expect(peak(runDevice('delay', loud, sine(50, 1, 6)))).toBeLessThanOrEqual(1);
    const x = new Float32Array(48000 * 6);
    x.set(sine(50, 0.9, 2));
    expect(peak(runDevice('delay', loud, x).slice(96000 + 960 * 3))).toBeLessThan(1);
    const burst = new Float32Array(48000);
    burst.set(sine(500, 0.4, 0.08));
    const echoes = runDevice('delay', set('delay', { ...wet, time: 100, feedback: 50 }), burst);
    [1, 0.5, 0.25, 0.125].forEach((v, k) => {
      const from = (k + 1) * 4800;
      expect(Math.abs(db(toneAt(echoes, 500, 48000, from + 960, from + 2880) / 0.4 / v))).toBeLessThan(0.2);
    });
  });
});

describe('Limiter', () => {
  /** dB, at sixteen places between two samples, each interpolated from 192 samples (near the ideal filter) */
  function peakBetween(y: Float32Array): number {
    const half = 96;
    let top = 0;
    for (const h of interpolators(16, half)) {
      for (let i = 4800; i < 14000; i++) {
        let sum = 0;
        for (let j = 0; j < 2 * half; j++) sum += h[j] * y[i + j];
        top = Math.max(top, Math.abs(sum));
      }
    }
    return db(top);
  }
  const limited = (over: Params, revision: number, x: Float32Array) =>
    runDevice('limiter', set('limiter', { ceiling: -1, ...over }), x, { revision });

  test('full-band noise stays within 0.2 dB of the ceiling at sixteen times the rate', () => {
    const x = noise(0.35, 1, 11);
    for (const over of [
      { threshold: -3, release: 80, lookahead: 3 },
      { threshold: -12, release: 1, lookahead: 0.5 },
      { threshold: -24, release: 10, lookahead: 3 },
    ]) {
      expect(peakBetween(limited(over, 2, x))).toBeLessThan(-0.8);
    }
    expect(peakBetween(limited({ threshold: -12 }, 1, x))).toBeGreaterThan(-0.5);
  });

  test('a low note held 5 dB down is not bent by a short release', () => {
    const distortion = (f: number, revision: number) => {
      const y = limited({ threshold: -6, release: 10 }, revision, sine(f, 1, 2));
      const at = (k: number) => toneAt(y, k * f, 48000, 48000, 96000);
      const over = Math.hypot(...Array.from({ length: 18 }, (_, k) => at(k + 2)));
      return db(over / at(1));
    };
    for (const f of [30, 50, 80]) expect(distortion(f, 2)).toBeLessThan(-80);
    expect(distortion(50, 1)).toBeGreaterThan(-40);
  });

  test('after a single peak it is back as fast as its release says', () => {
    const x = sine(1000, 0.1, 1);
    for (let i = 0; i < 24; i++) x[12000 + i] = 1;
    const y = limited({ threshold: -12, release: 20 }, 2, x);
    const free = limited({ threshold: -12, release: 20 }, 2, sine(1000, 0.1, 1));
    const level = (v: Float32Array) => db(rms(v.subarray(12000 + 3840, 12000 + 4800)));
    expect(Math.abs(level(y) - level(free))).toBeLessThan(0.6);
  });
});
