/** Fingerprints: they see the smallest step of any value, and nothing else. */
import {
  capture,
  createPreset,
  isListed,
  likenessOf,
  makeFingerprint,
  playedAs,
  soundOfPreset,
  type DeviceType,
  type ParamSpec,
  type ParamValue,
  type Params,
  type Preset,
} from '../index.ts';
import { tidy } from '../model/units.ts';
import { useBackend } from '../devices/kernels/index.ts';
import { rows, working } from '../../tests/support/devices.ts';
import { device, sessionWith } from '../../tests/support/build.ts';

/** A line with one device, saved. */
function presetOf(type: string, params: Params, revision?: number): Preset {
  const role = playedAs({ type }).instrument ? ('instrument' as const) : ('audio' as const);
  const chain = [device(type, params, { id: 'd', ...(revision ? { revision } : {}) })];
  const input = role === 'instrument' ? ({ kind: 'midi', port: 'A', channel: 0 } as const) : undefined;
  const s = sessionWith([{ id: 'a', name: 'Line', role, chain, ...(input ? { input } : {}) }]);
  return createPreset(capture(s, ['a']), { id: 'p', name: type });
}

/** ms: what is set in whole samples moves by one of them */
const SAMPLE = 0.03;
/** The value beside this one: the smallest step, another choice, the other way. */
function beside(spec: ParamSpec, v: ParamValue): ParamValue {
  if (spec.kind === 'switch') return !v;
  if (spec.kind === 'choice') return spec.choices!.find((c) => c.id !== v)!.id;
  const here = v as number;
  const at = [0.001, 0.01, 0.1, 1, 10, 100].flatMap((d) => [tidy(spec, here + d), tidy(spec, here - d)]);
  const least = spec.unit === 'ms' ? SAMPLE : 0;
  return at.find((x) => x !== here && Math.abs(x - here) >= least)!;
}

/** Settings in which each value of a device is heard. */
const audible: Record<string, Params> = {
  compressor: { threshold: -40, ratio: 4, keyFilter: true, mix: 60, link: 50, keyHigh: 3000 },
  gate: { threshold: -25, ratio: 3, keyFilter: true, range: -30, keyHigh: 3000, hold: 5 },
  limiter: { threshold: -18, truePeak: true },
  delay: { mode: 'ms', time: 90, feedback: 40, mix: 50 },
  width: { width: 150, lows: true },
  pitchcorrect: { amount: 80, speed: 20, scale: 'major' },
  doubler: { voices: '4' },
  convolution: { highCut: 9000, length: 60 },
};
/** Values that are heard only while others move. */
const unheard: Record<string, string[]> = { delay: ['move'] };
const first = (spec: ParamSpec) => spec.kind !== 'text' && !/^[bplt](?:[2-9]|\d\d)/.test(spec.id);

const effects = rows.filter(([, d]) => !d.instrument && !d.pattern && d.params.length > 0);
test.each(effects)('%s: the smallest step of each value is seen', async (_, d: DeviceType) => {
  const params = { ...working(d), ...audible[d.type] };
  const then = await makeFingerprint(presetOf(d.type, params));
  const missed: string[] = [];
  for (const spec of d.params.filter((p) => first(p) && isListed({ type: d.type, params }, p.id))) {
    if (unheard[d.type]?.includes(spec.id)) continue;
    const changed = { ...params, [spec.id]: beside(spec, params[spec.id] ?? spec.default) };
    const found = likenessOf(then, await makeFingerprint(presetOf(d.type, changed)));
    if (found.verdict !== 'different') {
      missed.push(`${spec.id} ${String(params[spec.id])}: ${found.difference}`);
    }
  }
  expect(missed).toEqual([]);
});

test.each(rows.filter(([, d]) => !d.pattern))('%s: other kernels and blocks leave it equal', async (_, d) => {
  const p = presetOf(d.type, { ...working(d), ...audible[d.type] });
  const then = await makeFingerprint(p);
  try {
    useBackend('plain');
    expect(likenessOf(then, await makeFingerprint(p, { block: 128 })).verdict).toBe('equal');
  } finally {
    useBackend('simd');
  }
});

test('it stays under 4 KB, whatever is in the preset', async () => {
  const many = Array.from({ length: 3 }, (_, i) => ({
    id: `t${i}`,
    chain: rows.filter(([, d]) => !d.instrument && !d.pattern).map(([, d]) => device(d.type)),
  }));
  const p = createPreset(
    capture(
      sessionWith(many),
      many.map((t) => t.id),
    ),
    { id: 'p', name: 'Many' },
  );
  expect(JSON.stringify(await makeFingerprint(p)).length).toBeLessThan(4096);
});

test('a difference is told with its level, its bands and the device whose sound changed', async () => {
  const bell = { 'b5.on': true, 'b5.freq': 2000, 'b5.gain': 0, 'b5.q': 1 };
  const then = await makeFingerprint(presetOf('eq', bell));
  const louder = likenessOf(then, await makeFingerprint(presetOf('eq', { ...bell, 'b5.gain': 6 })));
  expect(louder.bands[0].band).toBeCloseTo(1995, -1);
  expect(louder.bands[0].by).toBeCloseTo(6, 0);
  expect(louder.louder).toBeGreaterThan(0.5);
  // a gain of 1 dB everywhere is a difference of 20·log10(10^(1/20) − 1) dB
  const trim = await makeFingerprint(presetOf('trim', {}));
  const up = likenessOf(trim, await makeFingerprint(presetOf('trim', { gain: 1 })));
  expect(up.difference).toBeCloseTo(-18.27, 0);
  expect([up.louder, up.higher].map((v) => Math.round(v * 10) / 10)).toEqual([1, 1]);
  const verb = await makeFingerprint(presetOf('reverb', {}, 1));
  const now = likenessOf(verb, await makeFingerprint(presetOf('reverb', {})));
  expect(now.verdict).toBe('different');
  expect(now.sounds).toEqual([{ type: 'reverb', then: 1, now: 2 }]);
});

test('the estimate of a difference is that of the samples, within 2 dB', async () => {
  const [a, b] = [presetOf('compressor', { threshold: -30 }), presetOf('compressor', { threshold: -29.5 })];
  const [x, y] = [await soundOfPreset(a), await soundOfPreset(b)];
  let difference = 0;
  let sound = 0;
  for (let i = 0; i < x.l.length; i++) {
    difference += (x.l[i] - y.l[i]) ** 2 + (x.r[i] - y.r[i]) ** 2;
    sound += x.l[i] ** 2 + x.r[i] ** 2;
  }
  const told = likenessOf(await makeFingerprint(a), await makeFingerprint(b)).difference;
  expect(Math.abs(told - 10 * Math.log10(difference / sound))).toBeLessThan(2);
});
