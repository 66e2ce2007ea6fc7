import fc from 'fast-check';
import {
  RULES,
  applyLayout,
  applyPlayer,
  createRack,
  fixAllSafe,
  fixFinding,
  lineCheck,
  newestRevision,
  planLayout,
  planPlayer,
  setupOf,
  silence,
  tickOf,
  unitsUsed,
  validateSession,
  type Device,
  type Levels,
  type Measured,
  type Params,
  type Rack,
  type Session,
  type Track,
} from '../index.ts';
import {
  clipOf,
  dev,
  device,
  kitSession,
  mediaRef,
  noteClip,
  send,
  sessionWith,
} from '../../tests/support/build.ts';
import { port, studio, unit } from '../../tests/support/studio.ts';
import { anySession } from '../../tests/support/generate.ts';

const to = (track: string) => ({ kind: 'track' as const, track });
const keyed = (track: string, tap: 'pre' | 'post' = 'pre') => ({ kind: 'track' as const, track, tap });
const handle = (name: string, cc: number, slot: string) => ({
  id: `h-${name}`,
  name,
  colour: 'kelp',
  value: 0,
  cc,
  ties: [{ id: `t-${name}`, slot, param: 'gain', from: 0, to: 1, curve: 0 }],
});
const rack = (name: string, cc: number): Rack => {
  const d = device('trim', {}, { id: `d-${name}` });
  return createRack(name, [d], { id: `r-${name}`, handles: [handle(name, cc, d.id)] });
};

/**
 * Nothing to find: a voice through a bus with a wet return, a trigger that ducks the bus, hardware in one
 * loop, names of their own.
 */
const sound = (): Session =>
  sessionWith(
    [
      {
        id: 'voice',
        name: 'Voice',
        channels: 1,
        clips: [clipOf('x', 1)],
        output: to('bed'),
        sends: [send('room', -12, { id: 's' })],
        chain: [device('eq', {}, { id: 'eq' }), device('outboard', { roundTrip: 6.48 }, { id: 'out' })],
      },
      { id: 'kick', name: 'Kick', clips: [clipOf('x', 1)], output: { kind: 'none' } },
      { id: 'box', name: 'Box', input: { kind: 'hardware', port: 'In 1' }, output: to('bed') },
      {
        id: 'bed',
        name: 'Bed',
        role: 'bus',
        soloSafe: true,
        chain: [device('compressor', {}, { id: 'duck', name: 'Duck', key: keyed('kick') })],
      },
      {
        id: 'room',
        name: 'Room',
        role: 'return',
        soloSafe: true,
        chain: [device('reverb', { mix: 100 }, { id: 'rev' })],
      },
    ],
    { media: [mediaRef('x')], tempo: 96 },
  );
const t = (s: Session, id: string): Track => s.tracks.find((x) => x.id === id)!;
const d = (s: Session, id: string): Device => {
  for (const x of s.tracks) for (const y of x.chain) if (y.id === id) return dev(y);
  throw new Error(id);
};
const into = (s: Session, at: number, ...more: Partial<Track>[]) =>
  s.tracks.splice(
    at,
    0,
    ...sessionWith(more)
      .tracks.slice(0, -1)
      .map((x, i) => ({ ...x, output: more[i].output ?? to(s.tracks.at(-1)!.id) })),
  );
const levels = (over: Record<string, Partial<Levels['tracks'][string]>>, master = -6): Levels => ({
  master,
  tracks: Object.fromEntries(
    ['voice', 'kick', 'box', 'bed', 'room'].map((id) => [id, { before: -12, after: -12, ...over[id] }]),
  ),
});

/** Takes of some levels on the voice, and the noise between their phrases. */
const takesOf = (s: Session, at: number[], floor: number | null = null): Levels => {
  const v = t(s, 'voice');
  v.clips = at.map((_, i) => ({ ...clipOf('x', 1), id: `take${i}`, start: i }));
  return { ...levels({}), takes: Object.fromEntries(at.map((level, i) => [`take${i}`, { level, floor }])) };
};

const lane = (of: string, on = true) => ({
  id: `lane-${of}`,
  of,
  param: 'level',
  on,
  points: [{ at: 0, value: -6 }],
});

/** rule, how the fault comes in, what is nearly the same and no fault */
/** Puts the session into a studio of eight ports each way whose pair 7/8 is patched straight through. */
function inStudio(s: Session, over: Parameters<typeof studio>[0] = {}): void {
  const ports = Array.from({ length: 8 }, (_, i) => {
    const other = i % 2 ? i : i + 2;
    return [
      port(`o${i + 1}`, 'out', i + 1, { pair: `o${other}` }),
      port(`i${i + 1}`, 'in', i + 1, { pair: `i${other}` }),
    ];
  }).flat();
  const cables = [7, 8].map((n) => ({ id: `c${n}`, from: `port/o${n}`, to: `port/i${n}` }));
  const place = studio({ ports, cables, ...over });
  s.setup = setupOf(place);
}
const useOf = (id: string, nominal: 'plus4' | 'minus10' = 'plus4') => ({
  id: '1',
  unit: unit(id, { nominal }),
  positions: {},
});
const loopThrough = (id: string, params: Params) =>
  device(
    'outboard',
    { roundTrip: 6.48, ...params },
    {
      id: `loop-${id}`,
      hardware: { units: [useOf(id)], measured: null },
    },
  );
function tickAll(s: Session): void {
  const ticks = unitsUsed(s).flatMap(({ use, device: x }) =>
    use.unit.panel.map((c) => tickOf(x!.id, use, c)),
  );
  s.setup = { ...s.setup!, ticks };
}
/** A loop that was measured, with something the matter. */
function measuredAs(s: Session, over: Partial<Measured>, correct = {}): void {
  const measured: Measured = {
    at: '2026-03-01T10:00:00Z',
    sampleRate: s.sampleRate,
    buffer: null,
    delay: 311,
    gain: 0,
    polarity: 1,
    swapped: false,
    noise: -100,
    hum: { 50: -120, 60: -120 },
    clipped: false,
    distortion: -90,
    response: [],
    faults: [],
    ...over,
  };
  d(s, 'out').hardware = { units: [], measured, correct };
}

const CASES: [string, (s: Session) => Levels | void, (s: Session) => Levels | void][] = [
  [
    'key-missing',
    (s) => {
      d(s, 'duck').key = { kind: 'own' };
    },
    (s) => {
      Object.assign(d(s, 'duck'), { key: { kind: 'own' }, name: 'Hold' });
    },
  ],
  [
    'key-silent',
    (s) => {
      t(s, 'kick').mute = true;
    },
    (s) => {
      t(s, 'box').mute = true;
    },
  ],
  [
    'key-after-fader',
    (s) => {
      d(s, 'duck').key = keyed('kick', 'post');
      t(s, 'kick').level = -60;
    },
    (s) => {
      t(s, 'kick').level = -60;
    },
  ],
  [
    'key-listened',
    (s) => {
      d(s, 'duck').params.listen = true;
    },
    (s) => {
      Object.assign(d(s, 'duck').params, { listen: true });
      d(s, 'duck').state = 'bypassed';
    },
  ],
  [
    'double-path',
    (s) => {
      into(s, 4, { id: 'twin', name: 'Twin', role: 'bus', soloSafe: true });
      t(s, 'voice').sends.push(send('twin', -6));
    },
    (s) => {
      into(s, 4, { id: 'twin', name: 'Twin', role: 'return', soloSafe: true });
      t(s, 'voice').sends.push(send('twin', -6));
    },
  ],
  [
    'no-way-out',
    (s) => {
      t(s, 'box').output = { kind: 'none' };
    },
    (s) => {
      t(s, 'kick').level = -10;
    },
  ],
  [
    'loop',
    (s) => {
      t(s, 'bed').sends = [send('room', -9)];
      t(s, 'room').output = to('bed');
    },
    (s) => {
      t(s, 'bed').sends = [send('room', -9)];
    },
  ],
  [
    'nothing-feeds',
    (s) => {
      into(s, 4, { id: 'idle', name: 'Idle', role: 'bus', soloSafe: true });
    },
    (s) => {
      into(s, 4, { id: 'idle', name: 'Idle', role: 'bus', soloSafe: true, state: 'inactive' });
    },
  ],
  [
    'send-to-sleeping',
    (s) => {
      t(s, 'room').mute = true;
    },
    (s) => {
      t(s, 'room').mute = true;
      t(s, 'voice').sends[0].on = false;
    },
  ],
  [
    'not-solo-safe',
    (s) => {
      t(s, 'bed').soloSafe = false;
    },
    (s) => {
      t(s, 'voice').soloSafe = false;
    },
  ],
  [
    'return-not-wet',
    (s) => {
      d(s, 'rev').params.mix = 40;
    },
    (s) => {
      d(s, 'rev').params.mix = 40;
      t(s, 'room').role = 'bus';
      t(s, 'voice').sends = [];
      t(s, 'box').output = to('room');
    },
  ],
  [
    'parallel-pre-fader',
    (s) => {
      into(s, 4, { id: 'crush', name: 'Crush', role: 'bus', soloSafe: true });
      Object.assign(t(s, 'kick'), { output: to('bed'), sends: [send('crush', -6, { tap: 'pre' })] });
      d(s, 'duck').key = { kind: 'own' };
      d(s, 'duck').name = 'Hold';
    },
    (s) => {
      t(s, 'voice').sends[0].tap = 'pre';
    },
  ],
  [
    'send-wide-open',
    (s) => {
      t(s, 'voice').sends[0].level = 0;
    },
    (s) => {
      t(s, 'voice').sends[0].level = -0.1;
    },
  ],
  [
    'folder-mixed',
    (s) => {
      into(s, 0, { id: 'f', name: 'Crew', role: 'folder' });
      Object.assign(t(s, 'voice'), { folder: 'f', output: to('f') });
      t(s, 'box').folder = 'f';
    },
    (s) => {
      into(s, 0, { id: 'f', name: 'Crew', role: 'folder' });
      t(s, 'voice').folder = t(s, 'box').folder = 'f';
    },
  ],
  [
    'tempo-bound',
    (s) => {
      t(s, 'voice').chain.push(device('delay', { mode: 'ms', time: 340, mix: 20 }));
    },
    (s) => {
      t(s, 'voice').chain.push(
        device('delay', { mode: 'ms', time: 312.5, mix: 20 }),
        device('delay', { mode: 'ms', time: 47, mix: 20 }),
      );
    },
  ],
  [
    'over-half-the-rate',
    (s) => {
      s.sampleRate = 32000;
      Object.assign(d(s, 'eq').params, { 'b8.on': true, 'b8.freq': 18000 });
    },
    (s) => {
      s.sampleRate = 32000;
      Object.assign(d(s, 'eq').params, { 'b8.on': false, 'b8.freq': 18000 });
    },
  ],
  [
    'impulse-missing',
    (s) => {
      t(s, 'voice').chain.push(device('convolution', { impulse: 'f'.repeat(64) }, { id: 'cv' }));
    },
    (s) => {
      t(s, 'voice').chain.push(device('convolution', {}, { id: 'cv' }));
    },
  ],
  [
    'sound-unknown',
    (s) => {
      d(s, 'eq').revision = 900;
    },
    (s) => {
      d(s, 'eq').revision = newestRevision('eq');
    },
  ],
  [
    'sound-kept',
    (s) => {
      d(s, 'rev').revision = 1;
    },
    (s) => {
      Object.assign(d(s, 'rev'), { revision: 1, state: 'inactive' });
    },
  ],
  [
    'sound-changed',
    (s) => {
      const late = { lookahead: 5, attack: 0.5 };
      t(s, 'voice').chain.push(device('gate', late, { id: 'g', revision: 1 }));
    },
    (s) => {
      // without the time to open before the sound it sounds as it did
      t(s, 'voice').chain.push(device('gate', { lookahead: 0 }, { id: 'g', revision: 1 }));
    },
  ],
  [
    'width-on-mono',
    (s) => {
      t(s, 'voice').chain.unshift(device('width'));
    },
    (s) => {
      t(s, 'voice').chain.unshift(device('doubler'), device('width'));
    },
  ],
  [
    'input-twice',
    (s) => {
      into(s, 1, { id: 'two', name: 'Two', input: { kind: 'hardware', port: 'In 1' } });
    },
    (s) => {
      into(s, 1, { id: 'two', name: 'Two', input: { kind: 'hardware', port: 'In 2' } });
    },
  ],
  [
    'loop-shared',
    (s) => {
      t(s, 'box').chain.push(device('outboard', { roundTrip: 5, returnPort: 'In 3/4' }));
    },
    (s) => {
      t(s, 'box').chain.push(device('outboard', { roundTrip: 5, sendPort: 'Out 3/4', returnPort: 'In 3/4' }));
    },
  ],
  [
    'loop-unmeasured',
    (s) => {
      d(s, 'out').params.roundTrip = 0;
    },
    (s) => {
      Object.assign(d(s, 'out'), { state: 'inactive' });
      d(s, 'out').params.roundTrip = 0;
    },
  ],
  [
    'unit-shared',
    (s) => {
      inStudio(s, { units: [unit('gull')] });
      t(s, 'box').chain.push(loopThrough('gull', { sendPort: 'Out 3/4', returnPort: 'In 3/4' }));
      d(s, 'out').hardware = { units: [useOf('gull')], measured: null };
      tickAll(s);
    },
    (s) => {
      inStudio(s, { units: [unit('gull'), unit('tern')] });
      t(s, 'box').chain.push(loopThrough('tern', { sendPort: 'Out 3/4', returnPort: 'In 3/4' }));
      d(s, 'out').hardware = { units: [useOf('gull')], measured: null };
      tickAll(s);
    },
  ],
  ['loop-other-rate', (s) => measuredAs(s, { sampleRate: 96000 }), (s) => measuredAs(s, {})],
  [
    'loop-turned',
    (s) => measuredAs(s, { polarity: -1 }),
    (s) => measuredAs(s, { polarity: -1 }, { turned: true }),
  ],
  [
    'loop-swapped',
    (s) => measuredAs(s, { swapped: true }),
    (s) => measuredAs(s, { swapped: true }, { swapped: true }),
  ],
  [
    'output-into-output',
    (s) => inStudio(s, { cables: [{ id: 'c', from: 'port/o1', to: 'port/o2' }] }),
    (s) => inStudio(s, { cables: [{ id: 'c', from: 'port/o1', to: 'port/i2' }] }),
  ],
  [
    'levels-differ',
    (s) => {
      inStudio(s, { units: [unit('gull', { nominal: 'minus10' })] });
      d(s, 'out').hardware = { units: [useOf('gull', 'minus10')], measured: null };
      tickAll(s);
    },
    (s) => {
      inStudio(s, { units: [unit('gull', { nominal: 'minus10' })] });
      d(s, 'out').hardware = { units: [useOf('gull', 'minus10')], measured: null };
      d(s, 'out').params.send = -6;
      tickAll(s);
    },
  ],
  [
    'send-to-monitors',
    (s) => {
      inStudio(s);
      s.setup!.studio!.ports.find((p) => p.id === 'o7')!.monitor = true;
    },
    (s) => {
      inStudio(s);
      s.setup!.studio!.ports.find((p) => p.id === 'o1')!.monitor = true;
    },
  ],
  [
    'cable-needed',
    (s) => inStudio(s, { cables: [{ id: 'c', from: 'port/o7', to: 'port/i7' }] }),
    (s) => inStudio(s),
  ],
  [
    'position-not-ticked',
    (s) => {
      inStudio(s, { units: [unit('gull')] });
      d(s, 'out').hardware = { units: [useOf('gull')], measured: null };
    },
    (s) => {
      inStudio(s, { units: [unit('gull')] });
      d(s, 'out').hardware = { units: [useOf('gull')], measured: null };
      tickAll(s);
    },
  ],
  [
    'controller-twice',
    (s) => {
      t(s, 'voice').chain.push(rack('Warm', 21), rack('Bright', 21));
    },
    (s) => {
      t(s, 'voice').chain.push(rack('Warm', 21), rack('Bright', 22));
    },
  ],
  [
    'controller-meaning',
    (s) => {
      t(s, 'voice').chain.push(rack('Warm', 64));
    },
    (s) => {
      t(s, 'voice').chain.push(rack('Modulation', 1), rack('Warm', 21));
    },
  ],
  [
    'default-name',
    (s) => {
      t(s, 'box').name = 'Audio 3';
    },
    (s) => {
      t(s, 'box').name = 'Audio of the box';
    },
  ],
  [
    'same-name',
    (s) => {
      t(s, 'box').name = 'voice ';
    },
    (s) => {
      t(s, 'box').name = 'Voice 2';
    },
  ],
  [
    'hidden-active',
    (s) => {
      t(s, 'voice').hidden = true;
    },
    (s) => {
      t(s, 'voice').hidden = t(s, 'voice').mute = true;
    },
  ],
  [
    'cannot-run',
    (s) => {
      t(s, 'box').chain.push(
        device(
          'opaque',
          {},
          { foreign: { format: 'CLAP', identifier: 'x', vendor: 'v', name: 'Thing', params: [] } },
        ),
      );
    },
    (s) => {
      t(s, 'box').chain.push(
        device(
          'opaque',
          {},
          {
            state: 'bypassed',
            foreign: { format: 'CLAP', identifier: 'x', vendor: 'v', name: 'Thing', params: [] },
          },
        ),
      );
    },
  ],
  [
    'lane-gone',
    (s) => {
      t(s, 'voice').automation = [lane('nobody')];
    },
    (s) => {
      t(s, 'voice').automation = [lane('nobody', false), lane('voice')];
    },
  ],
  ['clips', () => levels({ voice: { after: 0.3 } }), () => levels({ voice: { after: 0 } })],
  [
    'low',
    () => levels({ voice: { before: -24 } }),
    () => levels({ voice: { before: -17.9 }, bed: { before: -40 }, kick: { before: -120 } }),
  ],
  [
    'over-ceiling',
    (s) => {
      s.tracks.at(-1)!.chain = [device('limiter', { ceiling: -3, truePeak: false }, { id: 'lim' })];
      return levels({}, -2);
    },
    (s) => {
      s.tracks.at(-1)!.chain = [device('limiter', { ceiling: -3 }, { id: 'lim' })];
      return levels({}, -2.9);
    },
  ],
  [
    'loop-wrong',
    (s) => {
      d(s, 'out').params.roundTrip = 3;
    },
    (s) => {
      Object.assign(d(s, 'out'), { state: 'bypassed' });
      d(s, 'out').params.roundTrip = 3;
    },
  ],
  ['take-apart', (s) => takesOf(s, [-20, -21, -32]), (s) => takesOf(s, [-20, -21, -26])],
  ['noise-floor', (s) => takesOf(s, [-20], -48), (s) => takesOf(s, [-20], -50.5)],
  [
    'port-unknown',
    (s) => {
      s.setup = { name: 'Lightship cabin', inputs: ['Cabin in 1', 'In 7/8'], outputs: ['Out 7/8'] };
    },
    (s) => {
      s.setup = { name: 'Lightship cabin', inputs: ['In 1', 'In 7/8'], outputs: ['Out 7/8'] };
    },
  ],
  [
    'broken-sound',
    (s) => ({ ...levels({}, -6), tracks: { [s.tracks[0].id]: { before: -6, after: -6, broken: true } } }),
    () => levels({}, -6),
  ],
  ['headroom', () => levels({}, -0.4), () => levels({}, -1)],
];

/** Nothing to find either: a kit laid out, and a parts player with two parts that are played. */
const band = (): Session => {
  const kit = applyLayout(kitSession(), planLayout(kitSession(), 'k'));
  const s = applyPlayer(
    kit,
    planPlayer(
      kit,
      ['Strings', 'Bells'].map((name) => ({
        name,
        sound: name.toLowerCase(),
        port: 'B',
        channel: 0,
        width: 2,
        colour: 'heather',
        insert: '',
      })),
      { name: 'Shanty parts', midi: true },
    ),
  );
  for (const t of s.tracks) {
    if (t.role === 'midi' && t.id !== 'beat') t.notes = [noteClip([{ at: 0, key: 60, channel: 1 }])];
  }
  return structuredClone(s);
};
const by = (s: Session, name: string): Track => s.tracks.find((x) => x.name === name)!;
const kitOf = (s: Session) => dev(by(s, 'Deck kit').chain[0]).params;
const partsOf = (s: Session) => dev(by(s, 'Shanty parts').chain[0]).params;
const takes = (s: Session, name: string, change: object) => {
  by(s, name).input = { ...by(s, name).input, ...change } as Track['input'];
};
const players = (s: Session, more: number) => {
  for (let i = 3; i < 3 + more; i++) {
    Object.assign(partsOf(s), { [`p${i}.sound`]: 'organ', [`p${i}.port`]: 'B', [`p${i}.channel`]: i });
  }
};

/** Sixteen parts in stereo on sixteen outputs: nothing is left for the microphones. */
const apartKit = (s: Session) => {
  const plan = planLayout(s, 'k', {
    renumber: true,
    rows: Object.fromEntries([
      ...Array.from(
        { length: 16 },
        (_, i) =>
          [
            `p${i + 1}`,
            { mode: 'own' as const, with: '', width: 2 as const, name: `Drum ${i + 1}`, sub: '' },
          ] as const,
      ),
      ...['oh', 'room'].map((id) => [id, { mode: 'main' as const, with: '' }] as const),
    ]),
  });
  Object.assign(s, applyLayout(s, plan));
};

const BAND_CASES: typeof CASES = [
  [
    'part-on-main',
    (s) => {
      kitOf(s)['p1.out'] = 'main';
    },
    (s) => {
      for (const k of Object.keys(kitOf(s))) if (k.endsWith('.out')) kitOf(s)[k] = 'main';
    },
  ],
  [
    'output-unheard',
    (s) => {
      kitOf(s)['p1.out'] = '16';
    },
    (s) => {
      Object.assign(kitOf(s), { 'p1.out': '16', 'p1.sound': 'none' });
    },
  ],
  [
    'output-empty',
    (s) => {
      kitOf(s)['p1.out'] = '16';
    },
    (s) => {
      Object.assign(by(s, 'Kick'), { state: 'inactive' });
      kitOf(s)['p1.out'] = '16';
    },
  ],
  [
    'output-twice',
    (s) => {
      takes(s, 'Clap', { output: 2 });
    },
    (s) => {
      takes(s, 'Clap', { output: 2, take: 'right' });
    },
  ],
  [
    'outputs-shifted',
    (s) => {
      for (const [n, o] of [
        ['Kick', 2],
        ['Snare', 3],
        ['Clap', 4],
        ['Hats', 5],
        ['Low tom', 6],
        ['Mid tom', 7],
      ] as const) {
        takes(s, n, { output: o });
      }
    },
    (s) => {
      by(s, 'Kick').name = 'Boom';
      takes(s, 'Boom', { output: 14 });
    },
  ],
  [
    'half-of-a-pair',
    (s) => {
      takes(s, 'Crash', { take: 'left' });
    },
    (s) => {
      takes(s, 'Crash', { take: 'sum' });
      by(s, 'Crash').channels = 1;
    },
  ],
  [
    'output-gone',
    (s) => {
      by(s, 'Deck kit').chain = [device('bass', {}, { id: 'k' })];
    },
    (s) => {
      Object.assign(by(s, 'Deck kit').chain[0], { state: 'inactive' });
    },
  ],
  [
    'outputs-shared',
    (s) => {
      kitOf(s)['p2.out'] = '1L';
    },
    (s) => {
      kitOf(s)['p8.out'] = kitOf(s)['p9.out'] = '7L';
    },
  ],
  [
    'outputs-short',
    (s) => {
      apartKit(s);
    },
    (s) => {
      apartKit(s);
      Object.assign(kitOf(s), { 'oh.level': -60, 'room.level': -60 });
    },
  ],
  [
    'channel-shared',
    (s) => {
      partsOf(s)['p2.channel'] = partsOf(s)['p1.channel'];
    },
    (s) => {
      Object.assign(partsOf(s), { 'p2.channel': partsOf(s)['p1.channel'], 'p1.sound': 'none' });
    },
  ],
  [
    'port-differs',
    (s) => {
      by(s, 'Beat').output = { kind: 'midi', port: 'C', channel: 10 };
    },
    (s) => {
      by(s, 'Beat').output = { kind: 'midi', port: 'C', channel: 15 };
    },
  ],
  [
    'midi-unheard',
    (s) => {
      by(s, 'Beat').output = { kind: 'midi', port: 'C', channel: 15 };
    },
    (s) => {
      Object.assign(by(s, 'Beat'), { output: { kind: 'midi', port: 'C', channel: 15 }, state: 'inactive' });
    },
  ],
  [
    'part-port',
    (s) => {
      partsOf(s)['p2.port'] = 'D';
    },
    (s) => {
      Object.assign(partsOf(s), { 'p2.port': 'D', 'p2.sound': 'none' });
    },
  ],
  [
    'port-full',
    (s) => {
      players(s, 14);
      by(s, 'Deck kit').input = { kind: 'midi', port: 'B', channel: 5 };
    },
    (s) => {
      players(s, 14);
    },
  ],
  [
    'unplayed',
    (s) => {
      by(s, 'Beat').output = { kind: 'none' };
    },
    (s) => {
      by(s, 'Beat').output = { kind: 'none' };
      Object.assign(by(s, 'Deck kit').chain[0], { state: 'bypassed' });
    },
  ],
  [
    'part-controllers',
    (s) => {
      partsOf(s)['p1.foot'] = 1;
    },
    (s) => {
      Object.assign(partsOf(s), { 'p1.foot': -1, 'p1.mod': -1 });
    },
  ],
  [
    'part-controller-meaning',
    (s) => {
      partsOf(s)['p1.expr'] = 7;
    },
    (s) => {
      partsOf(s)['p1.expr'] = 20;
    },
  ],
];

test('a session with nothing wrong has no findings, and every rule has its case', () => {
  expect(lineCheck(sound()).map((f) => f.key)).toEqual([]);
  expect(lineCheck(band()).map((f) => f.message)).toEqual([]);
  expect([...CASES, ...BAND_CASES].map((c) => c[0]).sort()).toEqual(RULES.map((r) => r.id).sort());
});

test.each([...CASES.map((c) => [...c, sound] as const), ...BAND_CASES.map((c) => [...c, band] as const)])(
  '%s: the fault is found and named, a near miss is not, and with the fix it is gone',
  (rule, fault, near, base) => {
    const s = base();
    const l = fault(s) ?? null;
    if (rule !== 'loop') expect(validateSession(s)).toEqual([]);
    const found = lineCheck(s, l).filter((f) => f.rule === rule);
    expect(found.length).toBeGreaterThan(0);
    const f = found[0];
    expect(s.tracks.some((x) => x.id === f.track)).toBe(true);
    const ports = s.setup?.studio?.ports.map((p) => p.name) ?? [];
    const names = [...s.tracks.map((x) => x.name.trim()), ...ports];
    expect(names.some((n) => f.message.includes(n))).toBe(true);
    expect(f.why.length).toBeGreaterThan(20);
    if (f.fix) {
      const before = JSON.stringify(s);
      const fixed = found.reduce((now, x) => fixFinding(now, x, l), s);
      expect(JSON.stringify(s)).toBe(before);
      // what is measured is not known again before it is measured again
      if (rule !== 'over-ceiling') expect(lineCheck(fixed, l).filter((x) => x.rule === rule)).toEqual([]);
      else expect(dev(fixed.tracks.at(-1)!.chain[0]).params.truePeak).toBe(true);
      expect(validateSession(fixed)).toEqual([]);
    }
    const other = base();
    const nearLevels = near(other) ?? null;
    expect(lineCheck(other, nearLevels).filter((x) => x.rule === rule)).toEqual([]);
  },
);

test('all that is safe is mended at once, what needs a decision stays; what is silenced stays too, with its reason', () => {
  const s = sound();
  t(s, 'bed').soloSafe = false;
  d(s, 'rev').params.mix = 40;
  t(s, 'voice').sends[0].level = 3;
  const silent = silence(s, 'not-solo-safe/bed', 'the whole band is soloed together');
  expect(validateSession(silent)).toEqual([]);
  const r = fixAllSafe(silent);
  expect(r.fixed.map((f) => f.rule)).toEqual(['return-not-wet']);
  expect(lineCheck(r.session).map((f) => [f.rule, f.silenced])).toEqual([
    ['send-wide-open', undefined],
    ['not-solo-safe', 'the whole band is soloed together'],
  ]);
  expect(lineCheck(silence(silent, 'not-solo-safe/bed', null)).every((f) => f.silenced === undefined)).toBe(
    true,
  );
  expect(silence(silence(s, 'a', 'b'), 'a', null)).toEqual(s);
});

test('a thousand lines of one name are numbered at once, and nothing else', () => {
  const s = sessionWith(Array.from({ length: 1000 }, () => ({ name: 'Gull', clips: [clipOf()] })));
  s.media = [{ id: 'x', name: 'x.wav', sampleRate: 48000, channels: 1, frames: 48000000 }];
  const { session, fixed } = fixAllSafe(s);
  expect(new Set(session.tracks.map((x) => x.name)).size).toBe(1001);
  expect(new Set(fixed.map((f) => f.rule))).toEqual(new Set(['same-name']));
  expect(session.tracks.map((x) => ({ ...x, name: '' }))).toEqual(s.tracks.map((x) => ({ ...x, name: '' })));
});

test('over generated sessions: the check never throws, its fixes keep a session sound and are stable, and nothing else changes', () => {
  fc.assert(
    fc.property(anySession(), (s) => {
      const before = JSON.stringify(s);
      const found = lineCheck(s);
      expect(JSON.stringify(s)).toBe(before);
      expect(new Set(found.map((f) => f.key)).size).toBe(found.length);
      const { session, fixed } = fixAllSafe(s);
      expect(validateSession(session)).toEqual([]);
      expect(session.tracks.map((x) => x.id)).toEqual(s.tracks.map((x) => x.id));
      for (const x of s.tracks) {
        if (!fixed.some((f) => f.track === x.id)) expect(session.tracks.find((y) => y.id === x.id)).toBe(x);
      }
      expect(fixAllSafe(session).fixed).toEqual([]);
    }),
    { numRuns: 100 },
  );
});

test('a line that took another’s output goes to its own part, also from 1 to 10 and beyond: the remedy does what it is called', () => {
  const laid = band();
  const lines = laid.tracks.filter((t) => t.input.kind === 'deviceOutput');
  for (const wrong of lines) {
    for (const other of lines) {
      if (wrong === other) continue;
      const s = structuredClone(laid);
      takes(s, wrong.name, { output: (other.input as { output: number }).output, take: 'stereo' });
      const found = lineCheck(s).find((f) => f.rule === 'output-twice');
      if (!found?.fix?.startsWith('Take')) continue;
      const mended = fixFinding(s, found);
      expect(mended.tracks.find((t) => t.id === found.track)!.state).toBe('on');
      const still = lineCheck(mended).filter((f) => f.rule === 'output-twice' && f.track === found.track);
      expect(still).toEqual([]);
    }
  }
});
