/**
 * Racks while they play: strands line up, blends end where they should, edits while playing leave no gap and
 * no click.
 */
import {
  CompileError,
  Renderer,
  compile,
  createRack,
  createStrand,
  renderNow,
  type Rack,
  type Slot,
} from '../index.ts';
import {
  both,
  clipOf,
  db,
  device,
  difference,
  noise,
  peak,
  sessionWith,
  sine,
} from '../../tests/support/build.ts';

const strands = (...chains: Slot[][]) => chains.map((c, i) => createStrand(`Strand ${i + 1}`, c));
const rack = (chains: Slot[][], over: Partial<Rack> = {}) =>
  createRack('Rack', [], { strands: strands(...chains), ...over });
const play = (chain: Slot[], x: Float32Array, over = {}) =>
  renderNow(sessionWith([{ id: 'a', clips: [clipOf()], chain }], over), {
    sounds: new Map([['x', both(x)]]),
    to: x.length / 48000,
    taps: ['a:pre'],
  })['a:pre'][0];
const late = () => device('compressor', { threshold: 0, ratio: 1, lookahead: 7.3 });

test('a clean strand nulls against the direct sound, whatever the latency beside it', () => {
  const x = noise(0.3);
  const chains = [
    [],
    [late(), device('limiter', { threshold: 0, ceiling: 0, truePeak: false }), device('trim', { gain: -36 })],
  ];
  const half = rack(chains, { blend: { mode: 'linear', position: 0 } });
  expect(difference(play([half], x), x)).toBe(0);
  // clean plus a turned-over clean one beside it, both late for a third: silence
  const nothing = rack(
    [[], [device('trim', { polarityL: true, polarityR: true })], [late(), device('trim', { gain: -36 })]],
    {},
  );
  nothing.strands[2].mute = true;
  expect(peak(play([nothing], x))).toBe(0);
  // and two clean strands are one of twice the level (+6.02 dB)
  expect(
    difference(
      play([rack([[], [late()]])], x),
      x.map((v) => 2 * v),
    ),
  ).toBeLessThan(1e-6);
});

test('latency: the longest strand’s, nested ones and inactive ones counted rightly; a bypassed rack keeps it', () => {
  const inner = rack([[late()], [late(), late()]]);
  const s = (chain: Slot[]) =>
    compile(sessionWith([{ id: 'a', chain }])).nodes.find((n) => n.track.id === 'a')!.latency;
  const one = Math.round(7.3 * 48);
  expect(s([rack([[], [late(), inner]])])).toBe(3 * one);
  expect(s([rack([[], [late(), { ...inner, state: 'inactive' }]])])).toBe(one);
  expect(s([{ ...rack([[], [late()]]), state: 'bypassed' }])).toBe(one);
  const x = noise(0.2);
  expect(
    difference(play([{ ...rack([[device('trim', { gain: 12 })], [late()]]), state: 'bypassed' }], x), x),
  ).toBe(0);
});

test.each([
  ['power', Math.SQRT1_2],
  ['linear', 0.5],
] as const)('blend (%s): the ends are one strand alone, the middle both', (mode, middle) => {
  const x = sine(500, 0.4, 0.2);
  const at = (position: number) =>
    play(
      [rack([[device('trim', { gain: -6 })], [device('trim', { gain: 6 })]], { blend: { mode, position } })],
      x,
    );
  const g = (v: number) => 10 ** (v / 20);
  expect(
    difference(
      at(0),
      x.map((v) => v * g(-6)),
    ),
  ).toBeLessThan(1e-6);
  expect(
    difference(
      at(100),
      x.map((v) => v * g(6)),
    ),
  ).toBeLessThan(1e-6);
  expect(
    difference(
      at(50),
      x.map((v) => v * middle * (g(-6) + g(6))),
    ),
  ).toBeLessThan(1e-6);
});

test('mute, solo, level and pan of strands', () => {
  const x = sine(500, 0.1, 0.1);
  const r = rack([[], [], []]);
  r.strands[0].level = -144;
  r.strands[1].mute = true;
  expect(difference(play([r], x), x)).toBe(0);
  r.strands[1].solo = true;
  r.strands[1].mute = false;
  r.strands[1].level = -6;
  expect(db(peak(play([r], x)) / 0.1)).toBeCloseTo(-6, 2);
  r.strands[1].pan = 100;
  expect(peak(play([r], x))).toBe(0);
});

test('a key inside a strand is lined up, and a loop through it is refused by name', () => {
  const keyed = device(
    'compressor',
    { threshold: -40, ratio: 100 },
    { key: { kind: 'track', track: 'k', tap: 'pre' } },
  );
  const s = sessionWith([
    { id: 'k', name: 'Kick', chain: [late()], output: { kind: 'none' } },
    { id: 'a', name: 'Choir', chain: [rack([[], [keyed]])] },
  ]);
  const node = compile(s).nodes.find((n) => n.track.id === 'a')!;
  expect(node.latency).toBe(Math.round(7.3 * 48));
  expect(node.slots[0].strands!.map((x) => x.delay)).toEqual([Math.round(7.3 * 48), 0]);
  s.tracks[0].input = { kind: 'track', track: 'a', tap: 'post' };
  expect(() => compile(s)).toThrow(CompileError);
  expect(() => compile(s)).toThrow(/“Kick” → “Choir”|“Choir” → “Kick”/);
});

describe('edits while playing', () => {
  /** Plays a low sine, makes an edit each 4800 frames, returns the sharpest edge after the start. */
  const edges = (versions: Slot[][], tone = 90) => {
    const x = sine(tone, 0.3, 3);
    const engine = new Renderer(48000, 128, new Map([['x', both(x)]]));
    const clip = clipOf();
    const at = (chain: Slot[]) => sessionWith([{ id: 'a', clips: [clip], chain }]);
    const base = at(versions[0]);
    engine.update(base, true);
    engine.startAt(0);
    const out = new Float64Array(48000);
    const l = new Float64Array(128);
    const r = new Float64Array(128);
    let n = 0;
    for (let k = 0; k + 128 <= out.length; k += 128) {
      if (k > 0 && k % 4864 === 0) {
        engine.update({
          ...base,
          tracks: base.tracks.map((t) =>
            t.id === 'a' ? { ...t, chain: versions[++n % versions.length] } : t,
          ),
        });
      }
      engine.process(l, r, 128);
      out.set(l, k);
    }
    let worst = 0;
    let gap = 0;
    for (let i = 2500; i < 47000; i++) {
      worst = Math.max(worst, Math.abs(out[i] - 2 * out[i - 1] + out[i - 2]));
      if (i % 600 === 0) gap = Math.max(gap, 0.05 - peak(out.subarray(i - 600, i)));
    }
    return { worst, gap };
  };
  const eq = device('eq', { 'b4.on': true, 'b4.gain': 4 });
  const comp = device('compressor', { threshold: -30 });
  const gain = device('trim', { gain: -3 });
  test.each<[string, Slot[][]]>([
    ['grouping and ungrouping', [[eq, comp], [createRack('R', [eq, comp], { id: 'r' })]]],
    [
      'a strand comes and goes',
      (() => {
        const [a, b] = strands([eq], [gain]);
        return [
          [createRack('R', [], { id: 'r', strands: [a] })],
          [createRack('R', [], { id: 'r', strands: [a, b] })],
        ];
      })(),
    ],
    [
      'a device moves to another strand',
      (() => {
        const [a, b] = strands([eq, gain], []);
        return [
          [createRack('R', [], { id: 'r', strands: [a, b] })],
          [
            createRack('R', [], {
              id: 'r',
              strands: [
                { ...a, chain: [eq] },
                { ...b, chain: [gain] },
              ],
            }),
          ],
        ];
      })(),
    ],
    [
      'blend from one end to the other',
      (() => {
        const [a, b] = strands([gain], [eq]);
        return [0, 100].map((position) => [
          createRack('R', [], { id: 'r', strands: [a, b], blend: { mode: 'power', position } }),
        ]);
      })(),
    ],
    [
      'one rack for another',
      [[createRack('A', [eq], { id: 'ra' })], [createRack('B', [comp, gain], { id: 'rb' })]],
    ],
  ])('%s', (_name, versions) => {
    const { worst, gap } = edges(versions);
    expect(worst).toBeLessThan(0.006);
    expect(gap).toBeLessThanOrEqual(0);
  });
});
