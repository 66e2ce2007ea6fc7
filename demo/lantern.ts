import { hurriedKit } from './kits.ts';
import {
  BLEND_SPEC,
  SPACES,
  capture,
  captureSlot,
  clone,
  countedIds,
  createPreset,
  createRack,
  createSend,
  createSession,
  createStrand,
  createTrack,
  mapDevices,
  renewTrack,
  spaceId,
  type Device,
  type Handle,
  type Id,
  type Params,
  type Preset,
  type PresetDraft,
  type Rack,
  type Slot,
  type Tie,
  type Track,
  type UnitUse,
} from '../core/index.ts';
import { lightshipCabin, unitIn } from './studios.ts';
import { addSound, bands, maker, plateChain, type DemoSession, type Maker } from './make.ts';
import { bass, concertina, deckDrums, leadVoice, type Song } from './sounds.ts';

const LANTERN: Song = {
  tempo: 74,
  sampleRate: 48000,
  bars: 3,
  seed: 741,
  chords: [
    [48, 55, 60, 64],
    [45, 52, 57, 60],
    [43, 50, 55, 59],
  ],
  melody: [60, 64, 67, 69, 67, 64, 62, null, 60, 57, 60, null],
};

const tie = (m: Maker, slot: Id, param: string, from: number, to: number, curve = 0): Tie => ({
  id: m.ids('tie'),
  slot,
  param,
  from,
  to,
  curve,
});
const handle = (
  m: Maker,
  name: string,
  colour: string,
  value: number,
  cc: number | null,
  ties: Tie[],
): Handle => ({ id: m.ids('hdl'), name, colour, value, cc, ties });

/** A clean strand beside a worked one, both reached by one control. */
function blended(
  m: Maker,
  name: string,
  dry: string,
  wet: string,
  inside: Slot[],
  position: number,
  cc: number | null,
  colour: string,
): Rack {
  const r = createRack(
    name,
    [],
    {
      strands: [createStrand(dry, [], {}, m.ids), createStrand(wet, inside, {}, m.ids)],
      blend: { mode: 'power', position },
    },
    m.ids,
  );
  return {
    ...r,
    handles: [
      handle(m, `${dry} to ${wet.toLowerCase()}`, colour, position, cc, [
        tie(m, r.id, 'blend', BLEND_SPEC.min!, BLEND_SPEC.max!),
      ]),
    ],
  };
}

/**
 * Bass in two strands: lows stay clean, what lies above goes through a saturator; one handle drives it and
 * takes the level back.
 */
function dirtAndClean(m: Maker): Rack {
  const dirt = m.d('saturator', 'Dirt', { drive: 14, output: -8 });
  const r = createRack(
    'Dirt and clean',
    [],
    {
      strands: [
        createStrand(
          'Clean',
          [
            m.d('eq', 'Lows only', bands({ 8: ['lowPass', 260, 0, 0.71, 24] })),
            m.d('compressor', 'Hold the lows', {
              threshold: -24,
              ratio: 5,
              attack: 20,
              release: 160,
              makeup: 3,
            }),
          ],
          {},
          m.ids,
        ),
        createStrand(
          'Dirt',
          [
            m.d('eq', 'No lows', bands({ 1: ['highPass', 260, 0, 0.71, 24] })),
            dirt,
            m.d('eq', 'Speaker', bands({ 8: ['lowPass', 4200, 0, 0.71, 12] })),
          ],
          { level: -7 },
          m.ids,
        ),
      ],
    },
    m.ids,
  );
  return {
    ...r,
    handles: [
      handle(m, 'Grit', 'rust', 50, 21, [
        tie(m, dirt.id, 'drive', 4, 24),
        tie(m, dirt.id, 'output', -2, -14),
      ]),
    ],
  };
}

/**
 * The voice as it is sung into the lantern room: sibilance down, levelled, bright; echoes, copies and plate
 * on returns.
 */
const voiceChain = (m: Maker): Device[] => [
  m.d('deesser', 'Sibilance', { frequency: 6200, threshold: -34, range: -8 }),
  m.d('compressor', 'Level', { threshold: -24, ratio: 3, knee: 8, attack: 8, release: 110, makeup: 3 }),
  m.d(
    'eq',
    'Air and body',
    bands({
      1: ['highPass', 90, 0, 0.71, 24],
      3: ['bell', 320, -2.5, 1.1],
      5: ['bell', 3200, 1.5, 0.9],
      7: ['highShelf', 12000, 2],
    }),
  ),
];

/** Master, trigger and the bus that it ducks. */
function lanternDesk() {
  const m = maker('lr');
  const media = new Map<string, Uint8Array>();
  const s = createSession(
    {
      name: 'Lantern Room',
      tempo: 74,
      sampleRate: 48000,
      tracks: [],
      note: 'Upstairs, lamps lit. The trigger is heard nowhere: it only ducks.',
    },
    m.ids,
  );
  const master = createTrack(
    'master',
    {
      id: 'lr-master',
      chain: [
        m.d('eq', 'Tone', bands({ 1: ['highPass', 24, 0, 0.71, 12], 7: ['highShelf', 11000, 1] })),
        m.d('compressor', 'Hold together', { threshold: -16, ratio: 2, knee: 8, attack: 30, release: 120 }),
        m.d('limiter', 'Ceiling', { threshold: -1, ceiling: -1 }),
      ],
    },
    m.ids,
  );
  const toMaster = { kind: 'track' as const, track: master.id };
  const clip = (name: string, channels: Float32Array[]) => addSound(s, media, m, name, channels, 48000);
  const drumClip = clip('deck drums, lantern room', deckDrums(LANTERN));

  const trigger = createTrack(
    'audio',
    {
      id: 'lr-trigger',
      name: 'Trigger',
      colour: 'tar',
      channels: 1,
      output: { kind: 'none' },
      clips: [{ ...drumClip, id: m.ids('clp') }],
      note: 'Heard nowhere. Its lows open the duck on the bus.',
    },
    m.ids,
  );
  const ducked = createTrack(
    'bus',
    {
      id: 'lr-ducked',
      name: 'All but the drums',
      colour: 'harbour',
      output: toMaster,
      note: 'Release first: the bus should be back before the next beat. Then the threshold.',
      chain: [
        m.d(
          'compressor',
          'Duck',
          {
            threshold: -30,
            ratio: 4,
            knee: 4,
            attack: 12,
            release: 203,
            keyFilter: true,
            keyLow: 30,
            keyHigh: 140,
          },
          { key: { kind: 'track', track: trigger.id, tap: 'pre' } },
        ),
      ],
    },
    m.ids,
  );
  const toDucked = { kind: 'track' as const, track: ducked.id };
  return { m, media, s, master, toMaster, clip, drumClip, trigger, ducked, toDucked };
}
type Desk = ReturnType<typeof lanternDesk>;

function lanternReturns({ m, toDucked, toMaster }: Desk) {
  const plate = createTrack(
    'return',
    {
      id: 'lr-plate',
      name: 'Plate',
      colour: 'kelp',
      level: -4,
      output: toDucked,
      chain: plateChain(m, 'Plate', 2.1),
    },
    m.ids,
  );
  const quarter = createTrack(
    'return',
    {
      id: 'lr-quarter',
      name: 'Quarter echo',
      colour: 'samphire',
      level: -6,
      output: toDucked,
      chain: [m.d('delay', 'Quarter', { note: '1/4', feedback: 24, mix: 100, lowCut: 200, highCut: 4200 })],
    },
    m.ids,
  );
  const eighth = createTrack(
    'return',
    {
      id: 'lr-eighth',
      name: 'Eighth echo',
      colour: 'brine',
      level: -7,
      output: toDucked,
      chain: [
        m.d('delay', 'Eighth', {
          note: '1/8',
          feedback: 12,
          mix: 100,
          lowCut: 250,
          highCut: 5000,
          pingPong: true,
        }),
      ],
    },
    m.ids,
  );
  const doubled = createTrack(
    'return',
    {
      id: 'lr-doubled',
      name: 'Doubled',
      colour: 'lantern',
      level: -9,
      output: toDucked,
      chain: [m.d('doubler', 'Two beside', { voices: '2', detune: 9, delay: 16, spread: 100, mix: 100 })],
    },
    m.ids,
  );
  const crush = createTrack(
    'return',
    {
      id: 'lr-crush',
      name: 'Drum crush',
      colour: 'driftwood',
      level: -12,
      output: toMaster,
      note: 'Turn the return up until it is felt, then a little down.',
      chain: [
        m.d('compressor', 'Crush', { threshold: -38, ratio: 4, attack: 10, release: 60, knee: 3, makeup: 8 }),
      ],
    },
    m.ids,
  );
  return { plate, quarter, eighth, doubled, crush };
}

function lanternLines(
  { m, toDucked, clip }: Desk,
  { plate, quarter, eighth, doubled }: ReturnType<typeof lanternReturns>,
) {
  const send = (to: Track, level: number) => createSend(to.id, { level }, m.ids);

  const lead = createTrack(
    'audio',
    {
      id: 'lr-lead',
      name: 'Lead voice',
      colour: 'lantern',
      channels: 1,
      level: -4,
      output: toDucked,
      clips: [clip('lead voice, lantern room', leadVoice(LANTERN))],
      sends: [send(plate, -14), send(quarter, -20), send(eighth, -22), send(doubled, -12)],
      note: 'Sibilance first: pull the range until the esses sit, then the compressor’s threshold.',
      chain: voiceChain(m),
    },
    m.ids,
  );
  const box = createTrack(
    'audio',
    {
      id: 'lr-box',
      name: 'Concertina',
      colour: 'brine',
      level: -11,
      pan: 22,
      output: toDucked,
      clips: [clip('concertina, lantern room', concertina(LANTERN))],
      chain: [
        m.d('eq', 'Tame the reeds', bands({ 1: ['highPass', 120, 0, 0.71, 12], 5: ['bell', 2100, -3, 1.4] })),
        blended(
          m,
          'Swim',
          'Still',
          'Swimming',
          [m.d('chorus', 'Slow swim', { rate: 0.4, depth: 4, delay: 16, mix: 100 })],
          35,
          22,
          'brine',
        ),
      ],
    },
    m.ids,
  );
  const low = createTrack(
    'audio',
    {
      id: 'lr-bass',
      name: 'Bass',
      colour: 'rust',
      channels: 1,
      level: -5,
      output: toDucked,
      clips: [clip('bass, lantern room', bass(LANTERN))],
      chain: [dirtAndClean(m)],
    },
    m.ids,
  );
  return [lead, box, low];
}

function lanternDrums({ m, toMaster, drumClip }: Desk, { crush, plate }: ReturnType<typeof lanternReturns>) {
  const send = (to: Track, level: number) => createSend(to.id, { level }, m.ids);
  return createTrack(
    'audio',
    {
      id: 'lr-drums',
      name: 'Deck drums',
      colour: 'driftwood',
      level: -6,
      output: toMaster,
      clips: [drumClip],
      sends: [send(crush, -6), send(plate, -26)],
      chain: [
        m.d('gate', 'Room out', { threshold: -46, range: -18, attack: 0.5, hold: 90, release: 160 }),
        m.d('eq', 'Boards', bands({ 4: ['bell', 400, -3, 1.1], 6: ['bell', 7500, 1.5, 1] })),
        m.d('clipper', 'Round the peaks', { ceiling: -6, softness: 60 }),
      ],
    },
    m.ids,
  );
}

export function lanternRoom(): DemoSession {
  const desk = lanternDesk();
  const { s, media, trigger, ducked, master } = desk;
  const returns = lanternReturns(desk);
  const { plate, quarter, eighth, doubled, crush } = returns;
  const lines = [...lanternLines(desk, returns), lanternDrums(desk, returns)];
  s.tracks = [...lines, trigger, ducked, plate, quarter, eighth, doubled, crush, master];
  return { id: 'lantern-room', session: s, media };
}

/**
 * The same evening before anybody checked it: one fault of every kind that happens in a hurry. The line check
 * must find each of them; what it is allowed to mend by itself it mends.
 * @param room the session as it should be, whose sounds are used again
 */
export function firstTry(room: DemoSession): DemoSession {
  const m = maker('ft');
  const s = clone(room.session);
  const at = (name: string) => s.tracks.find((t) => t.name === name)!;
  s.name = 'Lantern Room, first try';
  s.note = 'As it was left at midnight. Open the line check.';
  const send = (to: Track, level: number, tap: 'pre' | 'post' = 'post') =>
    createSend(to.id, { level, tap }, m.ids);
  const toMaster = { kind: 'track' as const, track: s.tracks.at(-1)!.id };
  // the trigger was muted instead of being led nowhere, and the duck listens after its fader, which is down
  Object.assign(at('Trigger'), { mute: true, level: -70 });
  const duck = at('All but the drums').chain[0] as Device;
  duck.key = { kind: 'track', track: at('Trigger').id, tap: 'post' };
  at('All but the drums').soloSafe = false;
  // the plate lets dry sound through, the quarter echo is another song’s, the copies are switched off though
  // a send is open
  (at('Plate').chain[1] as Device).params.mix = 45;
  Object.assign((at('Quarter echo').chain[0] as Device).params, { mode: 'ms', time: 625 });
  at('Doubled').mute = true;
  at('Lead voice').sends[0].level = 0;
  at('Lead voice').chain.unshift(m.d('width', 'Wider', { width: 150 }));
  (at('Lead voice').chain[2] as Device).params.listen = true;
  // drums to their bus and still to the master; a crush bus before the fader; a bus that nothing feeds
  const kit = createTrack('bus', { name: 'Drum bus', colour: 'driftwood', output: toMaster }, m.ids);
  const idle = createTrack('bus', { name: 'Bus', output: toMaster }, m.ids);
  at('Deck drums').sends.push(send(kit, -3, 'pre'));
  // a spoken line that leads nowhere, two of one name, a compressor that should duck and has no key, two
  // racks on one controller
  const spoken = createTrack(
    'audio',
    {
      name: 'Audio 2',
      channels: 1,
      clips: [{ ...at('Lead voice').clips[0], id: m.ids('clp') }],
      output: { kind: 'none' },
    },
    m.ids,
  );
  const twin = createTrack(
    'audio',
    {
      name: 'Bass',
      colour: 'rust',
      output: { kind: 'track', track: at('All but the drums').id },
      clips: [{ ...at('Bass').clips[0], id: m.ids('clp') }],
      chain: [
        m.d('compressor', 'Duck under kick', { threshold: -28 }),
        { ...dirtAndClean(m), name: 'Dirt again' },
      ],
    },
    m.ids,
  );
  twin.hidden = true;
  s.tracks = [
    ...s.tracks.slice(0, 5),
    spoken,
    twin,
    ...s.tracks.slice(5, 6),
    kit,
    idle,
    ...s.tracks.slice(6),
  ];
  s.tracks = hurriedKit(maker('hk'), s).tracks;
  const fresh = countedIds('ft0');
  const map = new Map<Id, Id>();
  // a session of its own: no id is shared with the one that it was copied from
  const renewed = s.tracks.map((t) =>
    renewTrack(t, (old, prefix) => {
      const id = fresh(prefix);
      map.set(old, id);
      return id;
    }),
  );
  s.tracks = renewed.map((t): Track => ({
    ...t,
    output: t.output.kind === 'track' ? { kind: 'track', track: map.get(t.output.track)! } : t.output,
    sends: t.sends.map((x) => ({ ...x, to: map.get(x.to)! })),
    input:
      t.input.kind === 'deviceOutput'
        ? { ...t.input, track: map.get(t.input.track)!, slot: map.get(t.input.slot)! }
        : t.input,
    chain: mapDevices(t.chain, (d) =>
      d.key.kind === 'track' ? { ...d, key: { ...d.key, track: map.get(d.key.track)! } } : d,
    ),
  }));
  return { id: 'lantern-room-first-try', session: s, media: new Map() };
}

interface Piece {
  name: string;
  category: string;
  tags: string[];
  note: string;
  colour?: string;
  draft: PresetDraft;
  kind: Preset['kind'];
}

/** What pieces are made with, beside the session that some of them come from. */
function pieceBench(room: DemoSession) {
  const m = maker('lp');
  const s = room.session;
  /** one slot on a line of its own, captured as a device or rack preset */
  const piece = (slot: Slot): PresetDraft => {
    const t = createTrack(
      'audio',
      { id: 'bench', name: slot.name, chain: [slot], output: { kind: 'track', track: s.tracks.at(-1)!.id } },
      m.ids,
    );
    return captureSlot({ ...s, tracks: [t, ...s.tracks] }, 'bench', slot.id);
  };
  const slotOf = (track: string, name: string) =>
    s.tracks.find((t) => t.id === track)!.chain.find((d) => d.name === name)!;
  const push = m.d('saturator', 'Push', { drive: 6, output: -4 });
  const warm = createRack(
    'Soft to pushed',
    [m.d('eq', 'Body', bands({ 3: ['bell', 220, 1, 0.8], 7: ['highShelf', 10000, 1] })), push],
    {},
    m.ids,
  );
  return { m, s, piece, slotOf, push, warm };
}
type Bench = ReturnType<typeof pieceBench>;

/** Lines and a rig, from the session itself. */
const linePieces = ({ s }: Bench): Piece[] => [
  {
    kind: 'strip',
    name: 'Voice with echoes, copies and plate',
    category: 'Voice/Lead',
    tags: ['lead', 'echo', 'doubler', 'plate'],
    note: s.tracks[0].note,
    draft: capture(s, ['lr-lead']),
  },
  {
    kind: 'rig',
    name: 'Trigger ducks all but the drums',
    category: 'Buses/Ducking',
    tags: ['ducking', 'sidechain', 'key'],
    note: 'Put the kick, or a copy of the drums, on Trigger: it is heard nowhere. Send everything but the drums to the bus, then set the release.',
    draft: capture(s, ['lr-trigger', 'lr-ducked']),
  },
  {
    kind: 'strip',
    name: 'Deck drums, crushed beside',
    category: 'Instruments/Drums',
    tags: ['drums', 'parallel', 'gate'],
    note: 'The return first: up until it is felt, then a little down. The gate’s range leaves some of the room.',
    draft: capture(s, ['lr-drums']),
  },
];

/** Racks that blend. */
const blendPieces = ({ m, piece, slotOf }: Bench): Piece[] => [
  {
    kind: 'rack',
    name: 'Dirt and clean',
    category: 'Racks/Bass',
    tags: ['bass', 'parallel', 'saturation'],
    colour: 'rust',
    note: 'Grit first. The clean strand carries everything under 260 Hz and stays as it is.',
    draft: piece(slotOf('lr-bass', 'Dirt and clean')),
  },
  {
    kind: 'rack',
    name: 'Clean and crushed',
    category: 'Racks/Parallel',
    tags: ['parallel', 'compression'],
    colour: 'driftwood',
    note: 'One control from clean to crushed; start at 30 % and listen to the tails.',
    draft: piece(
      blended(
        m,
        'Clean and crushed',
        'Clean',
        'Crushed',
        [
          m.d('compressor', 'Crush', {
            threshold: -40,
            ratio: 10,
            attack: 4,
            release: 80,
            knee: 6,
            makeup: 10,
          }),
        ],
        30,
        null,
        'driftwood',
      ),
    ),
  },
  {
    kind: 'rack',
    name: 'Dry to wet: small room',
    category: 'Racks/Space',
    tags: ['reverb', 'blend'],
    colour: 'kelp',
    note: 'Everything on one control. The room is fully wet inside, so the blend alone decides.',
    draft: piece(
      blended(
        m,
        'Small room',
        'Dry',
        'Wet',
        [
          m.d('eq', 'Into the room', bands({ 1: ['highPass', 200, 0, 0.71, 12] })),
          m.d('reverb', 'Room', { type: 'room', decay: 0.7, preDelay: 8, mix: 100, highCut: 8000 }),
        ],
        25,
        null,
        'kelp',
      ),
    ),
  },
];

/** Racks with a handle, for the master, and out to hardware. */
const rackPieces = ({ m, piece, push, warm }: Bench): Piece[] => [
  {
    kind: 'rack',
    name: 'Soft to pushed',
    category: 'Racks/Voice',
    tags: ['voice', 'saturation', 'handle'],
    colour: 'copper',
    note: 'Drive goes up while the output comes down by the same, so that louder does not win.',
    draft: piece({
      ...warm,
      handles: [
        handle(m, 'Push', 'copper', 25, null, [
          tie(m, push.id, 'drive', 2, 18),
          tie(m, push.id, 'output', 0, -16),
        ]),
      ],
    }),
  },
  {
    kind: 'rack',
    name: 'Three bands, then the ceiling',
    category: 'Racks/Master',
    tags: ['master', 'multiband', 'limiter'],
    colour: 'tar',
    note: 'Thresholds so that each band moves 1 to 2 dB, then the limiter’s threshold.',
    draft: piece(
      createRack(
        'Three bands, then the ceiling',
        [
          m.d('multiband', 'Three bands', {
            bands: '3',
            f1: 180,
            f2: 2400,
            'b1.threshold': -26,
            'b2.threshold': -24,
            'b3.threshold': -28,
          }),
          m.d('width', 'Lows in the middle', { lows: true, below: 110 }),
          m.d('limiter', 'Ceiling', { threshold: -3, ceiling: -1 }),
        ],
        {},
        m.ids,
      ),
    ),
  },
  {
    kind: 'rack',
    name: 'Out to the cabin’s compressor',
    category: 'Racks/Hardware',
    tags: ['outboard', 'hardware'],
    colour: 'harbour',
    note: 'Press “Measure the round trip” before anything else.',
    draft: piece(
      createRack(
        'Out to the cabin’s compressor',
        [
          m.d('outboard', 'Cabin compressor', {
            sendPort: 'Out 7/8',
            returnPort: 'In 7/8',
            unit: 'compressor',
            roundTrip: 6.48,
          }),
          m.d('meter', 'What comes back'),
        ],
        {},
        m.ids,
      ),
    ),
  },
];

/** Ways through the cabin's hardware, by themselves. */
const patchPieces = ({ m, piece }: Bench): Piece[] => {
  const cabin = lightshipCabin();
  const loop = (name: string, n: number, unit: UnitUse, params: Params = {}) =>
    m.d(
      'outboard',
      name,
      { sendPort: `Out ${n}`, returnPort: `In ${n}`, roundTrip: 6.479, ...params },
      { hardware: { units: [unit], measured: null } },
    );
  const held = unitIn(cabin, 'Gull', { threshold: -24, ratio: 4, attack: 12, release: 220, makeup: 5 });
  const springs = unitIn(cabin, 'Drip locker', { decay: 2.6, damping: 60 });
  // the locker's input is at −10 dBV
  const quiet = { send: -11.8, return: 11.8 };
  return [
    {
      kind: 'patch',
      name: 'Voice out to the Gull',
      category: 'Hardware/Compression',
      tags: ['voice', 'outboard', 'compressor'],
      colour: 'harbour',
      note: 'Threshold first, until the loud lines lean on it by 4 dB.',
      draft: piece(loop('Out to the Gull', 7, held)),
    },
    {
      kind: 'patch',
      name: 'Springs under the deck',
      category: 'Hardware/Space',
      tags: ['send', 'outboard', 'spring'],
      colour: 'mussel',
      note: 'On a return. Decay first, then how dark.',
      draft: piece(loop('Out to the Drip locker', 8, springs, quiet)),
    },
  ];
};

/** Single devices with their settings. */
const devicePieces = ({ m, piece }: Bench): Piece[] => [
  {
    kind: 'device',
    name: 'Sibilance, sung',
    category: 'Devices/De-esser',
    tags: ['voice'],
    colour: 'lantern',
    note: 'Frequency first, with the detector soloed; then the threshold.',
    draft: piece(m.d('deesser', 'Sibilance', { frequency: 6200, threshold: -34, range: -8 })),
  },
  {
    kind: 'device',
    name: 'Ceiling at −1 dBTP',
    category: 'Devices/Limiter',
    tags: ['master'],
    colour: 'tar',
    note: 'The threshold sets how loud; the ceiling stays.',
    draft: piece(m.d('limiter', 'Ceiling', { threshold: -3, ceiling: -1, truePeak: true })),
  },
  {
    kind: 'device',
    name: 'Nearest note in C, unhurried',
    category: 'Devices/Pitch',
    tags: ['voice', 'pitch'],
    colour: 'mussel',
    note: 'Speed first: faster is stricter. Choose the song’s key and scale.',
    draft: piece(m.d('pitchcorrect', 'Nearest note', { key: '0', scale: 'major', speed: 120, amount: 80 })),
  },
  {
    kind: 'device',
    name: 'A fifth below, quiet',
    category: 'Devices/Pitch',
    tags: ['voice', 'pitch', 'effect'],
    colour: 'heather',
    note: 'Mix first; 20 % is felt more than heard.',
    draft: piece(m.d('pitchshift', 'A fifth below', { semitones: -7, mix: 20 })),
  },
  {
    kind: 'device',
    name: 'Stone nave, far away',
    category: 'Devices/Space',
    tags: ['reverb', 'recorded space', 'effect'],
    colour: 'kelp',
    note: 'For a return. The first 20 ms are left out, so that the voice stays in front.',
    draft: piece(
      m.d('convolution', 'Stone nave', {
        impulse: spaceId(SPACES[4]),
        start: 20,
        lowCut: 180,
        highCut: 9000,
      }),
    ),
  },
];

/** The classic sets as presets: from the session where they play, or from a line that is laid beside it. */
export function lanternPieces(room: DemoSession): Preset[] {
  const bench = pieceBench(room);
  const list = [linePieces, blendPieces, rackPieces, devicePieces, patchPieces].flatMap((make) =>
    make(bench),
  );
  return list.map(({ draft, kind, name, category, tags, note, colour }, i) =>
    createPreset(
      {
        content: draft.content,
        reference: draft.reference,
        requirements: draft.requirements,
        hash: draft.hash,
      },
      {
        id: `demo-piece-${i + 1}`,
        kind,
        name,
        category,
        tags,
        note,
        colour: colour ?? draft.content.tracks[0].colour,
      },
    ),
  );
}
