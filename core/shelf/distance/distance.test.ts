/** Likeness of presets: a measure that can be relied on, and the groups that come of it. */
import fc from 'fast-check';
import { anyKind } from '../../../tests/support/generate.ts';
import {
  ADDABLE,
  capture,
  chainShapes,
  chainsOfShape,
  clone,
  createDevice,
  createPreset,
  createRack,
  createSend,
  createStrand,
  devicesIn,
  fromPosition,
  isListed,
  isUsed,
  nearDuplicates,
  presetDistance,
  presetShape,
  shapesApart,
  toPosition,
  type Device,
  type Lane,
  type Params,
  type Parts,
  type Preset,
  type Slot,
  type Track,
} from '../../index.ts';
import { noteClip, sessionWith } from '../../../tests/support/build.ts';

/** A preset of one line with these devices. */
function strip(chain: Slot[], name = 'Strip'): Preset {
  const s = sessionWith([{ id: 'a', name: 'Voice', chain }]);
  return createPreset(capture(s, ['a']), { id: name, name });
}
const renamed = (p: Preset): Preset => {
  const other = {
    ...clone(p),
    id: 'other',
    name: 'Quite another',
    category: 'Elsewhere',
    tags: ['x'],
    note: 'n',
  };
  for (const t of [...other.content.tracks, ...other.content.spares]) {
    t.name = `${t.name} again`;
    t.colour = 'kelp';
    for (const d of t.chain) d.name = `My ${d.name}`;
  }
  return other;
};

test('the same both ways, from 0 to 1; what it is called says nothing, what it does does', () => {
  fc.assert(
    fc.property(anyKind(), anyKind(), (a, b) => {
      const d = presetDistance(a, b);
      expect(d).toBe(presetDistance(b, a));
      expect(d).toBeGreaterThanOrEqual(0);
      expect(d).toBeLessThanOrEqual(1);
      expect([presetDistance(a, a), presetDistance(a, renamed(a))]).toEqual([0, 0]);
    }),
    { numRuns: 150 },
  );
});

/** Every number of every type, as it is set when it is used. */
const numbers = ADDABLE.flatMap((spec) =>
  spec.params
    .filter((p) => p.kind === 'number')
    .map((p) => {
      // whatever has to be on for it
      const on = Object.fromEntries(spec.params.filter((x) => x.kind === 'switch').map((x) => [x.id, true]));
      const params = { ...on, ...(spec.wet ? { [spec.wet]: 60 } : {}) };
      return { type: spec.type, spec: p, device: createDevice(spec.type, params) };
    })
    .filter(({ device, spec: p }) => isUsed(device, p.id)),
);
const moved = (d: Device, id: string, v: number): Device => ({ ...d, params: { ...d.params, [id]: v } });

const PLAIN = strip([]);
test('the further a value is moved, the further apart, whatever value it is; and never 0', () => {
  expect(numbers.length).toBeGreaterThan(150);
  for (const { type, spec, device } of numbers) {
    // a bell that does nothing stands nowhere
    const band = /^(b\d)\.(freq|q)$/.exec(spec.id)?.[1];
    const start = band && type === 'eq' ? moved(device, `${band}.gain`, 6) : device;
    const from = toPosition(spec, start.params[spec.id] as number);
    const beside = [createDevice('trim', { gain: -3 }), createDevice('compressor')];
    const whole = (d: Device): Preset => {
      const { content } = PLAIN;
      const track = { ...content.tracks[0], chain: [beside[0], d, beside[1]] };
      return { ...PLAIN, content: { ...content, tracks: [track] } };
    };
    const before = whole(start);
    for (const end of [0, 1]) {
      let last = 0;
      for (let k = 1; k <= 7; k++) {
        const v = fromPosition(spec, from + ((end - from) * k) / 7);
        const d = presetDistance(before, whole(moved(start, spec.id, v)));
        if (!(d >= last)) throw new Error(`${type}, ${spec.id} at ${v}: ${d} after ${last}`);
        const isMoved = Math.abs(v - (start.params[spec.id] as number)) > 1e-6;
        const isHeard = isMoved && isListed(start, spec.id);
        if (isHeard && !(d > 0)) throw new Error(`${type}, ${spec.id} at ${v}: 0`);
        last = d;
      }
    }
  }
});

test('a chain by what it does: off is not there, order of bands says nothing, filters by their response', () => {
  const eq = (params = {}) => createDevice('eq', params);
  const bands = {
    'b3.on': true,
    'b3.gain': 4,
    'b3.freq': 300,
    'b4.on': true,
    'b4.gain': -5,
    'b4.freq': 3000,
  };
  const swapped = {
    'b4.on': true,
    'b4.gain': 4,
    'b4.freq': 300,
    'b3.on': true,
    'b3.gain': -5,
    'b3.freq': 3000,
  };
  const compressor = createDevice('compressor');
  const off = createDevice('saturator', { drive: 20 }, { state: 'bypassed' });
  const base = strip([eq(bands), compressor]);
  expect(presetDistance(base, strip([eq(swapped), compressor]))).toBe(0);
  expect(presetDistance(base, strip([eq(bands), off, createDevice('meter'), compressor]))).toBe(0);
  // the same gain by another device
  const louder = (d: Device) => strip([d, compressor]);
  expect(presetDistance(louder(eq({ out: 6 })), louder(createDevice('trim', { gain: 6 })))).toBeLessThan(
    0.001,
  );
  // a reverb that nothing comes through of, and one that is heard
  const wet = (mix: number) => strip([eq(bands), compressor, createDevice('reverb', { mix })]);
  const far = [0, 5, 30, 100].map((mix) => presetDistance(base, wet(mix)));
  expect(far[0]).toBe(0);
  expect(far).toEqual([...far].sort((a, b) => a - b));
  expect(far[3]).toBeGreaterThan(0.5);
  // what is in another order does something else
  expect(presetDistance(base, strip([compressor, eq(bands)]))).toBeGreaterThan(0.3);
});

/** A number by chance that is the same in every run. */
function dice(seed: number): () => number {
  let at = seed;
  return () => {
    at = (at * 1664525 + 1013904223) % 4294967296;
    return at / 4294967296;
  };
}
const SOURCES = [
  'eq',
  'compressor',
  'gate',
  'deesser',
  'saturator',
  'limiter',
  'delay',
  'reverb',
  'multiband',
  'width',
];

/** Chains that are set otherwise in each of their values. */
function bases(count: number, seed: number): Preset[] {
  const roll = dice(seed);
  return Array.from({ length: count }, (_, n) => {
    const chain = Array.from({ length: 2 + Math.floor(roll() * 4) }, () => {
      const d = createDevice(SOURCES[Math.floor(roll() * SOURCES.length)]);
      const on = d.type === 'eq' ? { 'b3.on': true, 'b4.on': true, 'b1.on': roll() > 0.5 } : {};
      const spec = ADDABLE.find((x) => x.type === d.type)!;
      const numbers = spec.params.filter((p) => p.kind === 'number');
      const params = Object.fromEntries(numbers.map((p) => [p.id, fromPosition(p, roll())]));
      return { ...d, params: { ...d.params, ...params, ...(on as Params) } };
    });
    return strip(chain, `base ${n}`);
  });
}
/** The same with up to three values moved by up to a twentieth of their way, named otherwise. */
function alike(p: Preset, n: number, roll: () => number): Preset {
  const next = { ...renamed(p), id: `${p.id} / ${n}` };
  const devices = next.content.tracks[0].chain as Device[];
  for (let k = Math.floor(roll() * 4); k > 0; k--) {
    const d = devices[Math.floor(roll() * devices.length)];
    const spec = ADDABLE.find((x) => x.type === d.type)!;
    const numbers = spec.params.filter((x) => x.kind === 'number' && isUsed(d, x.id));
    const p1 = numbers[Math.floor(roll() * numbers.length)];
    const at = toPosition(p1, d.params[p1.id] as number) + (roll() - 0.5) * 0.1;
    d.params[p1.id] = fromPosition(p1, at);
  }
  return next;
}

test('300 presets made from 30 by small changes are 30 groups', () => {
  for (const seed of [1, 2, 3]) {
    const roll = dice(seed * 77);
    const all = bases(30, seed).flatMap((p) => Array.from({ length: 10 }, (_, n) => alike(p, n, roll)));
    const groups = nearDuplicates(all);
    const root = (p: Preset) => p.id.split(' / ')[0];
    const wanted = 30 * 45;
    let [right, told] = [0, 0];
    for (const g of groups) {
      told += (g.length * (g.length - 1)) / 2;
      g.forEach((a, i) => g.slice(i + 1).forEach((b) => (right += Number(root(a) === root(b)))));
    }
    expect(right / told).toBeGreaterThanOrEqual(0.95);
    expect(right / wanted).toBeGreaterThanOrEqual(0.95);
  }
});

test('nothing near is missed by looking at some pairs only', () => {
  fc.assert(
    fc.property(fc.nat(), fc.array(fc.nat(5), { minLength: 2, maxLength: 6 }), (seed, counts) => {
      const roll = dice(seed);
      const all = bases(counts.length, seed).flatMap((p, b) =>
        Array.from({ length: 1 + counts[b] }, (_, n) => alike(p, n, roll)),
      );
      const grouped = new Set(nearDuplicates(all).flat());
      for (const a of all) {
        const isNear = all.some((b) => a !== b && presetDistance(a, b) <= 0.2);
        // one whose only near one leads or follows elsewhere stands alone: but not without any
        if (!isNear) expect(grouped.has(a)).toBe(false);
        else if (all.every((b) => a === b || presetDistance(a, b) <= 0.2)) expect(grouped.has(a)).toBe(true);
      }
      for (const g of nearDuplicates(all)) {
        for (const p of g) expect(presetDistance(g[0], p)).toBeLessThanOrEqual(0.2);
      }
    }),
    { numRuns: 12 },
  );
});

/** A rig of two lines, a player whose outputs are taken and a return, with what a case changes in it. */
function rig(change: (tracks: Track[]) => void): Preset {
  const compressor = createDevice('compressor', {}, { key: { kind: 'track', track: 'b', tap: 'post' } });
  const s = sessionWith([
    {
      id: 'a',
      name: 'Bass',
      chain: [compressor, createDevice('delay')],
      sends: [createSend('r', { id: 's' })],
    },
    {
      id: 'b',
      name: 'Kick',
      input: { kind: 'deviceOutput', track: 'k', slot: 'x', output: 1, take: 'stereo' },
    },
    { id: 'k', name: 'Kit', role: 'instrument', notes: [noteClip([])] },
    { id: 'r', name: 'Plate', role: 'return' },
  ]);
  const parts: Parts = ['chain', 'sends', 'level', 'pan', 'output', 'input', 'keys', 'clips', 'automation'];
  const captured = capture(s, ['a', 'b', 'k', 'r'], { parts });
  const preset = createPreset({ ...captured, content: clone(captured.content) }, { id: 'rig', name: 'Rig' });
  change(preset.content.tracks);
  return preset;
}
const lane = (t: Track, of: string): Lane => ({
  id: 'l',
  of,
  param: 'mix',
  on: true,
  points: [{ at: 0, value: t.level }],
});
test.each<[string, (tracks: Track[]) => void]>([
  [
    'a key from another line',
    ([a, , k]) => ((a.chain[0] as Device).key = { kind: 'track', track: k.id, tap: 'post' }),
  ],
  ['another tap', ([a, b]) => ((a.chain[0] as Device).key = { kind: 'track', track: b.id, tap: 'pre' })],
  ['another output of the player', ([, b]) => ((b.input as { output: number }).output = 2)],
  ['one side of it', ([, b]) => ((b.input as { take: string }).take = 'left')],
  ['how a send is panned', ([a]) => (a.sends[0].panMode = 'own')],
  ['solo', ([a]) => (a.solo = true)],
  [
    'a pedal among the notes',
    ([, , k]) => (k.notes = [noteClip([], { controllers: [{ at: 0, number: 64, value: 9 }] })]),
  ],
  ['a port', ([a]) => (a.output = { kind: 'hardware', port: 'Out 3' })],
  ['a lane', ([a]) => (a.automation = [lane(a, a.chain[1].id)])],
])('what is heard and is no value of a device counts: %s', (_what, change) => {
  expect(
    presetDistance(
      rig(() => undefined),
      rig(change),
    ),
  ).toBeGreaterThan(0.01);
  expect(presetDistance(rig(change), rig(change))).toBe(0);
});

test('lanes of one name that move other devices are not the same', () => {
  const moving = (n: number) => rig(([a]) => (a.automation = [lane(a, a.chain[n].id)]));
  expect(presetDistance(moving(0), moving(1))).toBeGreaterThan(0.01);
});

test('the chains out of a preset’s shape are those of its lines, wherever a key comes from', () => {
  const keyed = (kind: 'device' | 'rack') => {
    const d = createDevice('compressor');
    d.key = { kind: 'track', track: 'b', tap: 'post' };
    const chain: Slot[] =
      kind === 'device' ? [d] : [createRack('Ducker', [], { strands: [createStrand('One', [d])] })];
    return sessionWith([
      { id: 'a', name: 'Voice', chain },
      { id: 'b', name: 'Kick' },
    ]);
  };
  for (const kind of ['device', 'rack'] as const) {
    const s = keyed(kind);
    const p = createPreset(capture(s, ['a', 'b']), { id: 'p', name: 'Ducked' });
    const [own, ...more] = chainsOfShape(presetShape(p));
    // the session's own line says that its key comes from somewhere, and no more
    const [line] = chainShapes(s.tracks);
    expect([shapesApart(own, line.shape), more]).toEqual([0, []]);
    const free = clone(s.tracks);
    for (const d of devicesIn(free[0].chain)) d.key = { kind: 'own' };
    expect(shapesApart(own, chainShapes(free)[0].shape)).toBeGreaterThan(0.1);
  }
});
