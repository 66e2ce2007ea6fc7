import { distance } from 'fastest-levenshtein';
import type { EntityManager } from 'typeorm';
import { ownerNow } from './acting.ts';
import { PresetWordRow, SearchWordRow } from './entities.ts';

/** words that may be meant by one that is misspelt */
const MEANT = 3;
/** known words that are looked up in the lists at most: one that was known may be in none any more */
const NEAREST = 40;
/** letters of a word that the lists keep (as their migration has it) */
const LONGEST = 60;
/** lists that are walked beside each other at most: a single letter may begin thousands of words */
const MOST_LISTS = 64;

/** The words of a text as the search sees them: small letters and figures. */
export const wordsOf = (text: string): string[] =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);

/** Letters that may be wrong in a word, by its length: a turned pair counts as two. */
function mayDiffer(word: string): number {
  if (word.length < 4) return 1;
  return word.length < 9 ? 2 : 3;
}
/** How far a typed word is from one that is known, whole or as its beginning. */
const farness = (typed: string, known: string): number =>
  Math.min(distance(typed, known), distance(typed, known.slice(0, typed.length)) + 0.5);

/** A figure stands for itself: no other one is meant by it. */
const isFigure = (word: string): boolean => /^\p{N}/u.test(word);

/** The pattern of what begins like a word; in a word nothing stands for something else. */
const begunBy = (word: string): string => `${[...word].slice(0, LONGEST).join('')}%`;

/** Whether anything on the shelf is found by a word that begins like this. */
const isFound = (m: EntityManager, begin: string): Promise<boolean> =>
  m
    .getRepository(PresetWordRow)
    .createQueryBuilder('l')
    .where('l.owner = :o AND l.word LIKE :begin', { o: ownerNow(), begin: begunBy(begin) })
    .getExists();

/**
 * What may be meant by a word that nothing begins with: words a letter or two away that something is found by, nearest
 * first.
 * @returns nothing where something begins with the word as it is, or nothing is near
 */
export async function meantBy(m: EntityManager, word: string): Promise<string[]> {
  if (word.length < 3 || isFigure(word) || (await isFound(m, word))) return [];
  // every numbered name makes a word of its own: figures, which sort before all letters, are not read
  const known = await m
    .getRepository(SearchWordRow)
    .createQueryBuilder('w')
    .select('w.word', 'word')
    .where("w.owner = :o AND w.word >= 'a'", { o: ownerNow() })
    .getRawMany<{ word: string }>();
  const near = known
    .filter((row) => row.word.length > 2)
    .map((row) => ({ word: row.word, far: farness(word, row.word) }))
    .filter((x) => x.far <= mayDiffer(word) + 0.5)
    .sort((a, b) => a.far - b.far || a.word.localeCompare(b.word))
    .slice(0, NEAREST);
  const meant: string[] = [];
  for (const { word: candidate } of near) {
    if (meant.length === MEANT) break;
    if (await isFound(m, candidate)) meant.push(candidate);
  }
  return meant;
}

/** The list of a tag among those of the words. */
export const listOfTag = (tag: string): string => `#${tag}`;

/**
 * The lists of the words that begin in one of these ways.
 * @returns null where they are too many to be walked beside each other
 */
export async function listsOf(m: EntityManager, begins: readonly string[]): Promise<string[] | null> {
  const begun = await Promise.all(
    begins.map((begin) =>
      m
        .getRepository(SearchWordRow)
        .createQueryBuilder('w')
        .where('w.owner = :o AND w.word LIKE :begin', { o: ownerNow(), begin: begunBy(begin) })
        .limit(MOST_LISTS + 1)
        .getMany(),
    ),
  );
  const words = new Set(begun.flat().map((row) => row.word));
  return words.size > MOST_LISTS ? null : [...words];
}

/** members of lists from which on they are walked past rather than read whole */
export const MANY = 2000;

/** Whether so much is in these lists that a page of it is found sooner by looking at one preset after the other. */
export async function isCommon(m: EntityManager, lists: readonly string[]): Promise<boolean> {
  if (!lists.length) return false;
  const [{ n }] = await m.query<{ n: string }[]>(
    `SELECT COUNT(*) AS n FROM (
       SELECT 1 FROM preset_word WHERE owner = ? AND word IN (${lists.map(() => '?').join()}) LIMIT ${MANY}
     ) l`,
    [ownerNow(), ...lists],
  );
  return Number(n) === MANY;
}

/** A condition in the database's words, and its values by name. */
export interface Condition {
  where: string;
  values: Record<string, unknown>;
}

/** Whether a row, known by its owner, name and id, is in the list that a value names. */
const inList = (value: string, owner: string, name: string, id: string): string =>
  `(SELECT 1 FROM preset_word i WHERE i.owner = ${owner} AND i.word = :${value}
    AND i.name = ${name} AND i.preset = ${id} LIMIT 1) IS NOT NULL`;

/**
 * Whether a preset `p` is in one of some lists, as a condition that is looked at for each preset in turn: as a plain
 * EXISTS the database would begin with the lists, read all of them and sort; with all words at once it would read every
 * list for every preset.
 */
export const inLists = (lists: readonly string[]): Condition => ({
  where: `(${lists.map((_, i) => inList(`list${i}`, 'p.owner', 'p.name', 'p.id')).join(' OR ')})`,
  values: Object.fromEntries(lists.map((list, i) => [`list${i}`, list])),
});

/** What narrows a walk. */
export interface Narrowing {
  /** lists of which everything is to be in one, too; several such choices */
  also?: readonly (readonly string[])[];
  /** what names are like, as a pattern of the database */
  names?: string;
  /** of the presets `p`; null where nothing else is asked */
  presets: Condition | null;
}

/**
 * What is in any of these lists, in the order of names: each is walked as far as a page goes, and no further.
 * @param after name and id that the page begins behind
 * @returns ids of presets, at most `limit`
 */
export async function walkLists(
  m: EntityManager,
  lists: readonly string[],
  limit: number,
  after: readonly [name: string, id: string, ...rest: unknown[]] | null,
  { also = [], names, presets }: Narrowing,
): Promise<string[]> {
  if (!lists.length) return [];
  const behind = after ? 'AND l.name >= :name AND (l.name > :name OR l.preset > :id)' : '';
  // the list first: the database would begin with what narrows it, and sort
  const joined = presets ? `STRAIGHT_JOIN preset p ON p.id = l.preset AND ${presets.where}` : '';
  const others = also.map((choice, k) =>
    choice.map((list, i) => ({
      name: `also${k}_${i}`,
      list,
      is: inList(`also${k}_${i}`, 'l.owner', 'l.name', 'l.preset'),
    })),
  );
  const all = [
    names ? 'AND l.name LIKE :names' : '',
    ...others.map((o) => `AND (${o.map((x) => x.is).join(' OR ')})`),
  ];
  const page = (i: number) => `(SELECT l.name, l.preset FROM preset_word l ${joined}
    WHERE l.owner = :owner AND l.word = :list${i} ${behind} ${all.join(' ')} ORDER BY l.name, l.preset LIMIT :limit)`;
  const [sql, values] = m.connection.driver.escapeQueryWithParameters(
    `SELECT name, preset FROM (${lists.map((_, i) => page(i)).join(' UNION ')}) l ORDER BY name, preset LIMIT :limit`,
    {
      ...presets?.values,
      ...Object.fromEntries(lists.map((one, i) => [`list${i}`, one])),
      ...Object.fromEntries(others.flat().map(({ name, list }) => [name, list])),
      names,
      owner: ownerNow(),
      name: after?.[0],
      id: after?.[1],
      limit,
    },
  );
  const rows = await m.query<{ preset: string }[]>(sql, values);
  return rows.map((row) => row.preset);
}
