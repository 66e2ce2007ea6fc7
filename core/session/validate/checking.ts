import { ID, LISTS } from '../../model/limits.ts';
import { PART_IDS, type Problem, type Session, type Track } from '../../model/types.ts';

/** Least and most letters or members; a text of at least one letter is not only spaces. */
export type Size = readonly [least: number, most: number];

/** What the checks of a session share: where breaches go, and what is known of the session. */
export interface Checking {
  bad(path: string, rule: string, message: string): void;
  /** whether something is wrong already: then what depends on it is not looked at */
  failed(): boolean;
  number(v: unknown, min: number, max: number, path: string, what: string): void;
  text(v: unknown, path: string, what: string, size: Size): void;
  /** @param what whose list it is, and what is in it: “Track “Voice”: clips” */
  list<T>(v: T[], path: string, what: string, each: (x: T, path: string) => void): void;
  /** an id is well formed and used once */
  unique(id: unknown, path: string): void;
  readonly byId: ReadonlyMap<string, Track>;
  readonly media: ReadonlySet<string>;
  readonly tracks: number;
}

/** No more breaches than anybody reads. */
const MOST = 200;

/** Checks of one session; breaches are put into `out`. */
export function checking(s: Session, out: Problem[]): Checking {
  const tracks = Array.isArray(s.tracks) ? s.tracks : [];
  const known = tracks.filter((t) => isObject(t) && typeof t.id === 'string');
  const seen = new Set<string>();
  const bad: Checking['bad'] = (path, rule, message) => {
    if (out.length < MOST) out.push({ path, rule, message });
  };
  return {
    bad,
    failed: () => out.length > 0,
    number(v, min, max, path, what) {
      if (typeof v !== 'number' || !Number.isFinite(v)) bad(path, 'number', `${what} is a number.`);
      else if (v < min || v > max) bad(path, 'range', `${what} goes from ${min} to ${max}; ${v} is outside.`);
    },
    text(v, path, what, [least, most]) {
      if (typeof v !== 'string' || (least > 0 && v.trim() === '')) {
        bad(path, 'text', `${what} is a text${least > 0 ? ' and is not empty' : ''}.`);
      } else if (isLonger(v, most)) bad(path, 'length', `${what} holds at most ${most} characters.`);
    },
    list(v, path, what, each) {
      const most = LISTS.Track.chain[1];
      if (!Array.isArray(v)) bad(path, 'list', `${what}: a list is expected.`);
      else if (v.length > most) {
        bad(path, 'size', `${what}: ${v.length} are more than the ${most} that fit; join or remove some.`);
      } else {
        v.forEach((x, i) => {
          if (isObject(x)) each(x, `${path}/${i}`);
          else bad(`${path}/${i}`, 'object', `${what}: an object is expected.`);
        });
      }
    },
    unique(id, path) {
      if (typeof id !== 'string' || !ID.test(id)) {
        bad(path + '/id', 'id', 'An id is 1 to 80 letters, digits, dots, colons or dashes.');
      } else if (seen.has(id)) bad(path + '/id', 'unique-id', `The id “${id}” is used twice.`);
      else seen.add(id);
    },
    byId: new Map(known.map((t) => [t.id, t])),
    media: new Set(Array.isArray(s.media) ? s.media.map((m) => m?.id) : []),
    tracks: tracks.length,
  };
}

/** Letters as the database and JSON Schema count them: what takes two places in a text is one of them. */
export const isLonger = (v: string, most: number): boolean => v.length > most && Array.from(v).length > most;

export const isObject = (v: unknown): v is Record<string, unknown> =>
  typeof v === 'object' && v !== null && !Array.isArray(v);

export const isText = (v: unknown): v is string => typeof v === 'string';
export const isListOf = (v: unknown, isOne: (x: unknown) => boolean): boolean =>
  Array.isArray(v) && v.every(isOne);
/** One of the parts of a line that a preset can hold. */
export const isPart = (v: unknown): boolean => (PART_IDS as readonly unknown[]).includes(v);
export const isWhole = (v: unknown, low: number, high: number): v is number =>
  Number.isInteger(v) && (v as number) >= low && (v as number) <= high;
export const isWithin = (v: unknown, [low, high]: Size): v is number =>
  typeof v === 'number' && v >= low && v <= high;
