/** Markers of pages: the last row of a page, by the columns that it is ordered by, so that the next begins behind it. */
import { HttpProblem } from './problem.ts';

type Key = string | number;

export const markerOf = (keys: readonly Key[]): string =>
  Buffer.from(JSON.stringify(keys)).toString('base64url');

/**
 * @param like a value of each kind that the marker holds
 * @throws HttpProblem when it is not a marker that this server gave out
 */
export function keysOf<T extends readonly Key[]>(marker: string, like: T): T {
  try {
    const keys = JSON.parse(Buffer.from(marker, 'base64url').toString()) as unknown[];
    if (like.length === keys.length && like.every((x, i) => typeof x === typeof keys[i])) {
      return keys as unknown as T;
    }
  } catch {
    /* answered below */
  }
  throw new HttpProblem('not-valid', 'The page marker is not one that this server gave out.');
}

/** A moment as the database writes it, in UTC. */
export const sqlDate = (d: Date): string => d.toISOString().slice(0, 23).replace('T', ' ');

/** What is typed, as a part of LIKE in which nothing stands for something else. */
export const likeText = (text: string): string => text.replace(/[%_\\]/g, '\\$&');
