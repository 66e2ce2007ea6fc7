import { leadVoice, type Song } from '../../demo/sounds.ts';
import {
  applyDrop,
  applyFit,
  balanceEq,
  capture,
  createDevice,
  createPreset,
  createRack,
  fitNow,
  measureReference,
  planDrop,
  planFit,
  referenceNow,
  referenceUnder,
  validatePreset,
  validateSession,
  type FitStep,
  type LineReference,
  type Session,
  type Track,
} from '../index.ts';
import { clipOf, device, mediaRef, noise, runDevice, sessionWith } from '../../tests/support/build.ts';

const FS = 48000;
const song = (up = 0): Song => ({
  tempo: 96,
  sampleRate: FS,
  bars: 5,
  chords: [[50, 57, 62, 65]],
  melody: [62, 65, null, 64, 62, 60, null, 57, 62, 67, 65, null, 64, 62, null, null].map((n) =>
    n === null ? null : n + up,
  ),
  seed: 7,
});
const db = (v: number) => 10 ** (v / 20);
/** The demo's voice, on noise. */
function voice({ gain = 0, floor = -62, up = 0, sibilants = 6200 } = {}): Float32Array {
  const [x] = leadVoice(song(up), sibilants);
  const hum = noise(x.length / FS, Math.sqrt(3) * db(floor), 5);
  return x.map((v, i) => db(gain) * (v + hum[i]));
}
const chain = () => [
  device('trim', {}, { id: 'trim', name: 'Level in' }),
  device('eq', { 'b1.on': true, 'b1.type': 'highPass', 'b1.freq': 90 }, { id: 'hp', name: 'Clean up' }),
  device('gate', { threshold: -52, range: -20 }, { id: 'gate', name: 'Room out' }),
  device('deesser', { frequency: 5500, threshold: -34 }, { id: 'ess', name: 'Sibilance' }),
  device('compressor', { threshold: -30, ratio: 3 }, { id: 'comp', name: 'Even' }),
  device('multiband', { 'b2.threshold': -34, 'b3.threshold': -40 }, { id: 'multi', name: 'Bands' }),
  device('limiter', { threshold: -9 }, { id: 'lim', name: 'Catch' }),
];
const lineOf = (x: Float32Array, over: Partial<Track> = {}) => {
  const sounds = new Map([['x', { l: x, r: x }]]);
  const clip = { ...clipOf('x'), length: x.length / FS };
  const line = { id: 'v', name: 'Voice', channels: 1 as const, clips: [clip], chain: chain(), ...over };
  const media = [{ ...mediaRef('x', x.length), channels: 1 as const }];
  return { s: sessionWith([line], { media }), sounds };
};
const made = lineOf(voice());
const reference = referenceNow(made.s, 'v', made.sounds)!;
const fitted = (x: Float32Array, over: Partial<Track> = {}, to: LineReference | null = reference) => {
  const { s, sounds } = lineOf(x, over);
  return { ...fitNow(s, 'v', to, sounds), s, sounds };
};
const step = (steps: readonly FitStep[], path: string) => steps.find((x) => x.path === path);
const after = (s: Session, steps: readonly FitStep[]): Session => ({
  ...s,
  tracks: s.tracks.map((t) => (t.id === 'v' ? applyFit(t, steps) : t)),
});
const means = (s: Session, sounds: typeof made.sounds) =>
  Object.fromEntries(referenceNow(s, 'v', sounds)!.devices.map((d) => [d.id, d.bands ?? [d.mean]]));

test('what is remembered: the sound before the chain, and what each device did with it', async () => {
  expect(await measureReference(made.s, 'v', made.sounds)).toEqual(reference);
  expect(reference.seconds).toBeGreaterThan(6);
  expect(reference.floor).toBeGreaterThan(-63);
  expect(reference.floor).toBeLessThan(-60);
  // the melody goes from A3 to G4
  expect(reference.pitch!.low).toBeGreaterThan(205);
  expect(reference.pitch!.high).toBeLessThan(410);
  expect(Math.abs(reference.sibilance!.frequency / 6200 - 1)).toBeLessThan(0.05);
  expect(reference.thirds).toHaveLength(23);
  expect(reference.devices.map((d) => d.type)).toEqual([
    'gate',
    'deesser',
    'compressor',
    'multiband',
    'limiter',
  ]);
  const by = Object.fromEntries(reference.devices.map((d) => [d.type, d]));
  expect(by.compressor.mean).toBeGreaterThan(1);
  expect(by.compressor.deep).toBeGreaterThan(by.compressor.mean);
  expect(by.multiband.bands).toHaveLength(3);
});

test('fitted to the very sound that it was made with, nothing is proposed', async () => {
  expect(await planFit(made.s, 'v', reference, made.sounds)).toEqual([]);
  const { steps, refused, balance } = fitted(voice());
  expect([steps, refused]).toEqual([[], []]);
  expect(balance!.words).toEqual([]);
});

test('9 dB softer: +9.0 dB of level in, and every device takes what it took', () => {
  const { steps, s, sounds } = fitted(voice({ gain: -9 }));
  expect(step(steps, 'trim/gain')!.to).toBeCloseTo(9, 1);
  expect(steps.map((x) => x.path)).toEqual(['trim/gain']);
  const [was, now] = [means(made.s, made.sounds), means(after(s, steps), sounds)];
  for (const id of ['ess', 'comp', 'multi', 'lim']) {
    was[id].forEach((v, i) => expect(Math.abs(now[id][i] - v)).toBeLessThan(0.2));
  }
});

test('where there is no trim before the devices the line gets one of its own', () => {
  const bare = { chain: chain().slice(2) };
  const home = lineOf(voice(), bare);
  const to = referenceNow(home.s, 'v', home.sounds);
  const { steps, s, sounds } = fitted(voice({ gain: -9 }), bare, to);
  expect(steps).toMatchObject([{ path: 'inputTrim', device: null, from: 0 }]);
  expect(steps[0].to).toBeCloseTo(9, 1);
  const done = after(s, steps);
  expect(validateSession(done)).toEqual([]);
  expect(done.tracks[0].inputTrim).toBeCloseTo(9, 1);
  expect(fitNow(done, 'v', to, sounds).steps).toEqual([]);
});

test('12 dB more noise: the gate goes up by 12 ± 1, and stays under the soft phrases', () => {
  const { steps } = fitted(voice({ floor: -50 }));
  const gate = step(steps, 'gate/threshold')!;
  expect(Math.abs(gate.to - gate.from - 12)).toBeLessThan(1);
  expect(gate.reason).toMatch(/^The noise between the phrases lies at −\d+\.\d dB; it lay at −\d+\.\d dB\.$/);
});

test('5 semitones higher: the high-pass moves by 2^(5/12) ± 3 %', () => {
  const { steps } = fitted(voice({ up: 5 }));
  const pass = step(steps, 'hp/b1.freq')!;
  expect(Math.abs(pass.to / pass.from / 2 ** (5 / 12) - 1)).toBeLessThan(0.03);
});

test('sibilants at 7.4 kHz instead of 6.2 are found ± 5 %, and taken down as much', () => {
  const { steps, s, sounds } = fitted(voice({ sibilants: 7400 }));
  const at = step(steps, 'ess/frequency')!;
  expect(Math.abs(at.to / 7400 - 1)).toBeLessThan(0.05);
  const [was, now] = [means(made.s, made.sounds).ess[0], means(after(s, steps), sounds).ess[0]];
  expect(Math.abs(now - was)).toBeLessThan(0.2);
});

test('another voice altogether: what is proposed makes the devices take what they took', () => {
  const other = voice({ gain: -5, floor: -55, up: -4, sibilants: 7000 });
  // darker, and with more swing
  const x = other.map((v, i) => v * (1 + 0.5 * Math.sin(i / 9000)) + 0.6 * (other[i - 1] ?? 0));
  const { steps, s, sounds, balance } = fitted(x);
  const [was, now] = [means(made.s, made.sounds), means(after(s, steps), sounds)];
  for (const id of ['ess', 'comp', 'multi', 'lim']) {
    was[id].forEach((v, i) => expect(Math.abs(now[id][i] - v)).toBeLessThan(0.25));
  }
  for (const one of steps) expect(one.reason).not.toBe('');
  expect(fitNow(after(s, steps), 'v', reference, sounds).steps.length).toBeLessThanOrEqual(1);
  const eq = balanceEq(balance!);
  expect(eq.state).toBe('inactive');
});

test('balance: a bell of 6 dB at 250 Hz is heard there; its EQ, once it is on, takes it away', () => {
  const bell = {
    ...createDevice('eq').params,
    'b1.on': true,
    'b1.type': 'bell',
    'b1.freq': 250,
    'b1.gain': 6,
  };
  const dark = runDevice('eq', { ...bell, 'b1.q': 0.9 }, voice());
  const { balance } = fitted(dark);
  expect(balance!.words[0]).toMatch(/^[3-6] dB more at (200|251|316) Hz than the voice this was made for$/);
  const eq = balanceEq(balance!);
  expect(eq.state).toBe('inactive');
  const back = fitted(runDevice('eq', eq.params, dark));
  const largest = (d: readonly number[]) => Math.max(...d.map(Math.abs));
  expect(largest(back.balance!.difference)).toBeLessThan(0.6 * largest(balance!.difference));
});

test('what cannot be told is refused with the reason', async () => {
  expect(fitted(voice(), {}, null).refused[0].reason).toMatch(/saved without sound/);
  const short = voice().slice(0, 2 * FS);
  expect(fitted(short).refused[0].reason).toMatch(/Only [\d.]+ s of it sound; 3 s are needed/);
  const hiss = noise(10, 0.05, 3);
  const { refused, steps } = fitted(hiss);
  expect(refused.map((r) => r.label)).toContain('Clean up');
  expect(steps.some((x) => x.path.startsWith('hp/'))).toBe(false);
  expect(fitted(voice({ gain: -40, floor: -100 })).refused[0].reason).toMatch(/more than there is/);
  await expect(planFit(made.s, 'gone', reference, made.sounds)).rejects.toThrow(/not in the session/);
  await expect(measureReference(made.s, 'gone', made.sounds)).rejects.toThrow(/not in the session/);
  const silent = lineOf(new Float32Array(10 * FS));
  expect(referenceNow(silent.s, 'v', silent.sounds)).toBeNull();
});

test('a device that listens to another line is left alone', () => {
  const keyed = chain().map((d) =>
    d.id === 'comp' ? { ...d, key: { kind: 'track' as const, track: 'k', tap: 'post' as const } } : d,
  );
  const { s, sounds } = lineOf(voice({ gain: -9 }), { chain: keyed });
  const [line, master] = s.tracks;
  const key = { ...line, id: 'k', name: 'K', chain: [], clips: [] };
  const { refused } = fitNow({ ...s, tracks: [line, key, master] }, 'v', reference, sounds);
  expect(refused).toMatchObject([{ label: 'Even', reason: expect.stringContaining('another line') }]);
});

test('a device in a rack is fitted by what comes into its strand', () => {
  const comp = device('compressor', { threshold: -30 }, { id: 'in' });
  const rack = createRack('Two ways', [comp]);
  const inRack = { chain: [rack] };
  const home = lineOf(voice(), inRack);
  const to = referenceNow(home.s, 'v', home.sounds);
  const louder = voice().map((v, i) => v * (1 + 0.8 * Math.sin(i / 9000)));
  const { steps, s, sounds } = fitted(louder, inRack, to);
  const [was, now] = [means(home.s, home.sounds), means(after(s, steps), sounds)];
  expect(Math.abs(now.in[0] - was.in[0])).toBeLessThan(0.25);
});

test('on the drop: ticked it is adapted and told, unticked it is as it was saved; the line’s own trim comes too', () => {
  const bare = { chain: chain().slice(2) };
  const home = lineOf(voice(), bare);
  const draft = capture(home.s, ['v']);
  const told = referenceUnder(referenceNow(home.s, 'v', home.sounds)!, draft.ids);
  const withLines = (line: LineReference) =>
    createPreset(
      { ...draft, reference: { ...draft.reference, lines: { t1: line } } },
      { id: 'p', name: 'P' },
    );
  const preset = withLines(told);
  expect(validatePreset(preset)).toEqual([]);
  expect(validatePreset(withLines({ ...told, devices: [{ id: 'x' }] as never }))).toHaveLength(1);
  const here = lineOf(voice({ gain: -9, floor: -55 }), { chain: [] });
  const place = { kind: 'onto' as const, track: 'v', chain: 'replace' as const };
  const first = planDrop(here.s, preset, { place });
  const found = fitNow(applyDrop(here.s, first, preset).session, 'v', told, here.sounds);
  const localOf = new Map(Object.entries(first.ids).map(([local, id]) => [id, local]));
  const fit = found.steps.map((s) => ({
    ...s,
    path: s.device ? `${localOf.get(s.device)}/${s.param}` : s.param,
  }));
  expect(fit.map((f) => f.path)).toContain('inputTrim');
  const drop = (on: boolean) => {
    const plan = planDrop(here.s, preset, { place, fit: fit.map((f) => ({ ...f, on })) });
    return applyDrop(here.s, plan, preset);
  };
  const ticked = drop(true);
  expect(ticked.report.intact).toBe(true);
  expect(ticked.report.counts.adapted).toBe(fit.length - 1);
  expect(ticked.session.tracks[0].inputTrim).toBeCloseTo(9, 1);
  expect(fitNow(ticked.session, 'v', told, here.sounds).steps).toEqual([]);
  const plain = drop(false);
  expect([plain.report.intact, plain.session.tracks[0].inputTrim]).toEqual([true, undefined]);
});
