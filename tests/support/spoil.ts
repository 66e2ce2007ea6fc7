import { applyDrop, countedIds, planDrop, planPrint, type Preset, type Session } from '../../core/index.ts';

type Holder = Record<string, unknown>;

/** Every place of a document: the object that holds it, its name there, and what kind of place it is. */
function* places(value: object, path = ''): Generator<[of: Holder, key: string, kind: string]> {
  for (const [key, inner] of Object.entries(value)) {
    const kind = `${path}/${Array.isArray(value) ? '' : key}${kindOf(inner)}`;
    yield [value as Holder, key, kind];
    if (typeof inner === 'object' && inner !== null) yield* places(inner as object, kind);
  }
}
/** Devices, racks, inputs of each kind have places of their own; how deep a chain lies makes none. */
const kindOf = (value: unknown): string => {
  const { type = '', kind = '' } = (value ?? {}) as { type?: unknown; kind?: unknown };
  return type || kind ? `(${String(type)} ${String(kind)})` : '';
};

/**
 * One place of each kind. Of all places, nine in ten are values of devices: what a document has once or seldom would
 * hardly ever be changed.
 */
function kinds(document: object): [of: Holder, key: string][] {
  const found = new Map<string, [Holder, string]>();
  for (const [of, key, kind] of places(document)) {
    const short = kind.replace(/^.*\/chain\//, 'chain/');
    if (!found.has(short)) found.set(short, [of, key]);
  }
  return [...found.values()];
}

/** Nothing, other kinds of value, words of other places, texts and numbers that go too far, names of all objects. */
const ODD: readonly unknown[] = [
  ...[undefined, null, true, [], {}, [1], [{}], [null], [[]]],
  ...[0, 1, -1, 0.5, -1e9, 1e9, 1e308],
  ...['', ' ', 'x', 'x y!', 'constructor', '__proto__', 'on', 'track', 'none'],
  ...['x'.repeat(65), 'x'.repeat(81), 'x'.repeat(201), 'x'.repeat(20001)],
];
/** The value itself, a little otherwise: in a list, with something that nobody knows, beside itself. */
const NEAR: readonly ((value: unknown) => unknown)[] = [
  (value) => [value],
  (value) => (typeof value === 'object' && !Array.isArray(value) ? { ...value, extra: 1 } : [value]),
  (value) => (typeof value === 'number' ? -value : `${String(value)} `),
  (value) => (typeof value === 'number' ? value + 0.5 : String(value).toUpperCase()),
];
/** Lists of so many of what they hold first. */
const MANY = [65, 300, 501, 2001];

/** Changes one place of a document in place. @param where, what any whole numbers; @returns the name of the place */
export function spoil(document: object, where: number, what: number): string {
  const all = kinds(document);
  const [of, key] = all[where % all.length];
  const value = of[key];
  if (Array.isArray(value) && value.length > 0 && what % 2) {
    of[key] = Array.from({ length: MANY[what % MANY.length] }, () => value[0] as unknown);
    return key;
  }
  const at = what % (ODD.length + NEAR.length);
  const odd = at < ODD.length ? ODD[at] : NEAR[at - ODD.length](value);
  if (odd !== undefined) of[key] = odd;
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
