import {
  applyLayout,
  applyPlayer,
  capture,
  createPreset,
  createSession,
  createTrack,
  masterOf,
  planLayout,
  planPlayer,
  takersOf,
  type Params,
  type Preset,
  type Session,
  type Track,
} from '../core/index.ts';
import { bands, maker, type Maker } from './make.ts';

/** A kit, a bass and parts that play by themselves, each laid out on lines of its own. */
export function kitRigs(): Preset[] {
  const m = maker('kit');
  return [
    {
      session: deckKit(m),
      name: 'Deck kit on twelve outputs',
      category: 'Instruments/Kits',
      tags: ['kit', 'multi-output', 'drums', 'bus'],
      colour: 'rust',
      note:
        'Output levels first, so that every drum peaks at −12 dBFS; then the bus compressor, 2 to 3 dB on the ' +
        'kick. Its MIDI channel moves by itself where 10 is taken.',
    },
    {
      session: twoBasses(m),
      name: 'Bass, clean and driven outputs',
      category: 'Instruments/Bass',
      tags: ['bass', 'multi-output', 'dirt'],
      colour: 'harbour',
      note: 'The driven line’s level first: up until the notes speak on small speakers. Cut its lows, so that the clean one carries them alone.',
    },
    {
      session: shantyParts(m),
      name: 'Shanty parts, four voices',
      category: 'Instruments/Parts',
      tags: ['parts', 'multi-output', 'choir'],
      colour: 'heather',
      note: 'Each part has its channel and its line: give the choir the plate, then pull the horns back.',
    },
    {
      session: organ(m),
      name: 'Hall organ that plays along',
      category: 'Instruments/Keys',
      tags: ['keys', 'organ', 'pattern'],
      colour: 'brine',
      note: 'Brightness first, then the level: it is a bed, not a tune.',
    },
  ].map(({ session, ...over }, i) =>
    createPreset(
      capture(
        session,
        session.tracks.filter((t) => t.role !== 'master').map((t) => t.id),
      ),
      { id: `demo-kit-${i + 1}`, ...over },
    ),
  );
}

const empty = (m: Maker): Session => createSession({ name: 'Kits', tempo: 96 }, m.ids);
const pattern = (m: Maker, name: string, channel: number, params: Params): Track =>
  createTrack(
    'midi',
    {
      name,
      output: { kind: 'midi', port: 'A', channel },
      chain: [
        m.d(
          'pattern',
          'Pattern',
          Object.fromEntries([
            ...[1, 2, 3, 4].map((n) => [`l${n}.channel`, channel] as const),
            ...Object.entries(params),
          ]),
        ),
      ],
    },
    m.ids,
  );
const player = (
  m: Maker,
  s: Session,
  type: string,
  name: string,
  channel: number,
  params: Params = {},
): Track =>
  createTrack(
    'instrument',
    {
      name,
      colour: 'rust',
      input: { kind: 'midi', port: 'A', channel },
      output: { kind: 'track', track: masterOf(s).id },
      chain: [m.d(type, name, params)],
    },
    m.ids,
  );
const put = (s: Session, ...lines: Track[]): Session => ({ ...s, tracks: [...lines, ...s.tracks] });
const dress = (s: Session, chains: Record<string, Partial<Track>>): Session => ({
  ...s,
  tracks: s.tracks.map((t) => ({ ...t, ...chains[t.name] })),
});

/**
 * The deck drums as a kit: laid out, with starting settings on kick, snare and bus (common practice: mud out
 * of kick and bus, a gentle bus compressor).
 */
export function deckKit(m: Maker): Session {
  const s = empty(m);
  const kit = player(m, s, 'kit', 'Deck kit', 10);
  const beat = pattern(m, 'Deck beat', 10, {
    'l1.steps': 'X..x..x.X..x....',
    'l2.steps': '....X.......X..o',
    'l3.steps': 'x.x.x.x.x.x.xox.',
    'l4.on': true,
    'l4.key': 45,
    'l4.keys': '0 2 5',
    'l4.steps': '.............xxx',
    swing: '54',
  });
  const laid = put(s, beat, kit);
  const slot = kit.chain[0].id;
  return dress(applyLayout(laid, planLayout(laid, slot), m.ids), {
    Kick: { chain: [m.d('eq', 'Boards out', bands({ 4: ['bell', 350, -4, 1.1], 6: ['bell', 3500, 2, 1] }))] },
    Snare: {
      chain: [
        m.d('compressor', 'Crack', { threshold: -22, ratio: 4, attack: 12, release: 90, knee: 6, makeup: 2 }),
      ],
    },
    'Deck kit bus': {
      level: -4,
      chain: [
        m.d('eq', 'Bus tone', bands({ 4: ['bell', 400, -3, 0.9], 6: ['bell', 7500, 1.5, 0.9] })),
        m.d('compressor', 'Bus hold', { threshold: -16, ratio: 3, attack: 30, release: 80, knee: 8 }),
      ],
    },
  });
}

function twoBasses(m: Maker): Session {
  const s = empty(m);
  const low = player(m, s, 'bass', 'Hold bass', 2, { drive: 20 });
  const laid = put(
    s,
    pattern(m, 'Bass line', 2, {
      'l1.key': 38,
      'l1.keys': '0 0 7 5 3 0',
      'l1.steps': 'X..x..x.X..x..x.',
      'l1.gate': 170,
      'l2.on': false,
      'l3.on': false,
    }),
    low,
  );
  return dress(applyLayout(laid, planLayout(laid, low.chain[0].id), m.ids), {
    Clean: {
      chain: [m.d('eq', 'Low end', bands({ 1: ['highPass', 38, 0, 0.71, 12], 4: ['bell', 300, -2, 1] }))],
    },
    Driven: {
      level: -8,
      chain: [m.d('eq', 'No lows', bands({ 1: ['highPass', 180, 0, 0.71, 24], 8: ['lowPass', 5200] }))],
    },
  });
}

function shantyParts(m: Maker): Session {
  const rows = [
    ['Strings', 'strings', 'mussel'],
    ['Horns', 'horns', 'copper'],
    ['Choir', 'choir', 'heather'],
    ['Bells', 'bells', 'lantern'],
  ].map(([name, sound, colour]) => ({
    name,
    sound,
    colour,
    port: '' as const,
    channel: 0,
    width: 2 as const,
    insert: 'eq',
  }));
  const s = empty(m);
  const laid = applyPlayer(s, planPlayer(s, rows, { name: 'Shanty parts' }), m.ids);
  const source = createTrack(
    'midi',
    {
      name: 'Parts pattern',
      output: { kind: 'midi', port: 'A', channel: 0 },
      chain: [
        m.d('pattern', 'Pattern', {
          'l1.channel': 1,
          'l1.key': 62,
          'l1.keys': '0 3 7',
          'l1.steps': 'x.......x.......',
          'l1.gate': 700,
          'l2.channel': 2,
          'l2.key': 57,
          'l2.steps': '....x.......x...',
          'l2.gate': 300,
          'l3.channel': 3,
          'l3.key': 69,
          'l3.steps': 'o...............',
          'l3.gate': 800,
          'l4.on': true,
          'l4.channel': 4,
          'l4.key': 74,
          'l4.keys': '0 3 7 12',
          'l4.steps': '..x...x...x...x.',
        }),
      ],
    },
    m.ids,
  );
  return put(laid, source);
}

function organ(m: Maker): Session {
  const s = empty(m);
  return put(
    s,
    pattern(m, 'Organ pattern', 3, {
      'l1.key': 50,
      'l1.keys': '0 3 5 7',
      'l1.steps': 'x...............',
      'l1.gate': 800,
      'l2.key': 57,
      'l2.keys': '0 3 5 7',
      'l2.steps': 'x...............',
      'l2.gate': 800,
      'l3.on': false,
    }),
    { ...player(m, s, 'keys', 'Hall organ', 3, { sound: 'organ', bright: 45, level: -8 }), colour: 'brine' },
  );
}

/**
 * A kit that was laid out in a hurry, for the session whose faults the line check is to find: the kick was
 * left on the main output, the toms come out one place too far, the clap's line takes the snare's output, the
 * ride's line half of a pair; the pattern plays on another port, keys listen to the kit's channel, and two
 * controllers of a part are the same.
 */
export function hurriedKit(m: Maker, s: Session): Session {
  const own = deckKit(m);
  const master = masterOf(s).id;
  const other = masterOf(own).id;
  const kit = own.tracks.find((t) => t.name === 'Deck kit')!;
  const slot = kit.chain[0].id;
  const takers = new Set(takersOf(own, slot).map((t) => t.id));
  const at: Record<string, Partial<Extract<Track['input'], { kind: 'deviceOutput' }>>> = {
    'Low tom': { output: 6 },
    'Mid tom': { output: 7 },
    'High tom': { output: 8, take: 'left' },
    Clap: { output: 2 },
    Crash: { output: 8, take: 'left' },
  };
  const outputOf = ({ output }: Track): Track['output'] => {
    if (output.kind === 'midi') return { ...output, port: 'B' };
    const toMaster = output.kind === 'track' && output.track === other;
    return toMaster ? { kind: 'track', track: master } : output;
  };
  const lines = own.tracks
    .filter((t) => t.role !== 'master')
    .map((t): Track => ({
      ...t,
      output: outputOf(t),
      input:
        takers.has(t.id) && at[t.name] && t.input.kind === 'deviceOutput'
          ? { ...t.input, ...at[t.name] }
          : t.input,
      chain:
        t.id === kit.id
          ? t.chain.map((d) =>
              d.kind === 'device' ? { ...d, params: { ...d.params, 'p1.out': 'main' } } : d,
            )
          : t.chain,
    }));
  const keys = {
    ...player(m, s, 'keys', 'Cabin piano', 10),
    colour: 'brine',
    output: { kind: 'track' as const, track: master },
  };
  const parts = {
    ...player(m, s, 'parts', 'Two parts', 0, {
      'p1.foot': 1,
      'p2.port': 'C',
      'p3.sound': 'none',
      'p4.sound': 'none',
    }),
    colour: 'heather',
    output: { kind: 'track' as const, track: master },
  };
  return { ...s, tracks: [...s.tracks.slice(0, -1), ...lines, keys, parts, s.tracks.at(-1)!] };
}
