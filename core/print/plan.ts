import { compile } from '../engine/compile.ts';
import { sessionLength } from '../engine/offline.ts';
import type { Id, Session, Track } from '../model/types.ts';
import type { Depth, PrintFile, PrintPlan, Stem } from '../model/print.ts';
import { mapSlots } from '../session/slots.ts';
import { isShared, ownersOf, undividedIn, type Undivided } from './arrange.ts';

/** As files are handed over (common practice): 24 bit, dithered, numbered. */
const FILE: PrintFile = {
  format: 'wav',
  bits: 24,
  dither: 'triangular',
  rate: null,
  mono: true,
  names: '{nn} {song} {stem}',
};
/** s that are waited at most for what rings on */
export const LONGEST_TAIL = 30;

/** Whether anything can be heard of a line by itself. */
const plays = (t: Track): boolean =>
  !isShared(t) &&
  t.role !== 'midi' &&
  (t.clips.some((c) => !c.off) || t.input.kind !== 'none' || t.role === 'instrument');

/** Lines that a print is made of: those that play and that are on. */
export const sources = (s: Session): Track[] => s.tracks.filter((t) => t.state === 'on' && plays(t));

/** How stems can be drawn up. */
export type StemsBy = 'line' | 'bus' | 'folder' | 'colour';

/** The bus that a line comes to first, or the folder that it lies in; null: neither. */
function groupOf(s: Session, t: Track, by: StemsBy): Track | string | null {
  if (by === 'line') return t;
  if (by === 'colour') return t.colour;
  if (by === 'folder') return outermost(s, t);
  return t.output.kind === 'track' ? lastBus(s, t) : null;
}

/** The last bus or folder before the master on a line's way. */
function lastBus(s: Session, t: Track): Track | null {
  let found: Track | null = null;
  let at: Track | undefined = t;
  for (let n = 0; at?.output.kind === 'track' && n <= s.tracks.length; n++) {
    const to: Id = at.output.track;
    at = s.tracks.find((x) => x.id === to);
    if (at && at.role !== 'master') found = at;
  }
  return found;
}
function outermost(s: Session, t: Track): Track | null {
  let found: Track | null = null;
  let folder = t.folder;
  for (let n = 0; folder && n <= s.tracks.length; n++) {
    const at = s.tracks.find((x) => x.id === folder);
    if (!at) break;
    [found, folder] = [at, at.folder];
  }
  return found;
}

/**
 * Stems of a session, each line in one of them: by line, by the last bus before the master, by the outermost folder, or
 * by colour. Lines without a bus or folder get stems of their own.
 */
export function stemsBy(s: Session, by: StemsBy, depth: Depth = 'buses'): Stem[] {
  const stems = new Map<string, Stem>();
  for (const t of sources(s)) {
    const group = groupOf(s, t, by) ?? t;
    const [key, name] = typeof group === 'string' ? [group, group] : [group.id, group.name];
    const stem = stems.get(key) ?? { id: `stem-${stems.size + 1}`, name, lines: [], depth };
    stems.set(key, { ...stem, lines: [...stem.lines, t.id] });
  }
  return [...stems.values()];
}

/** A name that says that somebody sings or speaks. */
const VOICE = /\b(voice|vocal|vox|lead|choir|singer|sung|speech)/i;
const isVoice = (s: Session, t: Track): boolean =>
  VOICE.test(t.name) || VOICE.test(lastBus(s, t)?.name ?? '');

/**
 * A first plan: the mix, a stem for each bus or folder (whichever puts more lines together) with its share of the
 * returns, and an instrumental where somebody sings. All files are equally long.
 */
export function planPrint(session: Session): PrintPlan {
  const [buses, folders] = [stemsBy(session, 'bus'), stemsBy(session, 'folder')];
  const stems = folders.length < buses.length ? folders : buses;
  const voices = sources(session).filter((t) => isVoice(session, t));
  const others = sources(session).length - voices.length;
  const muted = voices.map((t) => t.id);
  return {
    mix: true,
    versions: voices.length && others ? [{ id: 'version-1', name: 'Instrumental', muted, levels: {} }] : [],
    stems,
    off: [],
    range: null,
    tail: LONGEST_TAIL,
    preRoll: 0,
    file: FILE,
    level: { kind: 'as it is' },
  };
}

/** What a plan will print and what it will not, before it happens. */
export interface PrintOutlook {
  /** s, without what rings on */
  length: number;
  /** lines that are in no stem, by name, with the reason why they are not heard, if they are not */
  left: { track: Id; name: string; why: string }[];
  /** lines out of sight that are heard and printed all the same, by name */
  hidden: string[];
  /** lines that stand in more than one stem */
  twice: string[];
  /** devices that work on several stems at once and cannot be divided */
  undivided: Undivided[];
  /** whether the stems are meant to add up to the mix, or to what comes into the master */
  addsUp: 'mix' | 'before the master' | null;
  problems: string[];
}

/** Looks at a plan: what comes, what does not and why, what will not add up. */
export function printOutlook(session: Session, plan: PrintPlan): PrintOutlook {
  const schedule = compile(withoutDevices(session, plan.off));
  const owners = ownersOf(plan.stems);
  const names = new Map(session.tracks.map((t) => [t.id, t.name]));
  const counts = new Map<Id, number>();
  for (const stem of plan.stems) for (const id of stem.lines) counts.set(id, (counts.get(id) ?? 0) + 1);
  const length = plan.range ? plan.range.to - plan.range.from : sessionLength(session);
  const gone = [...owners.keys()].filter((id) => !names.has(id));
  return {
    length,
    left: session.tracks.flatMap((t) => leftOut(session, t, owners, schedule.nodes)),
    hidden: session.tracks
      .filter((t) => t.hidden && schedule.nodes.some((n) => n.track.id === t.id && !n.silent))
      .map((t) => t.name),
    twice: [...counts].filter(([, n]) => n > 1).map(([id]) => names.get(id) ?? id),
    undivided: undividedIn(schedule, plan.stems),
    addsUp: addsUpTo(plan.stems),
    problems: [
      ...(length > 0 ? [] : ['Nothing plays in this range: there is nothing to print.']),
      ...(plan.mix || plan.stems.length || plan.versions.length ? [] : ['Nothing is chosen to be printed.']),
      ...(gone.length ? ['A line of a stem is not in the session any more; it is left out.'] : []),
    ],
  };
}

/** What stems of one depth add up to; null where they are not meant to. */
export function addsUpTo(stems: readonly Stem[]): PrintOutlook['addsUp'] {
  const depths = new Set(stems.map((s) => s.depth));
  if (depths.size !== 1) return null;
  if (depths.has('master')) return 'mix';
  return depths.has('buses') ? 'before the master' : null;
}

type Nodes = ReturnType<typeof compile>['nodes'];

/** A line that a print leaves out, and why. */
function leftOut(s: Session, t: Track, owners: Map<Id, Stem>, nodes: Nodes): PrintOutlook['left'] {
  if (t.role === 'midi' || isShared(t) || !plays(t)) return [];
  const node = nodes.find((n) => n.track.id === t.id);
  const told = (why: string) => [{ track: t.id, name: t.name, why }];
  if (!node) return told('inactive');
  if (t.mute) return told('muted');
  if (node.hushed) return told('another line is soloed');
  return owners.has(t.id) || viaOwned(s, t, owners) ? [] : told('in no stem');
}

/** Whether a line comes to a bus that a stem has as a whole. */
function viaOwned(s: Session, t: Track, owners: Map<Id, Stem>): boolean {
  let at: Track | undefined = t;
  for (let n = 0; at?.output.kind === 'track' && n <= s.tracks.length; n++) {
    const to: Id = at.output.track;
    if (owners.has(to)) return true;
    at = s.tracks.find((x) => x.id === to);
  }
  return false;
}

/** The session with some devices left off, as a plan asks. */
export function withoutDevices(s: Session, off: readonly Id[]): Session {
  if (!off.length) return s;
  return {
    ...s,
    tracks: s.tracks.map((t) => ({
      ...t,
      chain: mapSlots(t.chain, (d) => (off.includes(d.id) ? { ...d, state: 'bypassed' } : d)),
    })),
  };
}
