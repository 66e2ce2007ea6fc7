import { applyDrop, countedIds, planDrop, planPrint, type Preset, type Session } from '../../core/index.ts';

type Holder = Record<string, unknown>;

/** Every place of a document, by the object that holds it. */
export function* places(value: object): Generator<[of: Holder, key: string]> {
  for (const [key, inner] of Object.entries(value)) {
    yield [value as Holder, key];
    if (typeof inner === 'object' && inner !== null) yield* places(inner as object);
  }
}

/** Nothing, other kinds of value, words of other places, texts and numbers that go too far, names of all objects. */
const ODD: readonly unknown[] = [
  ...[undefined, null, true, [], {}, [1], [{}], [null]],
  ...[0, 1, -1, 0.5, -1e9, 1e9],
  ...['', ' ', 'x', 'x y!', 'constructor', '__proto__', 'on', 'track', 'none'],
  ...['x'.repeat(65), 'x'.repeat(81), 'x'.repeat(201), 'x'.repeat(20001)],
];
/** Lists of so many of what they hold first. */
const MANY = [65, 300, 501, 2001];

/** Changes one place of a document in place. @param where, what any whole numbers; @returns the name of the place */
export function spoil(document: object, where: number, what: number): string {
  const all = [...places(document)];
  const [of, key] = all[where % all.length];
  const value = of[key];
  const odd = ODD[what % ODD.length];
  if (Array.isArray(value) && value.length > 0 && what % 2) {
    of[key] = Array.from({ length: MANY[what % MANY.length] }, () => value[0] as unknown);
  } else if (odd !== undefined) of[key] = odd;
  else if (Array.isArray(of)) of.splice(Number(key), 1);
  else delete of[key];
  return key;
}

/** A session with presets dropped into it, and with all that a session can have and seldom has. */
export function furnished(session: Session, presets: readonly Preset[]): Session {
  const ids = countedIds('d');
  const dropped = presets.reduce((s, preset) => {
    const plan = planDrop(s, preset, { ids });
    return plan.problems.length ? s : applyDrop(s, plan, preset).session;
  }, session);
  const [first, second] = dropped.tracks;
  const level = { id: 'lane', of: first.id, param: 'level', on: true };
  const points = [
    { at: 0, value: 0 },
    { at: 1, value: -3, hold: true as const },
  ];
  const chain = { clips: [], asleep: [{ id: 'a', was: 'on' as const }] };
  const printed = { input: first.input, clip: 'c', instrument: { track: second.id, slot: 'x' }, chain };
  return {
    ...dropped,
    headings: [{ id: 'heading', name: 'Voices', colour: 'brine', before: first.id }],
    key: { tonic: 2, mode: 'minor' },
    lastTies: { 'p/Voice bus': second.id },
    silenced: [{ key: 'no-sound/x', reason: 'It is meant so.' }],
    source: { format: 'dawproject', sha256: 'a'.repeat(64), name: 'Kelp and Copper.dawproject' },
    print: {
      ...planPrint(dropped),
      versions: [{ id: 'v', name: 'Without the lead', muted: [first.id], levels: { [second.id]: 2 } }],
      marks: [{ at: 1, name: 'Verse' }],
    },
    tracks: dropped.tracks.map((t) =>
      t === first ? { ...t, printed, automation: [{ ...level, points }] } : t,
    ),
  };
}
