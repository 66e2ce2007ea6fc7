import { nameWith } from '../model/text.ts';

/**
 * What becomes of something that a pack brings: it is new; it is here already; its history goes on where ours ends;
 * ours goes on where its own ends; both went on, each its own way; it lies in the trash here; another thing has its
 * name.
 */
export type PackFate = 'new' | 'same' | 'newer' | 'older' | 'both' | 'trash' | 'name';

/** What is here under the same id. */
export interface Mine {
  /** content hashes of all versions, the first one first */
  hashes: readonly string[];
  isDeleted: boolean;
}

export interface Fated {
  fate: PackFate;
  /** how many of its versions are here already, from its first one on */
  known: number;
}

/**
 * What would happen to a preset or a studio of a pack.
 * @param theirs content hashes of all its versions, the first one first
 * @param isNameTaken another one has its name here
 */
export function fateOf(theirs: readonly string[], mine: Mine | null, isNameTaken: boolean): Fated {
  if (!mine) return { fate: isNameTaken ? 'name' : 'new', known: 0 };
  const { hashes } = mine;
  const isWithin = (part: readonly string[], whole: readonly string[]) =>
    part.length <= whole.length && part.every((hash, i) => hash === whole[i]);
  if (isWithin(theirs, hashes)) {
    const whole: PackFate = theirs.length === hashes.length ? 'same' : 'older';
    return { fate: mine.isDeleted ? 'trash' : whole, known: theirs.length };
  }
  // versions may be numbered otherwise where histories were joined before: what counts is where the last one stands
  const ours = hashes.at(-1);
  const here = ours === undefined ? -1 : theirs.lastIndexOf(ours);
  if (here >= 0) return { fate: here === theirs.length - 1 ? 'same' : 'newer', known: here + 1 };
  if (hashes.includes(theirs.at(-1) ?? '')) return { fate: 'older', known: theirs.length };
  let common = 0;
  while (common < theirs.length && theirs[common] === hashes[common]) common++;
  return { fate: 'both', known: common };
}

/** A name that nothing here has yet: its own, or the next one of “name, from a pack”. */
export function nameFromPack(name: string, taken: ReadonlySet<string>): string {
  if (!taken.has(name)) return name;
  for (let n = 1; ; n++) {
    const next = nameWith(name, n === 1 ? ', from a pack' : `, from a pack ${n}`);
    if (!taken.has(next)) return next;
  }
}
