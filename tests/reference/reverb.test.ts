/**
 * The reverb as a room. Sources: J. S. Abel, P. Huang, "A simple, robust measure of reverberation echo density", AES 121,
 * 2006; M. R. Schroeder, Acustica 4, 1954 (a diffuse field's spectrum deviates by 5.6 dB); ISO 3382-1 (decay by backward
 * integration). The limits are what practitioners asked for.
 */
import {
  DEVICE_TYPES,
  denseFrom,
  echoDensity,
  repetition,
  rt60,
  spectralDeviation,
  type Params,
} from '../../core/index.ts';
import { OCTAVE_HIGH as HIGH, OCTAVE_LOW as LOW, octave } from '../support/octave.ts';
import { statedDecay } from '../../core/devices/reverb/scattering.ts';
import { db, impulse, noise, rms, stereoDevice, toneAt } from '../support/build.ts';

const TYPES = ['room', 'hall', 'plate', 'chamber'] as const;
const set = (over: Params): Params => ({ ...DEVICE_TYPES.reverb.defaults, preDelay: 0, mix: 100, ...over });
const open = { lowCut: 16, highCut: 24000 };
const answer = (over: Params, seconds: number) => stereoDevice('reverb', set(over), impulse(seconds));

/**
 * The time that the octave as a whole is measured to decay in, when each of its frequencies decays as stated: slow ones
 * at its lower edge last longest.
 */
function statedOf(params: Params, f: number): number {
  const lines = Array.from({ length: 160 }, (_, i) => {
    const x = (f / 4) * 2 ** (i / 40);
    const power = x / ((1 + (LOW(f) / x) ** 16) * (1 + (x / HIGH(f)) ** 16));
    return { power, time: statedDecay(params, Math.min(x, 20000), 48000) };
  });
  // backward integration (ISO 3382-1) of the sum of their decays, and its slope from −5 to −35 dB
  const level = (t: number) =>
    10 * Math.log10(lines.reduce((sum, { power, time }) => sum + power * time * 10 ** ((-6 * t) / time), 0));
  const curve = Array.from({ length: 1500 }, (_, i) => level(i * 0.002) - level(0));
  const stretch = curve.flatMap((v, i) => (v <= -5 && v >= -35 ? [[i * 0.002, v]] : []));
  const mean = (k: number) => stretch.reduce((sum, p) => sum + p[k], 0) / stretch.length;
  const [t0, v0] = [mean(0), mean(1)];
  const slope =
    stretch.reduce((sum, [t, v]) => sum + (t - t0) * (v - v0), 0) /
    stretch.reduce((sum, [t]) => sum + (t - t0) ** 2, 0);
  return -60 / slope;
}

describe.each(TYPES)('%s', (type) => {
  test('is heard at once, and as dense as noise within 20 ms (a hall: 80 ms); it stays so', () => {
    const soon = type === 'hall' ? 0.08 : 0.02;
    for (const side of answer({ type, decay: 1.6 }, 1)) {
      expect(side.findIndex((x) => Math.abs(x) > 1e-4)).toBeLessThan(0.005 * 48000);
      expect(denseFrom(side, 48000)).toBeLessThanOrEqual(soon + 0.0005);
      for (const at of [1.5, 2, 3, 6]) expect(echoDensity(side, soon * at, 48000)).toBeGreaterThan(0.85);
    }
  });

  test('its late spectrum deviates as in a diffuse field, and its tail does not repeat itself', () => {
    for (const side of answer({ type, decay: 2, damping: 0, ...open }, 2)) {
      expect(Math.abs(spectralDeviation(side, 0.5, 2, 48000) - 5.6)).toBeLessThan(2);
      expect(repetition(side, 0.5, 2, 48000)).toBeLessThan(0.15);
    }
  });

  test.each([0, 40, 100])('damping %d: every octave decays as stated, 63 Hz to 8 kHz', (damping) => {
    // few modes make up a low octave: what is measured there is the mean of both sides
    const p = { type, decay: 2, damping, ...open };
    const sides = answer(p, 2.8);
    for (const f of [63, 125, 250, 500, 1000, 2000, 4000, 8000]) {
      const stated = statedOf(set(p), f);
      const [a, b] = sides.map((x) => rt60(octave(x, f), 48000));
      expect([f, Math.abs((a + b) / 2 / stated - 1) < 0.1, (a + b) / 2, stated]).toEqual([
        f,
        true,
        (a + b) / 2,
        stated,
      ]);
    }
    expect(statedDecay(set(p), 1000, 48000)).toBeCloseTo(2, 6);
  });

  test('a steady sound is as loud whatever the decay', () => {
    const levels = [0.1, 0.3, 1, 3, 10].map((decay) => {
      const x = noise(1 + 2 * decay, 0.3);
      return db(
        rms(stereoDevice('reverb', set({ type, decay }), x)[0], Math.round((0.5 + 1.4 * decay) * 48000)),
      );
    });
    expect(Math.max(...levels) - Math.min(...levels)).toBeLessThan(1);
  });
});

test('a long low note does not beat: its envelope in a tail of 110 Hz is that of a diffuse field', () => {
  const n = 4 * 48000;
  const x = noise(4).map((_, i) => (i < n / 2 ? 0.3 * Math.sin((2 * Math.PI * 110 * i) / 48000) : 0));
  const [l] = stereoDevice('reverb', set({ type: 'plate', decay: 4, damping: 0, ...open }), x);
  const levels = Array.from({ length: 10 }, (_, k) => {
    const from = n / 2 + k * 4800;
    return db(toneAt(l, 110, 48000, from, from + 4800)) + (60 * k * 0.1) / 4;
  });
  const mean = levels.reduce((a, b) => a + b, 0) / levels.length;
  const deviation = Math.sqrt(levels.reduce((a, v) => a + (v - mean) ** 2, 0) / levels.length);
  expect(deviation).toBeLessThan(5.6);
});
