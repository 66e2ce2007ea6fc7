import {
  capture,
  captureStarter,
  clone,
  createPreset,
  createRack,
  createSend,
  createStrand,
  createTrack,
  masterOf,
  placeFor,
  renewTrack,
  type CaptureOptions,
  type Captured,
  type Id,
  type Preset,
  type Session,
  type Track,
} from '../core/index.ts';
import { bands, maker, type Maker } from './make.ts';

interface Made {
  name: string;
  category: string;
  tags: string[];
  note: string;
  colour: string;
  draft: Captured;
  parent?: Preset['parent'];
}

/** Lines laid beside those of a session, each where its kind belongs. */
function beside(s: Session, lines: Track[]): Session {
  const out = { ...s, tracks: [...s.tracks] };
  for (const t of lines) out.tracks.splice(placeFor(out, t.role), 0, t);
  return out;
}

/**
 * Rigs and starters of the scenario. Every one is a set that the band's evenings ask for again and again; its
 * note says what to touch first.
 */
export function rigsAndStarters(kelp: Session, hall: Session, room: Session): Preset[] {
  const m = maker('rig');
  const list: Made[] = [
    leads(m, kelp),
    choirs(m, kelp),
    bed(m, kelp),
    drums(room),
    returns(room),
    answer(m, kelp),
    ...starters(kelp, hall, room),
  ];
  return list.map(({ draft, ...over }, i) => createPreset(draft, { id: `demo-rig-${i + 1}`, ...over }));
}

const idOf = (s: Session, name: string): Id => s.tracks.find((t) => t.name === name)!.id;
const copyOf = (m: Maker, s: Session, name: string, over: Partial<Track>): Track => ({
  ...renewTrack(clone(s.tracks.find((t) => t.name === name)!), (_old, prefix) => m.ids(prefix)),
  clips: [],
  ...over,
});

/** Lead, double and answer with the bus and both returns: a voice set that needs nothing from the session. */
function leads(m: Maker, kelp: Session): Made {
  const double = copyOf(m, kelp, 'Lead voice', {
    name: 'Double',
    level: -13,
    pan: -34,
    note: 'Level first.',
  });
  const answer = copyOf(m, kelp, 'Lead voice', {
    name: 'Answer',
    level: -15,
    pan: 46,
    colour: 'rosehip',
    note: 'Pan, then the plate.',
  });
  double.chain = double.chain.slice(0, 3);
  answer.chain = [...answer.chain.slice(0, 3), m.d('width', 'Wide', { width: 140 })];
  const s = beside(kelp, [double, answer]);
  const draft = capture(s, [
    idOf(s, 'Lead voice'),
    double.id,
    answer.id,
    idOf(s, 'Voice bus'),
    idOf(s, 'Plate'),
    idOf(s, 'Slap'),
  ]);
  return {
    name: 'Lead, double and answer with their bus',
    category: 'Voice/Sets',
    tags: ['lead', 'double', 'bus', 'plate'],
    colour: 'lantern',
    draft,
    note: 'The lead’s compressor first, 3 to 6 dB on the loud lines; then Double until it is missed when muted.',
  };
}

/** A clean and a crushed strand, blended. */
function choirBus(m: Maker, kelp: Session): Track {
  return createTrack(
    'bus',
    {
      name: 'Choir bus',
      colour: 'mussel',
      level: -2,
      output: { kind: 'track', track: idOf(kelp, 'Voice bus') },
      chain: [
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
            blend: { mode: 'power', position: 30 },
          },
          m.ids,
        ),
      ],
    },
    m.ids,
  );
}

/** A folder with three choir lines and their own bus with a clean and a crushed strand. */
function choirs(m: Maker, kelp: Session): Made {
  const folder = createTrack(
    'folder',
    { name: 'Shanty choir', colour: 'mussel', output: { kind: 'track', track: masterOf(kelp).id } },
    m.ids,
  );
  const bus = choirBus(m, kelp);
  const lines = [
    ['Low voices', -40, 160],
    ['High voices', 40, 220],
    ['Shouts', 0, 300],
  ].map(([name, pan, cut]) =>
    createTrack(
      'audio',
      {
        name: String(name),
        colour: 'mussel',
        level: -6,
        pan: Number(pan),
        folder: folder.id,
        output: { kind: 'track', track: bus.id },
        sends: [createSend(idOf(kelp, 'Plate'), { level: -10 }, m.ids)],
        chain: [
          m.d(
            'eq',
            'Make room',
            bands({ 1: ['highPass', Number(cut), 0, 0.71, 12], 4: ['bell', 420, -2.5, 1] }),
          ),
          m.d(
            'compressor',
            'Even out',
            { threshold: -26, ratio: 2.5, attack: 18, release: 200, knee: 10 },
            { state: name === 'Shouts' ? 'bypassed' : 'on' },
          ),
        ],
      },
      m.ids,
    ),
  );
  const s = beside(kelp, [folder, ...lines, bus]);
  return {
    name: 'Shanty choir in a folder, three lines',
    category: 'Voice/Sets',
    tags: ['choir', 'folder', 'parallel'],
    colour: 'mussel',
    draft: capture(s, [folder.id, ...lines.map((t) => t.id), bus.id]),
    note: 'The bus’s blend first: 20 to 40 %. Then pan the two sides until the lead has its place.',
  };
}

/**
 * Concertina and fiddle on a bed that gives way to the voice: the key is a loose end, to be tied to whoever
 * sings.
 */
function bed(m: Maker, kelp: Session): Made {
  const bus = createTrack(
    'bus',
    {
      name: 'Bed under the voice',
      colour: 'brine',
      level: -1,
      output: { kind: 'track', track: masterOf(kelp).id },
      note: 'Threshold first.',
      chain: [
        m.d(
          'compressor',
          'Give way',
          {
            threshold: -32,
            ratio: 2,
            knee: 10,
            attack: 20,
            release: 312.5,
            keyFilter: true,
            keyLow: 300,
            keyHigh: 4000,
          },
          { key: { kind: 'track', track: idOf(kelp, 'Lead voice'), tap: 'post' } },
        ),
      ],
    },
    m.ids,
  );
  const box = copyOf(m, kelp, 'Concertina', { name: 'Concertina', output: { kind: 'track', track: bus.id } });
  const fiddle = createTrack(
    'audio',
    {
      name: 'Fiddle',
      colour: 'rust',
      level: -10,
      pan: -26,
      output: { kind: 'track', track: bus.id },
      sends: [createSend(idOf(kelp, 'Plate'), { level: -16 }, m.ids)],
      chain: [
        m.d(
          'eq',
          'Rosin',
          bands({
            1: ['highPass', 190, 0, 0.71, 12],
            5: ['bell', 2800, -2, 1.2],
            7: ['highShelf', 9000, 1.5],
          }),
        ),
        m.d('compressor', 'Bow hand', { threshold: -24, ratio: 2.5, attack: 14, release: 130 }),
      ],
    },
    m.ids,
  );
  const s = beside(kelp, [fiddle, bus]);
  const without = { ...s, tracks: s.tracks.map((t) => (t.name === 'Concertina' ? box : t)) };
  return {
    name: 'Concertina and fiddle give way to the voice',
    category: 'Buses/Ducking',
    tags: ['ducking', 'key', 'bed'],
    colour: 'brine',
    draft: capture(without, [box.id, fiddle.id, bus.id]),
    note: 'Tie the key to whoever sings. Threshold for 2 to 3 dB, then the release: a quarter of the beat feels natural.',
  };
}

const drums = (room: Session): Made => ({
  name: 'Deck drums with their crush',
  category: 'Instruments/Drums',
  tags: ['drums', 'parallel', 'return'],
  colour: 'driftwood',
  draft: capture(room, ['lr-drums', 'lr-crush']),
  note: 'The crush return first: up until it is felt, then a little down. It comes along with the drums and stays theirs.',
});

const returns = (room: Session): Made => ({
  name: 'Plate, two echoes and copies',
  category: 'Returns/Voice',
  tags: ['returns', 'echo', 'plate', 'doubler'],
  colour: 'kelp',
  draft: capture(room, ['lr-plate', 'lr-quarter', 'lr-eighth', 'lr-doubled'], {
    ends: { 'output:lr-ducked': 'keep' } as CaptureOptions['ends'],
  }),
  note: 'Sends start closed on every new line: open one at a time. The echoes follow the session’s tempo by themselves.',
});

/** A variant of the lead chain: quieter, wider, one device less, an octave up. */
function answer(m: Maker, kelp: Session): Made {
  const t = copyOf(m, kelp, 'Lead voice', {
    name: 'Answer',
    colour: 'rosehip',
    level: -14,
    pan: 40,
    note: 'The octave’s mix first.',
  });
  t.chain = [
    ...t.chain.slice(1, 4),
    m.d('pitchshift', 'An octave up', { semitones: 12, mix: 35 }),
    m.d('width', 'Wide', { width: 150 }),
  ];
  const s = beside(kelp, [t]);
  return {
    name: 'Answer, an octave up',
    category: 'Voice/Double',
    tags: ['answer', 'octave', 'wide'],
    colour: 'rosehip',
    parent: { preset: 'demo-strip-1', version: 1 },
    draft: capture(s, [t.id]),
    note: 'The octave’s mix first: 20 to 40 %. Then the level, until it answers instead of leading.',
  };
}

/** Sessions as they begin, with the names of the studio's inputs. */
function starters(kelp: Session, hall: Session, room: Session): Made[] {
  const plugged = (s: Session, ports: Record<string, string>): Session => ({
    ...s,
    tracks: s.tracks.map((t) =>
      ports[t.name] ? { ...t, input: { kind: 'hardware', port: ports[t.name] } } : t,
    ),
  });
  return [
    {
      name: 'Cabin evening, five lines',
      category: 'Tracking/Folk',
      tags: ['recording', 'cabin'],
      colour: 'harbour',
      draft: captureStarter({
        ...plugged(kelp, {
          'Lead voice': 'Cabin in 1',
          Choir: 'Cabin in 3',
          Concertina: 'Cabin in 5',
          Bass: 'Cabin in 6',
          'Deck drums': 'Cabin in 7',
        }),
        note: 'Cabin evening',
      }),
      note: 'Set each input so that loud singing peaks at −12 dBFS; everything behind it is ready.',
    },
    {
      name: 'Hall mix, singers’ bus ready',
      category: 'Mixing/Folk',
      tags: ['mix', 'hall'],
      colour: 'copper',
      draft: captureStarter({
        ...plugged(hall, { 'Lead voice': 'Hall in 1', 'Crew choir': 'Hall in 2' }),
        note: 'Hall mix',
      }),
      note: 'Bring the singers’ bus up first; the dark plate is for everybody.',
    },
    {
      name: 'Ducked set with a trigger',
      category: 'Mixing/Dance evening',
      tags: ['mix', 'ducking', 'trigger'],
      colour: 'tar',
      draft: captureStarter({ ...room, note: 'Ducked set' }),
      note: 'Put a copy of the drums on Trigger; it is heard nowhere. Then the duck’s release.',
    },
  ];
}
