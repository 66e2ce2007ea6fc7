import fc from 'fast-check';
import {
  ADDABLE,
  capture,
  captureSlot,
  captureStarter,
  countedIds,
  createDevice,
  createPreset,
  createRack,
  createSend,
  createSession,
  createStrand,
  createTrack,
  laneTargets,
  mapDevices,
  masterOf,
  renewSlot,
  tieTargets,
  type Device,
  type Params,
  type Preset,
  type Session,
  type Slot,
  type Track,
} from '../../core/index.ts';

/** Sessions and presets by chance, always valid: buses and returns flow only towards the master. */
const anyDevice = (): fc.Arbitrary<Device> =>
  fc
    .tuple(
      fc.constantFrom(...ADDABLE),
      fc.array(fc.tuple(fc.nat(), fc.double({ min: 0, max: 1, noNaN: true })), { maxLength: 6 }),
      fc.constantFrom('on' as const, 'bypassed' as const, 'inactive' as const),
    )
    .map(([spec, picks, state]) => {
      const params: Params = {};
      for (const [n, at] of picks) {
        const p = spec.params[n % spec.params.length];
        if (!p || p.kind === 'text') continue;
        if (p.kind === 'switch') params[p.id] = at > 0.5;
        else if (p.kind === 'choice') {
          params[p.id] = p.choices![Math.floor(at * 0.999 * p.choices!.length)].id;
        } else params[p.id] = p.min! + at * (p.max! - p.min!);
      }
      return createDevice(spec.type, params, { state });
    });

/**
 * Devices, and racks of up to three strands, nested once in a while, with a blend and a handle that moves
 * something.
 */
const anySlot = (depth = 0): fc.Arbitrary<Slot> =>
  fc
    .tuple(
      fc.integer({ min: 0, max: depth > 1 ? 1 : 5 }),
      anyDevice(),
      fc.integer({ min: 1, max: 3 }),
      fc.nat(100),
      fc.double({ min: 0, max: 1, noNaN: true }),
    )
    .chain(([kind, d, n, value, at]) => {
      if (kind < 5 || depth > 1) return fc.constant<Slot>(d);
      return fc
        .array(fc.array(anySlot(depth + 1), { maxLength: 2 }), { minLength: n, maxLength: n })
        .map((chains): Slot => {
          const rack = createRack('Rack', [], {
            strands: chains.map((chain, i) =>
              createStrand(`Strand ${i + 1}`, chain, { level: i ? -6 * i : 0, pan: 30 * i }),
            ),
            blend: { mode: n > 1 && value % 2 ? 'power' : 'off', position: value },
          });
          const targets = tieTargets(rack);
          if (targets.length) {
            const t = targets[Math.floor(at * 0.999 * targets.length)];
            rack.handles = [
              {
                id: 'h',
                name: 'Handle',
                colour: 'kelp',
                value,
                cc: value % 3 ? 20 + (value % 5) : null,
                ties: [
                  {
                    id: 't',
                    slot: t.slot,
                    param: t.param,
                    from: t.spec.min!,
                    to: t.spec.max!,
                    curve: value - 50,
                  },
                ],
              },
            ];
          }
          return rack;
        });
    });

const NAMES = ['Lead voice', 'Choir', 'Plate', 'Slap', 'Voice bus', 'Bright plate', 'Bass', 'Hall'];
interface Sketch {
  name: string;
  level: number;
  pan: number;
  mono: boolean;
  chain: Slot[];
  sends: { n: number; level: number; pre: boolean }[];
  out: number;
  key: number;
  band: number;
}
const anySketch = (): fc.Arbitrary<Sketch> =>
  fc.record({
    name: fc.constantFrom(...NAMES),
    level: fc.double({ min: -60, max: 12, noNaN: true }),
    pan: fc.integer({ min: -100, max: 100 }),
    mono: fc.boolean(),
    chain: fc.array(anySlot(), { maxLength: 4 }),
    sends: fc.array(
      fc.record({ n: fc.nat(9), level: fc.double({ min: -60, max: 6, noNaN: true }), pre: fc.boolean() }),
      { maxLength: 2 },
    ),
    out: fc.nat(9),
    key: fc.nat(9),
    band: fc.nat(23),
  });

function lay(
  sketches: Sketch[],
  returns: Sketch[],
  tempo: number,
  sampleRate: number,
  seed: string,
): Session {
  const ids = countedIds(seed);
  const s = createSession({ name: 'Generated', tempo, sampleRate }, ids);
  const master = masterOf(s);
  const names = new Set<string>();
  const name = (n: string) => {
    let x = n;
    for (let i = 2; names.has(x); i++) x = `${n} ${i}`;
    names.add(x);
    return x;
  };
  const own = (d: Slot): Slot => renewSlot(d, (_old, prefix) => ids(prefix));
  const ends = returns.map((r, i): Track =>
    createTrack(
      i % 2 ? 'bus' : 'return',
      {
        name: name(r.name),
        level: r.level,
        pan: r.pan,
        chain: r.chain.map(own),
        output: { kind: 'track', track: master.id },
      },
      ids,
    ),
  );
  const lines = sketches.map((k): Track =>
    createTrack(
      'audio',
      {
        name: name(k.name),
        level: k.level,
        pan: k.pan,
        channels: k.mono ? 1 : 2,
        chain: k.chain.map(own),
        output: { kind: 'track', track: ends[k.out]?.id ?? master.id },
        sends: [
          ...new Map(
            k.sends
              .filter((x) => ends[x.n])
              .map((x) => [
                x.n,
                createSend(ends[x.n].id, { level: x.level, tap: x.pre ? 'pre' : 'post' }, ids),
              ]),
          ).values(),
        ],
      },
      ids,
    ),
  );
  // keys come from the line before, so that they never close a loop
  lines.forEach((t, i) => {
    if (i > 0 && sketches[i].key % 2) {
      t.chain = mapDevices(t.chain, (d) =>
        d.type === 'compressor' || d.type === 'gate'
          ? { ...d, key: { kind: 'track', track: lines[i - 1].id, tap: 'post' } }
          : d,
      );
    }
  });
  lines.forEach((t, i) => {
    const targets = laneTargets(t);
    const x = targets[sketches[i].band % targets.length];
    if (sketches[i].key % 3 === 0) {
      t.automation = [
        {
          id: ids('lan'),
          of: x.of,
          param: x.param,
          on: true,
          points: [
            { at: 0.1, value: x.spec.min ?? 0 },
            { at: 0.4, value: x.spec.max ?? 1 },
          ],
        },
      ];
    }
  });
  const bands = sketches.flatMap((k, i) =>
    k.band < 3 ? band(k, i, ends[k.out]?.id ?? master.id, name, ids) : [],
  );
  s.tracks = [...lines, ...bands, ...ends, master];
  return s;
}

/** An instrument with a pattern that plays it and two lines on its outputs, one of them on a half. */
function band(
  k: Sketch,
  i: number,
  to: string,
  name: (n: string) => string,
  ids: ReturnType<typeof countedIds>,
): Track[] {
  const channel = 1 + ((k.band + i) % 3);
  const port = (['A', 'B'] as const)[k.band % 2];
  const kinds = [
    ['kit', { 'p1.out': '1', 'p2.out': '2L' }],
    [
      'parts',
      {
        'p1.out': '1',
        'p2.out': '2L',
        'p1.port': port,
        'p2.port': port,
        'p3.sound': 'none',
        'p4.sound': 'none',
      },
    ],
    ['bass', { 'clean.out': '1', 'dirty.out': '2L' }],
  ] as const;
  const [type, params] = kinds[k.band % 3];
  const d = createDevice(type, params, {}, ids);
  const out = { kind: 'track' as const, track: to };
  const player = createTrack(
    'instrument',
    {
      name: name('Kit'),
      chain: [d],
      input: { kind: 'midi', port, channel: type === 'parts' ? 0 : channel },
      output: out,
    },
    ids,
  );
  const takes = (n: string, output: number, take: 'stereo' | 'left') =>
    createTrack(
      'audio',
      {
        name: name(n),
        channels: take === 'left' ? 1 : 2,
        input: { kind: 'deviceOutput', track: player.id, slot: d.id, output, take },
        output: out,
        level: k.level,
      },
      ids,
    );
  return [
    createTrack(
      'midi',
      {
        name: name('Notes'),
        chain: [
          createDevice('pattern', { 'l1.channel': channel, 'l2.channel': channel, 'l3.on': false }, {}, ids),
        ],
        output: { kind: 'midi', port, channel: k.band === 2 ? channel : 0 },
      },
      ids,
    ),
    player,
    takes('Kick', 1, 'stereo'),
    takes('Snare', 2, 'left'),
  ];
}

export const anySession = (): fc.Arbitrary<Session> =>
  fc
    .tuple(
      fc.array(anySketch(), { maxLength: 4 }),
      fc.array(anySketch(), { maxLength: 3 }),
      fc.constantFrom(74, 96, 132),
      fc.constantFrom(44100, 48000),
    )
    .map(([a, b, tempo, rate]) => lay(a, b, tempo, rate, 's'));

export const anyPreset = (): fc.Arbitrary<Preset> =>
  fc
    .tuple(
      fc.array(anySketch(), { minLength: 2, maxLength: 2 }),
      fc.array(anySketch(), { maxLength: 3 }),
      fc.constantFrom(74, 96, 132),
      fc.boolean(),
    )
    .map(([a, b, tempo, spares]) => {
      const s = lay(a, b, tempo, 48000, 'p');
      return createPreset(capture(s, [s.tracks[1].id], { spares }), { id: 'generated', name: a[1].name });
    });

/**
 * Presets of every kind: one line, several with their buses, folders and keys, a piece of a chain, a whole
 * session.
 */
export const anyKind = (): fc.Arbitrary<Preset> =>
  fc
    .tuple(
      fc.array(anySketch(), { minLength: 2, maxLength: 4 }),
      fc.array(anySketch(), { maxLength: 3 }),
      fc.constantFrom(74, 96, 132),
      fc.nat(10000),
    )
    .map(([a, b, tempo, n]) => {
      const s = lay(a, b, tempo, 48000, 'k');
      const kind = (['strip', 'rig', 'rig', 'piece', 'starter'] as const)[n % 5];
      const name = 'Generated';
      if (kind === 'starter') return createPreset(captureStarter(s), { id: 'generated', name });
      if (kind === 'piece') {
        const t = s.tracks.find((x) => x.chain.length && x.role === 'audio');
        if (t) {
          const d = captureSlot(s, t.id, t.chain[n % t.chain.length].id);
          return createPreset(d, { id: 'generated', name, kind: d.kind });
        }
      }
      if (kind === 'rig') {
        // a folder around the first lines, itself inside or outside of what is saved
        const folder = createTrack(
          'folder',
          { name: 'Crew', output: { kind: 'track', track: masterOf(s).id } },
          countedIds('f'),
        );
        s.tracks = [
          folder,
          ...s.tracks.map((t, i) => (i < 2 && t.role === 'audio' ? { ...t, folder: folder.id } : t)),
        ];
        const picked = s.tracks.filter((t, i) => t.role !== 'master' && (n >> i) % 3 !== 0).map((t) => t.id);
        const ids = picked.length > 1 ? picked : s.tracks.slice(0, 2).map((t) => t.id);
        return createPreset(capture(s, ids, { spares: n % 7 !== 0 }), { id: 'generated', name });
      }
      return createPreset(capture(s, [s.tracks[1].id], { spares: n % 2 === 0 }), { id: 'generated', name });
    });
