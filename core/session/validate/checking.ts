import type { Problem, Session, Track } from '../../model/types.ts';

/** What the checks of a session share: where breaches go, and what is known of the session. */
export interface Checking {
  bad(path: string, rule: string, message: string): void;
  /** whether something is wrong already: then what depends on it is not looked at */
  failed(): boolean;
  number(v: unknown, min: number, max: number, path: string, what: string): void;
  text(v: unknown, path: string, what: string, max: number, mayBeEmpty?: boolean): void;
  list<T>(v: T[], path: string, each: (x: T, path: string) => void): void;
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
    text(v, path, what, max, mayBeEmpty = false) {
      if (typeof v !== 'string' || (!mayBeEmpty && v.trim() === '')) {
        bad(path, 'text', `${what} is a text${mayBeEmpty ? '' : ' and is not empty'}.`);
      } else if (v.length > max) bad(path, 'length', `${what} holds at most ${max} characters.`);
    },
    list(v, path, each) {
      if (!Array.isArray(v)) bad(path, 'list', 'A list is expected here.');
      else if (v.length > 500) bad(path, 'size', 'A list holds at most 500 members.');
      else {
        v.forEach((x, i) => {
          if (isObject(x)) each(x, `${path}/${i}`);
          else bad(`${path}/${i}`, 'object', 'An object is expected here.');
        });
      }
    },
    unique(id, path) {
      if (typeof id !== 'string' || !/^[\w.:-]{1,80}$/.test(id)) {
        bad(path + '/id', 'id', 'An id is 1 to 80 letters, digits, dots, colons or dashes.');
      } else if (seen.has(id)) bad(path + '/id', 'unique-id', `The id “${id}” is used twice.`);
      else seen.add(id);
    },
    byId: new Map(known.map((t) => [t.id, t])),
    media: new Set(Array.isArray(s.media) ? s.media.map((m) => m?.id) : []),
    tracks: tracks.length,
  };
}

export const isObject = (v: unknown): v is Record<string, unknown> =>
  typeof v === 'object' && v !== null && !Array.isArray(v);

const whole = (v: unknown, low: number, high: number): v is number =>
  Number.isInteger(v) && (v as number) >= low && (v as number) <= high;
export const key = (v: unknown): v is number => whole(v, 0, 127);
export const channel = (v: unknown): v is number => whole(v, 1, 16);
export const time = (v: unknown): v is number => typeof v === 'number' && v >= 0 && v <= 100000;
