import {
  capture,
  createPreset,
  createRack,
  createSend,
  createSession,
  createStrand,
  createTrack,
  masterOf,
  placeFor,
  setupOf,
  type Preset,
  type Studio,
  type Track,
} from '../core/index.ts';
import { firstTry, lanternPieces, lanternRoom } from './lantern.ts';
import { harbourHall, lightshipCabin } from './studios.ts';
import { kitRigs } from './kits.ts';
import { rigsAndStarters } from './rigs.ts';
import { addSound, bands, maker, plateChain, type DemoSession } from './make.ts';
import { bass, choir, concertina, deckDrums, leadVoice, type Song } from './sounds.ts';

/**
 * The invented demo: The Saltmarsh Lanterns, recorded aboard a converted lightship and mixed in a village
 * hall. Starting settings are common practice (rumble filter at 50 Hz, mud between 300
 * and 500 Hz, air above 12 kHz, gentle bus compression, delay returns fully wet with the highs rolled off)
 * and marked as starting points in the notes.
 */
export type { DemoSession } from './make.ts';
/** `faulty`: a session with faults for the line check to find */
export interface DemoShelf {
  presets: Preset[];
  sessions: DemoSession[];
  faulty: DemoSession;
  studios: Studio[];
}

const D_MINOR: Song = {
  tempo: 96,
  sampleRate: 48000,
  bars: 4,
  seed: 1807,
  chords: [
    [50, 57, 62, 65],
    [48, 55, 60, 64],
    [46, 53, 58, 62],
    [45, 52, 57, 61],
  ],
  melody: [62, 65, 69, 67, 65, 64, 60, null, 62, 65, 70, 69, 67, 64, 61, null],
};
const G_MAJOR: Song = {
  tempo: 132,
  sampleRate: 44100,
  bars: 6,
  seed: 2213,
  chords: [
    [43, 50, 55, 59],
    [48, 55, 60, 64],
    [50, 57, 62, 66],
  ],
  melody: [
    67,
    71,
    74,
    72,
    71,
    69,
    67,
    null,
    72,
    76,
    79,
    76,
    74,
    72,
    69,
    null,
    74,
    72,
    71,
    69,
    67,
    66,
    67,
    null,
  ],
};

/** The session without its lines: buses, returns, and how lines reach them. */
function kelpDesk() {
  const m = maker('kc');
  const media = new Map<string, Uint8Array>();
  const s = createSession(
    {
      name: 'Kelp and Copper',
      tempo: 96,
      sampleRate: 48000,
      tracks: [],
      note: 'Fourth take, cabin door open.',
    },
    m.ids,
  );
  const master = createTrack(
    'master',
    {
      id: 'kc-master',
      chain: [
        m.d('eq', 'Tone', bands({ 1: ['highPass', 24, 0, 0.71, 12], 7: ['highShelf', 11000, 1] })),
        m.d('compressor', 'Hold together', { threshold: -16, ratio: 2, knee: 8, attack: 30, release: 120 }),
      ],
    },
    m.ids,
  );
  const voiceBus = createTrack(
    'bus',
    {
      id: 'kc-voicebus',
      name: 'Voice bus',
      colour: 'copper',
      level: -1,
      output: { kind: 'track', track: master.id },
      chain: [
        m.d('compressor', 'Bus hold', { threshold: -22, ratio: 2, attack: 15, release: 150, knee: 8 }),
        m.d('eq', 'Bus tone', bands({ 3: ['bell', 380, -1.5, 1.1], 7: ['highShelf', 12500, 1.5] })),
      ],
    },
    m.ids,
  );
  const plate = createTrack(
    'return',
    {
      id: 'kc-plate',
      name: 'Plate',
      colour: 'kelp',
      level: -3,
      output: { kind: 'track', track: master.id },
      chain: plateChain(m, 'Plate', 1.7),
    },
    m.ids,
  );
  const slap = createTrack(
    'return',
    {
      id: 'kc-slap',
      name: 'Slap',
      colour: 'samphire',
      level: -4,
      output: { kind: 'track', track: master.id },
      chain: [m.d('delay', 'Slap', { mode: 'ms', time: 156.25, feedback: 8, lowCut: 150, highCut: 4200 })],
    },
    m.ids,
  );
  const send = (to: Track, level: number, tap: 'pre' | 'post' = 'post') =>
    createSend(to.id, { level, tap }, m.ids);
  const clip = (name: string, channels: Float32Array[], rate: number) =>
    addSound(s, media, m, name, channels, rate);
  const toVoice = { kind: 'track' as const, track: voiceBus.id };
  const toMaster = { kind: 'track' as const, track: master.id };
  return { m, media, s, master, voiceBus, plate, slap, send, clip, toVoice, toMaster };
}
type Kelp = ReturnType<typeof kelpDesk>;

function kelpLead({ m, send, clip, toVoice, plate, slap }: Kelp): Track {
  return createTrack(
    'audio',
    {
      id: 'kc-lead',
      name: 'Lead voice',
      colour: 'lantern',
      channels: 1,
      level: -3,
      output: toVoice,
      clips: [clip('lead voice', leadVoice(D_MINOR), 48000)],
      sends: [send(plate, -14), send(slap, -20)],
      note: 'Touch the compressor’s threshold first: 3 to 6 dB of gain reduction on the loud lines. Then the 3 kHz bell.',
      chain: [
        m.d('trim', 'Level in', { gain: 2 }),
        m.d(
          'eq',
          'Clean up',
          bands({ 1: ['highPass', 95, 0, 0.71, 24], 3: ['bell', 340, -3, 1.2], 6: ['bell', 7200, -2.5, 3] }),
        ),
        m.d('compressor', 'Close and warm', {
          threshold: -24,
          ratio: 3,
          knee: 8,
          attack: 6,
          release: 90,
          makeup: 3,
        }),
        m.d('eq', 'Presence', bands({ 5: ['bell', 3000, 2, 0.8], 7: ['highShelf', 12000, 2.5] })),
        m.d(
          'compressor',
          'Catch peaks',
          { threshold: -12, ratio: 10, attack: 0.8, release: 60, knee: 3 },
          { state: 'bypassed' },
        ),
        m.d(
          'delay',
          'Line-end echo',
          { note: '1/8d', feedback: 30, mix: 18, highCut: 3800 },
          { state: 'inactive' },
        ),
      ],
    },
    m.ids,
  );
}

function kelpChoir({ m, send, clip, toVoice, plate }: Kelp): Track {
  return createTrack(
    'audio',
    {
      id: 'kc-choir',
      name: 'Choir',
      colour: 'mussel',
      level: -7,
      output: toVoice,
      clips: [clip('choir', choir(D_MINOR), 48000)],
      sends: [send(plate, -9)],
      note: 'Keep it behind the lead: level first.',
      chain: [
        m.d(
          'eq',
          'Make room',
          bands({ 1: ['highPass', 150, 0, 0.71, 12], 4: ['bell', 420, -2.5, 1], 5: ['bell', 2800, -2, 0.9] }),
        ),
        m.d('compressor', 'Even out', { threshold: -26, ratio: 2.5, attack: 18, release: 200, knee: 10 }),
        createRack(
          'Clean and crushed',
          [],
          {
            strands: [
              createStrand('Clean', [], {}, m.ids),
              createStrand(
                'Crushed',
                [
                  m.d('compressor', 'Crush', {
                    threshold: -38,
                    ratio: 10,
                    attack: 3,
                    release: 90,
                    knee: 6,
                    makeup: 9,
                  }),
                ],
                {},
                m.ids,
              ),
            ],
            blend: { mode: 'power', position: 40 },
          },
          m.ids,
        ),
      ],
    },
    m.ids,
  );
}

function kelpConcertina({ m, send, clip, toMaster, plate }: Kelp): Track {
  return createTrack(
    'audio',
    {
      id: 'kc-concertina',
      name: 'Concertina',
      colour: 'brine',
      level: -9,
      pan: 24,
      output: toMaster,
      clips: [clip('concertina', concertina(D_MINOR), 48000)],
      sends: [send(plate, -18)],
      chain: [
        m.d('eq', 'Tame the reeds', bands({ 1: ['highPass', 120, 0, 0.71, 12], 5: ['bell', 2100, -3, 1.4] })),
        m.d('compressor', 'Bellows', { threshold: -22, ratio: 3, attack: 10, release: 110 }),
      ],
    },
    m.ids,
  );
}

function kelpBass({ m, clip, toMaster }: Kelp): Track {
  return createTrack(
    'audio',
    {
      id: 'kc-bass',
      name: 'Bass',
      colour: 'rust',
      channels: 1,
      level: -4,
      output: toMaster,
      clips: [clip('upright bass', bass(D_MINOR), 48000)],
      chain: [
        m.d(
          'eq',
          'Low end',
          bands({ 1: ['highPass', 38, 0, 0.71, 12], 2: ['lowShelf', 90, 2], 4: ['bell', 300, -2, 1] }),
        ),
        m.d('compressor', 'Steady', { threshold: -20, ratio: 4, attack: 25, release: 140, makeup: 2 }),
      ],
    },
    m.ids,
  );
}

function kelpDrums({ m, send, clip, toMaster, plate }: Kelp): Track {
  return createTrack(
    'audio',
    {
      id: 'kc-drums',
      name: 'Deck drums',
      colour: 'driftwood',
      level: -5,
      output: toMaster,
      clips: [clip('deck drums', deckDrums(D_MINOR), 48000)],
      sends: [send(plate, -24)],
      chain: [
        m.d('eq', 'Boards', bands({ 4: ['bell', 400, -3, 1.1], 6: ['bell', 7500, 1.5, 1] })),
        m.d('compressor', 'Bounce', { threshold: -18, ratio: 3.5, attack: 28, release: 70 }),
      ],
    },
    m.ids,
  );
}

function kelpAndCopper(): DemoSession {
  const desk = kelpDesk();
  const { s, media, voiceBus, plate, slap, master } = desk;
  const lines = [kelpLead, kelpChoir, kelpConcertina, kelpBass, kelpDrums].map((make) => make(desk));
  s.tracks = [...lines, voiceBus, plate, slap, master];
  return { id: 'kelp-and-copper', session: s, media };
}

/** The session without its lines. */
function ninthDesk() {
  const m = maker('nw');
  const media = new Map<string, Uint8Array>();
  const s = createSession(
    {
      name: 'Ninth Wave Out',
      tempo: 132,
      sampleRate: 44100,
      tracks: [],
      note: 'Village hall, second evening.',
    },
    m.ids,
  );
  const master = createTrack(
    'master',
    {
      id: 'nw-master',
      chain: [m.d('compressor', 'Glue', { threshold: -14, ratio: 2, attack: 30, release: 100 })],
    },
    m.ids,
  );
  const toMaster = { kind: 'track' as const, track: master.id };
  const singers = createTrack(
    'bus',
    {
      id: 'nw-singers',
      name: 'Singers bus',
      colour: 'copper',
      output: toMaster,
      chain: [m.d('compressor', 'Bus hold', { threshold: -20, ratio: 2, attack: 20, release: 160 })],
    },
    m.ids,
  );
  const verb = createTrack(
    'return',
    {
      id: 'nw-verb',
      name: 'Hall plate, dark',
      colour: 'kelp',
      level: -5,
      output: toMaster,
      chain: [
        m.d('reverb', 'Hall plate', { type: 'plate', decay: 2.2, preDelay: 30, damping: 60, highCut: 7000 }),
      ],
    },
    m.ids,
  );
  const clip = (name: string, channels: Float32Array[]) => addSound(s, media, m, name, channels, 44100);
  return { m, media, s, master, toMaster, singers, verb, clip };
}

function ninthLines({ m, toMaster, singers, verb, clip }: ReturnType<typeof ninthDesk>) {
  const lead = createTrack(
    'audio',
    {
      id: 'nw-lead',
      name: 'Lead voice',
      colour: 'rosehip',
      channels: 1,
      level: -4,
      output: { kind: 'track', track: singers.id },
      clips: [clip('lead voice, hall', leadVoice(G_MAJOR))],
      sends: [createSend(verb.id, { level: -12 }, m.ids)],
    },
    m.ids,
  );
  const crew = createTrack(
    'audio',
    {
      id: 'nw-crew',
      name: 'Crew choir',
      colour: 'mussel',
      level: -8,
      output: { kind: 'track', track: singers.id },
      clips: [clip('crew choir', choir(G_MAJOR))],
    },
    m.ids,
  );
  const box = createTrack(
    'audio',
    {
      id: 'nw-box',
      name: 'Concertina',
      colour: 'brine',
      level: -10,
      pan: -20,
      output: toMaster,
      clips: [clip('concertina, hall', concertina(G_MAJOR))],
    },
    m.ids,
  );
  const low = createTrack(
    'audio',
    {
      id: 'nw-bass',
      name: 'Bass',
      colour: 'rust',
      channels: 1,
      level: -5,
      output: toMaster,
      clips: [clip('bass, hall', bass(G_MAJOR))],
    },
    m.ids,
  );
  const drums = createTrack(
    'audio',
    {
      id: 'nw-drums',
      name: 'Deck drums',
      colour: 'driftwood',
      level: -6,
      output: toMaster,
      clips: [clip('deck drums, hall', deckDrums(G_MAJOR))],
    },
    m.ids,
  );
  return { lead, crew, box, low, drums };
}

/** The crew leans in for the second half, and the last word of each phrase is thrown into the plate. */
function ninthLanes(lead: Track, crew: Track, tempo: number): void {
  const bar = (n: number) => Math.round(((n - 1) * 4 * 60000) / tempo) / 1000;
  crew.automation = [
    {
      id: 'nw-crew-level',
      of: crew.id,
      param: 'level',
      on: true,
      points: [
        { at: bar(1), value: -14 },
        { at: bar(3), value: -12 },
        { at: bar(5), value: -8 },
        { at: bar(6), value: -6.5 },
      ],
    },
  ];
  lead.automation = [
    {
      id: 'nw-throw',
      of: lead.sends[0].id,
      param: 'level',
      on: true,
      points: [
        [1, -24],
        [2.5, -4],
        [3.25, -24],
        [5.5, -2],
        [6.25, -24],
      ].map(([n, value]) => ({ at: bar(n), value, hold: true as const })),
    },
  ];
}

function ninthWaveOut(): DemoSession {
  const desk = ninthDesk();
  const { s, media, singers, verb, master } = desk;
  const { lead, crew, box, low, drums } = ninthLines(desk);
  ninthLanes(lead, crew, s.tempo);
  s.tracks = [lead, crew, box, low, drums, singers, verb, master];
  return { id: 'ninth-wave-out', session: s, media };
}

/** What strips are made with, beside the session that they are laid into. */
function stripBench(home: DemoSession) {
  const m = maker('shelf');
  const id = (name: string) => home.session.tracks.find((t) => t.name === name)!.id;
  const send = (to: string, level: number) => createSend(id(to), { level }, m.ids);
  const voice = { kind: 'track' as const, track: id('Voice bus') };
  const toMaster = { kind: 'track' as const, track: masterOf(home.session).id };
  const line = (name: string, colour: string, over: Partial<Track>) =>
    createTrack('audio', { name, colour, output: voice, ...over }, m.ids);
  const home1 = (name: string) => home.session.tracks.find((t) => t.name === name)!;
  return { m, send, toMaster, line, home1 };
}
type Bench = ReturnType<typeof stripBench>;

interface Strip {
  track: Track;
  name: string;
  category: string;
  tags: string[];
  variant?: boolean;
}

/** Lines of the session itself, and a copy of its lead. */
const songStrips = ({ m, send, line, home1 }: Bench): Strip[] => [
  {
    track: home1('Lead voice'),
    name: 'Lead, close and warm',
    category: 'Voice/Lead',
    tags: ['lead', 'folk', 'warm'],
  },
  {
    name: 'Double, tucked under',
    category: 'Voice/Double',
    tags: ['double', 'quiet'],
    variant: true,
    track: line('Double', 'lantern', {
      channels: 1,
      level: -12,
      pan: -35,
      sends: [send('Plate', -10)],
      note: 'Level first: it should be missed when muted, not heard. Then the high-pass.',
      chain: [
        m.d(
          'eq',
          'Thin out',
          bands({
            1: ['highPass', 180, 0, 0.71, 24],
            3: ['bell', 350, -4, 1.2],
            7: ['highShelf', 9000, -2],
          }),
        ),
        m.d('compressor', 'Flatten', { threshold: -30, ratio: 6, attack: 2, release: 60, makeup: 5 }),
      ],
    }),
  },
  {
    track: home1('Choir'),
    name: 'Shanty choir, wide and behind',
    category: 'Voice/Choir',
    tags: ['choir', 'group'],
  },
  {
    track: home1('Concertina'),
    name: 'Concertina, reeds tamed',
    category: 'Instruments/Concertina',
    tags: ['reeds', 'folk'],
  },
  {
    track: home1('Bass'),
    name: 'Upright bass, steady',
    category: 'Instruments/Bass',
    tags: ['bass', 'acoustic'],
  },
];

/** Speech. */
const spokenStrips = ({ m, line, toMaster }: Bench): Strip[] => [
  {
    name: 'Spoken word, even and near',
    category: 'Voice/Speech',
    tags: ['speech', 'intro'],
    track: line('Spoken word', 'harbour', {
      channels: 1,
      level: -2,
      output: toMaster,
      note: 'Set Level in so that talking reaches −18 dBFS, then leave the rest alone.',
      chain: [
        m.d('trim', 'Level in', { gain: 3 }),
        m.d(
          'eq',
          'Room out',
          bands({ 1: ['highPass', 85, 0, 0.71, 24], 3: ['bell', 280, -3, 1], 5: ['bell', 3500, 2, 0.9] }),
        ),
        m.d('compressor', 'Slow hand', {
          threshold: -26,
          ratio: 2.5,
          attack: 20,
          release: 250,
          detector: 'rms',
          makeup: 4,
        }),
        m.d('compressor', 'Fast hand', { threshold: -14, ratio: 8, attack: 0.5, release: 50, knee: 2 }),
      ],
    }),
  },
];

/** Voices that are meant to stand out. */
const effectStrips = ({ m, send, line }: Bench): Strip[] => [
  {
    name: 'Quiet whisper, forward',
    category: 'Voice/Effect',
    tags: ['whisper', 'close', 'effect'],
    track: line('Whisper', 'heather', {
      channels: 1,
      level: -8,
      sends: [send('Plate', -8), send('Slap', -16)],
      note: 'Makeup first. Watch the 7 kHz bell: whispers are all sibilance.',
      chain: [
        m.d(
          'eq',
          'Only air',
          bands({
            1: ['highPass', 240, 0, 0.71, 24],
            6: ['bell', 7000, -4, 2],
            7: ['highShelf', 13000, 4],
          }),
        ),
        m.d('compressor', 'Lift', {
          threshold: -42,
          ratio: 8,
          attack: 3,
          release: 120,
          knee: 12,
          makeup: 14,
          lookahead: 2,
        }),
        m.d('reverb', 'Small cabin', { type: 'room', decay: 0.4, mix: 15, preDelay: 4 }),
      ],
    }),
  },
  {
    name: 'Ship-to-shore telephone',
    category: 'Voice/Effect',
    tags: ['telephone', 'effect', 'lo-fi'],
    track: line('Telephone', 'samphire', {
      channels: 1,
      level: -6,
      sends: [send('Slap', -18)],
      note: 'Move both filters together; the 1.6 kHz bell sets how small the speaker is.',
      chain: [
        m.d('trim', 'Mono', { mono: true, gain: 4 }),
        m.d(
          'eq',
          'Narrow line',
          bands({
            1: ['highPass', 380, 0, 0.71, 36],
            4: ['bell', 1600, 6, 1.4],
            8: ['lowPass', 3200, 0, 0.71, 36],
          }),
        ),
        m.d('compressor', 'Crushed', { threshold: -32, ratio: 12, attack: 1, release: 45, makeup: 6 }),
        m.d('delay', 'Echo down the line', {
          note: '1/16d',
          feedback: 18,
          mix: 12,
          highCut: 2600,
          lowCut: 300,
        }),
      ],
    }),
  },
];

/**
 * Strips of the shelf: each is a line that is laid into "Kelp and Copper" and captured from there, so that
 * its returns travel as spares.
 */
function strips(home: DemoSession): Preset[] {
  const bench = stripBench(home);
  const made = [songStrips, spokenStrips, effectStrips].flatMap((make) => make(bench));
  return made.map(({ track, name, category, tags, variant }, i) => {
    const inHome = home.session.tracks.some((t) => t.id === track.id);
    const tracks = [...home.session.tracks];
    if (!inHome) tracks.splice(placeFor(home.session, track.role), 0, track);
    const draft = capture({ ...home.session, tracks }, [track.id]);
    return createPreset(draft, {
      id: `demo-strip-${i + 1}`,
      name,
      category,
      tags,
      parent: variant ? { preset: 'demo-strip-1', version: 1 } : null,
      colour: track.colour,
      note: track.note || 'A starting point: each voice, microphone and song needs its own adjustment.',
    });
  });
}

/** Everything the first start puts into the database. The same every time. */
export function makeDemo(): DemoShelf {
  const cabin = lightshipCabin();
  const home = kelpAndCopper();
  // it was recorded in the cabin
  home.session = { ...home.session, setupId: cabin.id, setup: setupOf(cabin) };
  const hall = ninthWaveOut();
  const room = lanternRoom();
  return {
    presets: [
      ...strips(home),
      ...lanternPieces(room),
      ...rigsAndStarters(home.session, hall.session, room.session),
      ...kitRigs(),
    ],
    sessions: [home, hall, room],
    faulty: firstTry(room),
    studios: [cabin, harbourHall()],
  };
}
