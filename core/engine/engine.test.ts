import {
  CompileError,
  Renderer,
  compile,
  panGains,
  renderNow,
  render,
  type Session,
  type Track,
} from '../index.ts';
import {
  both,
  clipOf,
  db,
  dev,
  device,
  difference,
  noise,
  peak,
  rms,
  send,
  sessionWith,
  sine,
} from '../../tests/support/build.ts';

const sounds = new Map([
  ['x', both(noise(2))],
  ['t', both(sine(997, 0.5, 2))],
]);
const play = (s: Session, taps?: string[], blockSize = 512, to = 1) =>
  renderNow(s, { sounds, to, taps, blockSize });
const full = (): Session => {
  const s = sessionWith([
    {
      id: 'a',
      clips: [clipOf()],
      level: -3,
      pan: -30,
      chain: [
        device('eq', { 'b1.on': true, 'b5.on': true, 'b5.gain': 6 }),
        device('compressor', { threshold: -30, ratio: 4, lookahead: 3 }),
        device('trim', { gain: 2 }),
      ],
    },
    { id: 'b', channels: 1, clips: [clipOf('t')], chain: [device('delay', { mix: 30 })] },
    { id: 'bus', role: 'bus', chain: [device('compressor', { threshold: -24 })] },
    { id: 'rev', role: 'return', chain: [device('reverb', { decay: 0.8 })] },
  ]);
  s.tracks[0].sends = [send('rev', -6)];
  s.tracks[0].output = { kind: 'track', track: 'bus' };
  return s;
};

describe('compile', () => {
  test('refuses a loop and names the tracks along it', () => {
    const s = sessionWith([
      { id: 'a', name: 'Dory', role: 'bus' },
      { id: 'b', name: 'Skiff', role: 'bus' },
      { id: 'c', name: 'Apart' },
    ]);
    s.tracks[0].output = { kind: 'track', track: 'b' };
    s.tracks[1].sends = [send('a')];
    expect(() => compile(s)).toThrow(CompileError);
    expect(() => compile(s)).toThrow(/“Dory”.*“Skiff”|“Skiff”.*“Dory”/);
    expect(() => compile(s)).not.toThrow(/Apart/);
  });

  test('a key counts as a connection', () => {
    const s = sessionWith([
      { id: 'a', name: 'Kick' },
      {
        id: 'b',
        name: 'Bass',
        role: 'bus',
        chain: [device('compressor', {}, { key: { kind: 'track', track: 'a', tap: 'pre' } })],
      },
    ]);
    s.tracks[0].output = { kind: 'track', track: 'b' };
    expect(
      compile(s)
        .nodes.map((n) => n.track.id)
        .indexOf('a'),
    ).toBeLessThan(
      compile(s)
        .nodes.map((n) => n.track.id)
        .indexOf('b'),
    );
    s.tracks[0].chain = [device('compressor', {}, { key: { kind: 'track', track: 'b', tap: 'pre' } })];
    expect(() => compile(s)).toThrow(/loop/);
  });

  test('inactive tracks and devices are left out, and a session without a playing master says so', () => {
    const s = full();
    s.tracks[0].chain[0] = { ...s.tracks[0].chain[0], state: 'inactive' };
    s.tracks[1].state = 'inactive';
    const plan = compile(s);
    expect(plan.nodes.map((n) => n.track.id)).not.toContain('b');
    expect(plan.nodes.find((n) => n.track.id === 'a')!.slots).toHaveLength(2);
    s.tracks.find((t) => t.role === 'master')!.state = 'inactive';
    expect(() => compile(s)).toThrow(/master/);
  });
});

describe('render', () => {
  test('sound does not depend on the block size (within −120 dBFS)', () => {
    const [a, b, c] = [
      play(full(), undefined, 128).master,
      play(full(), undefined, 1024).master,
      play(full(), undefined, 97).master,
    ];
    expect(peak(a[0])).toBeGreaterThan(0.05);
    for (const x of [b, c]) {
      for (const ch of [0, 1]) expect(db(difference(a[ch], x[ch]) + 1e-20)).toBeLessThan(-120);
    }
  });

  test('an untouched parallel path nulls against the direct one however late a neighbour is', () => {
    // the same sound direct, through a bus with a bypassed lookahead, and turned over through another bus
    const late = (over: Partial<Track>) => ({
      role: 'bus' as const,
      chain: [device('compressor', { lookahead: 7.3, ratio: 1 }, { state: 'bypassed' })],
      ...over,
    });
    const s = sessionWith([
      { id: 'a', clips: [clipOf()], sends: [send('p'), send('q')], output: { kind: 'none' } },
      late({ id: 'p' }),
      { id: 'q', role: 'bus', polarity: true },
    ]);
    const out = play(s).master;
    expect(peak(out[0])).toBe(0);
    expect(compile(s).latency).toBe(Math.round(0.0073 * 48000));
    s.tracks[1].polarity = true;
    expect(peak(play(s).master[0])).toBeGreaterThan(0.5);
  });

  test('a key is lined up with the signal that it ducks', () => {
    const s = sessionWith([
      { id: 'k', clips: [clipOf('t')], output: { kind: 'none' } },
      {
        id: 'a',
        clips: [clipOf('t')],
        chain: [
          device('trim'),
          device(
            'compressor',
            { lookahead: 5, threshold: -40, ratio: 100, knee: 0, attack: 0.01 },
            { key: { kind: 'track', track: 'k', tap: 'pre' } },
          ),
        ],
      },
    ]);
    expect(rms(play(s).master[0], 9600)).toBeLessThan(0.02);
    s.tracks[0].mute = true; // a muted key source gives no key
    expect(rms(play(s).master[0], 9600)).toBeCloseTo(0.5 / Math.SQRT2, 2);
  });

  test('levels, sends and pans add up: pan law −3.01 dB mono, balance stereo, two equal paths +6.02 dB', () => {
    const at = (over: Partial<Track>, ...more: Partial<Track>[]) =>
      play(sessionWith([{ id: 'a', clips: [clipOf('t')], ...over }, ...more])).master;
    const level = (x: Float32Array) => db(rms(x)) - db(0.5 / Math.SQRT2);
    expect(level(at({})[0])).toBeCloseTo(0, 3);
    expect(level(at({ channels: 1 })[0])).toBeCloseTo(-3.01, 2);
    expect(level(at({ channels: 1, pan: 100 })[1])).toBeCloseTo(0, 3);
    expect(peak(at({ pan: 100 })[0])).toBe(0);
    expect(level(at({ level: -6, sends: [send('r', 0)] }, { id: 'r', role: 'return' })[0])).toBeCloseTo(
      0.02,
      1,
    ); // −6 dB twice: +6.02
    expect(
      level(at({ level: -144, sends: [send('r', 0, { tap: 'pre' })] }, { id: 'r', role: 'return' })[0]),
    ).toBeCloseTo(0, 3);
    expect(panGains(0, 1, -4.5)[0]).toBeCloseTo(Math.pow(10, -4.5 / 20), 2);
    expect(panGains(0, 1, 0)).toEqual([1, 1]);
  });

  test('solo in place: feeders and destinations stay, others go, solo safe returns carry only the soloed sound', () => {
    const s = sessionWith([
      {
        id: 'a',
        clips: [clipOf('t')],
        solo: true,
        sends: [send('r', -6)],
        output: { kind: 'track', track: 'bus' },
      },
      { id: 'b', clips: [clipOf()], sends: [send('r', 0)], output: { kind: 'track', track: 'bus' } },
      { id: 'bus', role: 'bus' },
      { id: 'r', role: 'return' },
      { id: 'safe', clips: [clipOf('t')], soloSafe: true },
    ]);
    const out = play(s, ['bus', 'r', 'master', 'safe']);
    expect(difference(out.bus[0], sounds.get('t')!.l.slice(0, 48000))).toBeLessThan(1e-6);
    expect(db(rms(out.r[0])) - db(rms(out.bus[0]))).toBeCloseTo(-6, 2);
    expect(db(rms(out.safe[0]) / rms(out.bus[0]))).toBeCloseTo(0, 2);
    s.tracks[0].solo = false;
    s.tracks[2].solo = true; // a soloed bus keeps what feeds it
    s.tracks[4].soloSafe = false;
    s.tracks[3].soloSafe = false;
    const bus = play(s, ['bus', 'master']);
    expect(rms(bus.bus[0])).toBeGreaterThan(0.3);
    expect(difference(bus.bus[0], bus.master[0])).toBe(0);
  });

  test('a render reports progress and can be called off', async () => {
    const seen: number[] = [];
    const signal = { aborted: false } as AbortSignal & { aborted: boolean };
    const long = { ...full(), tracks: full().tracks };
    const job = render(long, {
      sounds,
      to: 600,
      signal,
      onProgress: (p) => {
        seen.push(p);
        (signal as { aborted: boolean }).aborted = seen.length > 1;
      },
    });
    await expect(job).rejects.toThrow(/called off/);
    expect(seen.length).toBeGreaterThan(0);
  });
});

describe('editing while playing', () => {
  /**
   * Plays a tone, makes an edit in the middle, and gives back the largest step between neighbouring samples
   * beyond what a tone of that level has.
   */
  function stepAfter(from: Session, edit: (s: Session) => Session): number {
    const r = new Renderer(48000, 128, sounds);
    r.update(from, true);
    r.startAt(0);
    const all: number[] = [];
    const [l, q] = [new Float32Array(128), new Float32Array(128)];
    for (let k = 0; k < 500; k++) {
      if (k === 200) r.update(edit(from));
      r.process(l, q, 128);
      all.push(...l);
    }
    let worst = 0;
    let top = 0;
    for (let i = 1; i < all.length; i++) {
      worst = Math.max(worst, Math.abs(all[i] - all[i - 1]));
      top = Math.max(top, Math.abs(all[i]));
    }
    return worst / (top * 2 * Math.sin((Math.PI * 997) / 48000));
  }
  const base = () =>
    sessionWith([
      {
        id: 'a',
        clips: [clipOf('t')],
        chain: [device('trim'), device('eq', { 'b4.on': true, 'b4.gain': 3 })],
      },
      { id: 'bus', role: 'bus' },
    ]);
  const withA = (change: (t: Track) => Partial<Track>) => (s: Session) => ({
    ...s,
    tracks: s.tracks.map((t) => (t.id === 'a' ? { ...t, ...change(t) } : t)),
  });

  test.each<[string, (s: Session) => Session]>([
    [
      'a device added',
      withA((t) => ({
        chain: [...t.chain, device('compressor', { threshold: -40, makeup: 0, lookahead: 0 })],
      })),
    ],
    ['a device removed', withA((t) => ({ chain: t.chain.slice(0, 1) }))],
    ['devices reordered', withA((t) => ({ chain: [...t.chain].reverse() }))],
    [
      'a device bypassed',
      withA((t) => ({ chain: t.chain.map((d) => ({ ...d, state: 'bypassed' as const })) })),
    ],
    [
      'a gain turned far',
      withA((t) => ({
        chain: [{ ...t.chain[0], params: { ...dev(t.chain[0]).params, gain: -24 } }, t.chain[1]],
      })),
    ],
    [
      'an EQ band swept',
      withA((t) => ({
        chain: [
          t.chain[0],
          { ...t.chain[1], params: { ...dev(t.chain[1]).params, 'b4.freq': 5000, 'b4.gain': -20 } },
        ],
      })),
    ],
    ['another output', withA(() => ({ output: { kind: 'track' as const, track: 'bus' } }))],
    ['muted', withA(() => ({ mute: true }))],
    ['polarity turned', withA(() => ({ polarity: true }))],
    ['the track deleted', (s) => ({ ...s, tracks: s.tracks.filter((t) => t.id !== 'a') })],
    ['its sound taken away', withA(() => ({ clips: [] }))],
  ])('%s: no click', (_, edit) => expect(stepAfter(base(), edit)).toBeLessThan(1.25));

  test('a loop that is made while playing is refused and the old session goes on', () => {
    const r = new Renderer(48000, 128, sounds);
    const s = base();
    r.update(s, true);
    r.startAt(0);
    s.tracks[1] = { ...s.tracks[1], sends: [send('bus2')] };
    const looped = {
      ...s,
      tracks: [...s.tracks, { ...s.tracks[1], id: 'bus2', name: 'Other', sends: [send('bus')] }],
    };
    expect(() => r.update(looped)).toThrow(/loop/);
    const out = [new Float32Array(128), new Float32Array(128)];
    r.process(out[0], out[1], 128);
    expect(peak(out[0])).toBeGreaterThan(0.1);
  });

  test('stop fades, the position stands, play goes on; a loop wraps', () => {
    const r = new Renderer(48000, 128, sounds);
    r.update(base(), true);
    r.loop = { start: 0, end: 9600 };
    r.play();
    const out = [new Float32Array(128), new Float32Array(128)];
    for (let k = 0; k < 100; k++) r.process(out[0], out[1], 128);
    expect(r.position).toBeLessThan(9600);
    r.stop();
    for (let k = 0; k < 10; k++) r.process(out[0], out[1], 128);
    const at = r.position;
    r.process(out[0], out[1], 128);
    expect(r.position).toBe(at);
    expect(r.playing).toBe(false);
  });
});

test('a line whose sound has samples that are no numbers plays them as silence, says so, and spoils nobody', () => {
  const make = (bad: number) => {
    const l = noise(0.5, 0.4, 9);
    l[5000] = bad;
    return new Map([['x', { l, r: l }]]);
  };
  const s = sessionWith([
    { id: 'a', clips: [clipOf('x', 0.5)], chain: [device('delay'), device('reverb')] },
    { id: 'b', clips: [{ ...clipOf('x', 0.5), id: 'k' }], mute: true },
  ]);
  const out = renderNow(s, { to: 1, sounds: make(NaN) });
  const mended = renderNow(s, { to: 1, sounds: make(0) });
  expect(out.master).toEqual(mended.master);
  const renderer = new Renderer(48000, 512, make(Infinity));
  renderer.update(s, true);
  renderer.play();
  const [l, r] = [new Float32Array(512), new Float32Array(512)];
  for (let k = 0; k < 40; k++) renderer.process(l, r, 512);
  expect(renderer.nodes.map((node) => [node.id, node.meter.broken > 0])).toEqual(
    expect.arrayContaining([
      ['a', true],
      ['b', true],
    ]),
  );
  expect(renderer.nodes.find((node) => node.id !== 'a' && node.id !== 'b')!.meter.broken).toBe(0);
});
