/**
 * Values that change along the song: read where they should be, in time whatever delays a path, and the same
 * whatever the block.
 */
import {
  Renderer,
  createRack,
  createStrand,
  fromPosition,
  laneTarget,
  laneTargets,
  laneValue,
  moveHandle,
  renderNow,
  tidyPoints,
  toPosition,
  validateSession,
  type Lane,
  type Session,
  type Track,
} from '../index.ts';
import { automated } from '../session/automation.ts';
import { LANE_GRID } from './automation.ts';
import {
  both,
  clipOf,
  db,
  device,
  difference,
  mediaRef,
  noise,
  peak,
  rms,
  send,
  sessionWith,
} from '../../tests/support/build.ts';

const FS = 48000;
const ones = new Float32Array(2 * FS).fill(0.5);
const lane = (
  of: string,
  param: string,
  points: (readonly [number, number, true?])[],
  over: Partial<Lane> = {},
): Lane => ({
  id: `lane-${of}-${param}`,
  of,
  param,
  on: true,
  points: points.map(([at, value, hold]) => ({ at, value, ...(hold ? { hold } : {}) })),
  ...over,
});
const line = (over: Partial<Track> = {}): Partial<Track> => ({ id: 'a', clips: [clipOf('x', 2)], ...over });
const play = (
  s: Session,
  o: { taps?: string[]; to?: number; from?: number; blockSize?: number; x?: Float32Array } = {},
) => renderNow(s, { sounds: new Map([['x', both(o.x ?? ones)]]), to: 2, ...o });
const at = (x: Float32Array, seconds: number) => db(x[Math.round(seconds * FS)] / 0.5);

describe('a level that moves', () => {
  const s = () =>
    sessionWith([
      line({
        automation: [
          lane('a', 'level', [
            [0.5, -20],
            [1.5, 0],
            [1.8, -6, true],
            [1.9, 0],
          ]),
        ],
      }),
    ]);

  test('stands still before and after its points, goes along the fader’s taper between them, and waits where it is held', () => {
    const y = play(s(), { taps: ['a'] }).a[0];
    const { spec } = laneTarget(s().tracks[0], { of: 'a', param: 'level' })!;
    expect(at(y, 0)).toBeCloseTo(-20, 4);
    expect(at(y, 0.3)).toBeCloseTo(-20, 4);
    // between two settings the gain is straight: that is 0.01 dB off at most here
    for (const t of [0.7, 1, 1.3, 1.6]) {
      expect(at(y, t)).toBeCloseTo(laneValue(spec, s().tracks[0].automation![0].points, t), 1);
    }
    expect(at(y, 1)).toBeLessThan(-6);
    expect(at(y, 1.85)).toBeCloseTo(-6, 4);
    expect(at(y, 1.95)).toBeCloseTo(0, 4);
    let step = 0;
    for (let i = 1; i < FS * 1.79; i++) step = Math.max(step, Math.abs(y[i] - y[i - 1]));
    expect(step).toBeLessThan(1e-4);
  });

  test('the sound is the same whatever the block, and from the middle as from the start', () => {
    const y = play(s()).master[0];
    for (const blockSize of [64, 128, 1024]) {
      expect(db(difference(play(s(), { blockSize }).master[0], y) + 1e-12)).toBeLessThan(-120);
    }
    for (const frame of [LANE_GRID * 300, FS / 2, 41237]) {
      expect(difference(play(s(), { from: frame / FS }).master[0], y.slice(frame))).toBeLessThan(1e-6);
    }
  });

  test('under −60 dB it goes on as straight as above', () => {
    const { spec } = laneTarget(s().tracks[0], { of: 'a', param: 'level' })!;
    const between = (from: number, to: number) =>
      [0.25, 0.5, 0.75].map((t) =>
        laneValue(
          spec,
          lane('a', 'level', [
            [0, from],
            [1, to],
          ]).points,
          t,
        ),
      );
    expect(between(-80, -64).map((v) => Math.round(v))).toEqual([-76, -72, -68]);
    const falling = between(-90, -30);
    expect(falling).toEqual([...falling].sort((a, b) => a - b));
    for (let v = -144; v <= 12; v += 0.5) expect(fromPosition(spec, toPosition(spec, v))).toBeCloseTo(v, 6);
  });

  test('a lane that is off, empty or of something that is gone changes nothing', () => {
    const plain = play(sessionWith([line()])).master[0];
    for (const l of [{ on: false }, { points: [] }, { of: 'nobody' }, { param: 'tilt' }]) {
      expect(
        difference(
          play(sessionWith([line({ automation: [lane('a', 'level', [[0, -30]], l)] })])).master[0],
          plain,
        ),
      ).toBe(0);
    }
  });
});

test('what moves stays on the syllable: latency before the fader, and on the other paths to a bus, is counted', () => {
  const late = () => device('compressor', { threshold: 0, ratio: 1, lookahead: 20 });
  const s = sessionWith([
    line({
      output: { kind: 'track', track: 'bus' },
      chain: [late()],
      automation: [
        lane('a', 'mute', [
          [0, 0, true],
          [1, 1, true],
        ]),
      ],
    }),
    { id: 'b', output: { kind: 'track', track: 'bus' }, chain: [late(), late(), late()] },
    { id: 'bus', role: 'bus' },
  ]);
  const { a, master } = play(s, { taps: ['a', 'master'] });
  for (const [y, g] of [
    [a[0], 1],
    [master[0], 1],
  ] as const) {
    expect(y[FS - 2 * LANE_GRID]).toBeCloseTo(0.5 * g, 6);
    expect(peak(y.slice(FS + LANE_GRID))).toBe(0);
  }
});

test('a throw: a send opens for one word only, and a muted line’s sends stay shut', () => {
  const s = sessionWith([
    line({ sends: [send('r', -144)], output: { kind: 'none' } }),
    { id: 'r', role: 'return' },
  ]);
  s.tracks[0].automation = [
    lane(s.tracks[0].sends[0].id, 'level', [
      [0, -144, true],
      [0.5, -6, true],
      [0.8, -144, true],
    ]),
  ];
  const y = play(s, { taps: ['r'] }).r[0];
  expect(peak(y.slice(0, 0.49 * FS))).toBe(0);
  expect(at(y, 0.6)).toBeCloseTo(-6, 3);
  expect(peak(y.slice(0.81 * FS))).toBe(0);
  s.tracks[0].mute = true;
  expect(peak(play(s, { taps: ['r'] }).r[0])).toBe(0);
});

test('values of devices, strands, blends and handles are what the same settings are that stand still', () => {
  const trim = device('trim', { gain: 0 }, { id: 'trim' });
  const rack = () =>
    createRack('Grit', [], {
      id: 'rack',
      strands: [
        createStrand('Clean', [], { id: 'clean' }),
        createStrand('Dirt', [device('saturator', { drive: 0 }, { id: 'sat' })], { id: 'dirt' }),
      ],
      blend: { mode: 'power', position: 0 },
      handles: [
        {
          id: 'grit',
          name: 'Grit',
          colour: 'rust',
          value: 0,
          cc: null,
          ties: [
            { id: 't1', slot: 'sat', param: 'drive', from: 0, to: 24, curve: 0 },
            { id: 't2', slot: 'rack', param: 'blend', from: 20, to: 90, curve: 30 },
            { id: 't3', slot: 'dirt', param: 'level', from: 0, to: -9, curve: 0 },
          ],
        },
      ],
    });
  const x = noise(2);
  const cases: [Lane, (t: Track, v: number) => Track][] = [
    [
      lane('trim', 'gain', [
        [0, -12, true],
        [1, 6, true],
      ]),
      (t, v) => ({ ...t, chain: [{ ...trim, params: { ...trim.params, gain: v } }, t.chain[1]] }),
    ],
    [
      lane('trim', 'polarityL', [
        [0, 0, true],
        [1, 1, true],
      ]),
      (t, v) => ({ ...t, chain: [{ ...trim, params: { ...trim.params, polarityL: v === 1 } }, t.chain[1]] }),
    ],
    [
      lane('rack', 'blend', [
        [0, 10, true],
        [1, 70, true],
      ]),
      (t, v) => ({ ...t, chain: [t.chain[0], { ...rack(), blend: { mode: 'power', position: v } }] }),
    ],
    [
      lane('dirt', 'level', [
        [0, -20, true],
        [1, 3, true],
      ]),
      (t, v) => ({
        ...t,
        chain: [
          t.chain[0],
          { ...rack(), strands: rack().strands.map((s) => (s.id === 'dirt' ? { ...s, level: v } : s)) },
        ],
      }),
    ],
    [
      lane('grit', 'value', [
        [0, 25, true],
        [1, 80, true],
      ]),
      (t, v) => ({ ...t, chain: [t.chain[0], moveHandle(rack(), 'grit', v)] }),
    ],
  ];
  for (const [l, still] of cases) {
    const t = sessionWith([line({ chain: [trim, rack()] })]).tracks[0];
    const y = play(sessionWith([{ ...t, automation: [l] }]), { taps: ['a:pre'], x })['a:pre'][0];
    for (const [k, [from, to]] of [
      [0.3, 0.9],
      [1.4, 1.9],
    ].entries()) {
      const want = still(t, l.points[k].value);
      const w = play(sessionWith([want]), { taps: ['a:pre'], x })['a:pre'][0];
      expect(db(rms(y.slice(from * FS, to * FS).map((v, i) => v - w[from * FS + i])) / rms(w))).toBeLessThan(
        -90,
      );
      // and the interface shows the same values as sound
      expect(automated({ ...t, automation: [l] }, k + 0.5)).toEqual({ ...want, automation: [l] });
    }
  }
});

test('played live: a jump takes the values of the place, a new lane comes in without a click, and without it the old value is back', () => {
  const s = sessionWith([line({ clips: [clipOf('x', 100)], chain: [device('trim', {}, { id: 'trim' })] })]);
  const engine = new Renderer(FS, 128, new Map([['x', both(new Float32Array(6 * FS).fill(0.5))]]));
  const run = (seconds: number) => {
    const out = new Float32Array(Math.round((seconds * FS) / 128) * 128);
    const r = new Float32Array(128);
    const l = new Float32Array(128);
    for (let i = 0; i < out.length; i += 128) {
      engine.process(l, r, 128);
      out.set(l, i);
    }
    return out;
  };
  const steepest = (x: Float32Array) => {
    let m = 0;
    for (let i = 1; i < x.length; i++) m = Math.max(m, Math.abs(x[i] - x[i - 1]));
    return m;
  };
  engine.update(s);
  engine.play();
  run(0.3);
  engine.update({
    ...s,
    tracks: [
      {
        ...s.tracks[0],
        automation: [
          lane('trim', 'gain', [[0, -12]]),
          lane('a', 'level', [
            [2, -6, true],
            [3, -20, true],
          ]),
        ],
      },
      s.tracks[1],
    ],
  });
  const into = run(0.5);
  expect(steepest(into)).toBeLessThan(0.01);
  expect(at(into, 0.45)).toBeCloseTo(-18, 2);
  engine.seek(4 * FS);
  expect(at(run(0.5), 0.4)).toBeCloseTo(-32, 2);
  engine.update(s);
  const back = run(0.5);
  expect(steepest(back)).toBeLessThan(0.01);
  expect(at(back, 0.45)).toBeCloseTo(0, 2);
});

test('what can be moved: nothing that moves the latency; points are put in order, inside the range; broken lanes are told', () => {
  const t = {
    ...sessionWith([line({ sends: [send('r')], chain: [device('compressor', {}, { id: 'c' })] })]).tracks[0],
  };
  const labels = laneTargets(t, () => 'Plate').map((x) => x.label);
  expect(labels).toEqual(
    expect.arrayContaining(['Level', 'Pan', 'Mute', 'Send to Plate', 'Compressor · Threshold']),
  );
  expect(labels).not.toContain('Compressor · Lookahead');
  const { spec } = laneTarget(t, { of: 'a', param: 'level' })!;
  expect(
    tidyPoints(spec, [
      { at: 2, value: 40 },
      { at: 1, value: -3.04 },
      { at: 2, value: -500 },
    ]),
  ).toEqual([
    { at: 1, value: -3 },
    { at: 2, value: -144 },
  ]);
  const told = (l: Partial<Lane>) =>
    validateSession(
      sessionWith(
        [
          line({
            clips: [],
            automation: [
              {
                ...lane('a', 'level', [
                  [0, 0],
                  [1, -3],
                ]),
                ...l,
              },
            ],
          }),
        ],
        { media: [mediaRef()] },
      ),
    ).map((p) => p.rule);
  expect(told({})).toEqual([]);
  expect(told({ of: 'gone' })).toEqual([]);
  expect(
    told({
      points: [
        { at: 1, value: 0 },
        { at: 1, value: 1 },
      ],
    }),
  ).toEqual(['order']);
  expect(told({ points: [{ at: 1, value: 13 }] })).toEqual(['point']);
  expect(told({ on: 1 as never })).toEqual(['switch']);
});
