import type { Id } from './types.ts';

/** Makes ids; a drop or a demo can pass its own for repeatable documents. */
export type IdMaker = (prefix: string) => Id;

const ALPHABET = '23456789abcdefghjkmnpqrstuvwxyz';

/** Random ids such as "trk-7h2k9c4m3x" (about 49 bits). */
export const randomIds: IdMaker = (prefix) => {
  let s = '';
  for (let i = 0; i < 10; i++) s += ALPHABET[Math.floor(Math.random() * ALPHABET.length)];
  return prefix + '-' + s;
};

/** Repeatable ids: "trk-demo1", "trk-demo2", … */
export function countedIds(seed: string): IdMaker {
  let n = 0;
  return (prefix) => `${prefix}-${seed}${++n}`;
}
