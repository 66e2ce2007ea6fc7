import { NO_AUDITION, Renderer, auditioned, type Audition, type Session } from '../index.ts';
import {
  both,
  clipOf,
  db,
  dev,
  device,
  noise,
  peak,
  rms,
  sessionWith,
  sine,
} from '../../tests/support/build.ts';

/** a trigger that goes nowhere, a bus that it ducks, a line into the bus, and one beside it */
function ducking(): Session {
  return sessionWith([
    { id: 'trigger', clips: [clipOf('hits')], output: { kind: 'none' } },
    { id: 'line', clips: [clipOf('tone')], output: { kind: 'track', track: 'bus' } },
    { id: 'beside', clips: [clipOf('other')] },
    {
      id: 'bus',
      role: 'bus',
      chain: [
        device(
          'compressor',
          { threshold: -40, ratio: 20, attack: 1, release: 50 },
          { id: 'duck', key: { kind: 'track', track: 'trigger', tap: 'pre' } },
        ),
      ],
    },
  ]);
}
const sounds = new Map([
  ['hits', both(sine(60, 0.8, 2))],
  ['tone', both(sine(440, 0.002, 2))],
  ['other', both(sine(1500, 0.001, 2))],
]);

/**
 * plays half a second with an audition, then gives the level of a node's sound after the fader and the
 * renderer
 */
function heard(audition: Partial<Audition>, node: string, session = ducking()) {
  const r = new Renderer(48000, 128, sounds);
  r.update(session, true);
  r.setAudition({ ...NO_AUDITION, ...audition });
  r.startAt(0);
  const [l, right] = [new Float32Array(128), new Float32Array(128)];
  const out: number[] = [];
  for (let k = 0; k < 250; k++) {
    r.process(l, right, 128);
    if (k > 150) out.push(...r.node(node)!.l);
  }
  return {
    level: rms(Float32Array.from(out)),
    out: Float32Array.from(out),
    renderer: r,
    left: l.slice(),
    right: right.slice(),
  };
}

describe('what is only listened to', () => {
  const asIs = heard({}, 'bus').level;

  test.each(['compressor', 'deesser', 'gate'])(
    'key off: the bus as it is without the work of a keyed %s, however loud the bus itself is',
    (type) => {
      const s = ducking();
      const bus = s.tracks[3];
      bus.chain[0] = device(type, {}, { id: 'duck', key: { kind: 'track', track: 'trigger', tap: 'pre' } });
      s.tracks[1].level = 40;
      const plain = structuredClone(s);
      plain.tracks[3].chain = [];
      expect(db(heard({ keyOff: ['duck'] }, 'bus', s).level / heard({}, 'bus', plain).level)).toBeCloseTo(
        0,
        1,
      );
    },
  );

  test('the trigger muted: nothing ducks any more, as nothing is heard of it', () => {
    expect(db(heard({ mute: ['trigger'] }, 'bus').level / asIs)).toBeGreaterThan(20);
  });

  test('lanes that move a mute have nothing to say about what is muted, or alone, for listening', () => {
    const s = ducking();
    const lane = (of: string, value: number) => [
      { id: `lane-${of}`, of, param: 'mute', on: true, points: [{ at: 0, value }] },
    ];
    s.tracks[0].automation = lane('trigger', 0);
    expect(db(heard({ mute: ['trigger'] }, 'bus', s).level / asIs)).toBeGreaterThan(20);
    s.tracks[1].automation = lane('line', 1);
    expect(peak(heard({ solo: ['line'] }, 'line', s).left)).toBeCloseTo(
      peak(heard({ solo: ['line'] }, 'line').left),
      8,
    );
    expect(peak(heard({}, 'line', s).left)).toBeLessThan(peak(heard({}, 'line').left));
  });

  test('the trigger alone: everything else is silent at the master', () => {
    const session = ducking();
    session.tracks[0].output = { kind: 'track', track: session.tracks.at(-1)!.id };
    const { renderer } = heard({ solo: ['trigger'] }, 'bus', session);
    const silent = (id: string) => renderer.schedule!.nodes.find((n) => n.track.id === id)!.silent;
    expect([silent('trigger'), silent('line'), silent('beside')]).toEqual([false, true, true]);
  });

  test.each<[string, (s: Session) => void]>([
    ['that goes nowhere', () => undefined],
    [
      'into a bus that is muted',
      (s) => {
        s.tracks[0].output = { kind: 'track', track: 'bus' };
        s.tracks[3].mute = true;
      },
    ],
    [
      'whose fader is shut',
      (s) => {
        s.tracks[0].output = { kind: 'track', track: s.tracks.at(-1)!.id };
        s.tracks[0].level = -144;
      },
    ],
    [
      'to hardware only',
      (s) => {
        s.tracks[0].output = { kind: 'hardware', port: 'Line 3' };
      },
    ],
  ])('the trigger alone is heard, also one %s', (_, change) => {
    const s = ducking();
    change(s);
    expect(peak(heard({ solo: ['trigger'] }, 'bus', s).left)).toBeGreaterThan(0.3);
  });

  test('solo of an audition takes the place of the session’s own', () => {
    const session = ducking();
    session.tracks[2].solo = true;
    const a = auditioned(session, { ...NO_AUDITION, solo: ['line'] });
    expect(a.tracks.filter((t) => t.solo).map((t) => t.id)).toEqual(['line']);
  });

  test('another chain in its place: A against B, and back', () => {
    const louder = [device('trim', { gain: 12 }, { id: 'b' })];
    const b = heard({ chains: { beside: louder } }, 'beside');
    const a = heard({}, 'beside');
    expect(db(b.level / a.level)).toBeCloseTo(12, 2);
    b.renderer.setAudition(NO_AUDITION);
    const [l, r] = [new Float32Array(128), new Float32Array(128)];
    for (let k = 0; k < 40; k++) b.renderer.process(l, r, 128);
    expect(db(rms(Float32Array.from(b.renderer.node('beside')!.l)) / a.level)).toBeCloseTo(0, 0);
  });

  test('gains match loudness, bypass keeps the device running', () => {
    const quiet = heard({ gains: { beside: -6 } }, 'beside').level;
    expect(db(quiet / heard({}, 'beside').level)).toBeCloseTo(-6, 2);
    const { renderer } = heard({ bypass: ['duck'] }, 'bus');
    expect(renderer.slot('duck')!.auditioned).toBe(true);
    expect(renderer.slot('duck')!.proc.reduction).toBeLessThan(-20);
  });

  test('the session that went in is never touched, and nothing to change gives the same object', () => {
    const session = ducking();
    const before = JSON.stringify(session);
    auditioned(session, {
      ...NO_AUDITION,
      keyOff: ['duck'],
      mute: ['line'],
      solo: ['beside'],
      chains: { line: [] },
    });
    expect(JSON.stringify(session)).toBe(before);
    expect(auditioned(session, NO_AUDITION)).toBe(session);
    expect(auditioned(session, { bypass: ['duck'], gains: { bus: 3 } })).toBe(session);
    expect(dev(session.tracks[3].chain[0]).key).toEqual({ kind: 'track', track: 'trigger', tap: 'pre' });
  });

  test('a comparison that would make a loop is refused, and what was heard goes on', () => {
    const session = ducking();
    const { renderer } = heard({}, 'bus', session);
    const loop = [device('compressor', {}, { id: 'loop', key: { kind: 'track', track: 'bus', tap: 'pre' } })];
    expect(() => renderer.setAudition({ ...NO_AUDITION, chains: { line: loop } })).toThrow(/loop/);
    const [l, r] = [new Float32Array(128), new Float32Array(128)];
    renderer.process(l, r, 128);
    expect(peak(renderer.node('line')!.l)).toBeGreaterThan(0);
  });
});

describe('the mono check', () => {
  const wide = new Map([['x', { l: noise(1, 0.3, 1), r: noise(1, 0.3, 2) }]]);

  test('both sides become their mean without a click, the meters of the lines stay as they are, and back again', () => {
    const r = new Renderer(48000, 128, wide);
    r.update(sessionWith([{ id: 'a', clips: [clipOf('x')] }]), true);
    r.startAt(0);
    const [l, right] = [new Float32Array(128), new Float32Array(128)];
    const step = () => r.process(l, right, 128);
    for (let k = 0; k < 20; k++) step();
    expect(peak(l.map((v, i) => v - right[i]))).toBeGreaterThan(0.1);
    r.monitorMono(true);
    for (let k = 0; k < 20; k++) step();
    const node = r.node('a')!;
    for (let i = 0; i < 128; i++) {
      expect(l[i]).toBe(right[i]);
      expect(Math.abs(l[i] - 0.5 * (node.l[i] + node.r[i]))).toBeLessThan(1e-6);
    }
    r.monitorMono(false);
    for (let k = 0; k < 20; k++) step();
    expect(peak(l.map((v, i) => v - right[i]))).toBeGreaterThan(0.1);
  });
});
