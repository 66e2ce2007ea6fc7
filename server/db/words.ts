import { distance } from 'fastest-levenshtein';
import type { DataSource, EntityManager } from 'typeorm';
import { OWNER, PresetRow, SearchWordRow } from './entities.ts';

/** presets that are read together where no words are known yet */
const PAGE = 500;
/** words that are put in together */
const PART = 200;
/** letters of a word that are kept */
const LONGEST = 60;
/** words that may be meant by one that is misspelt */
const MEANT = 3;

/** The words of a text as the search sees them: small letters and figures. */
export const wordsOf = (text: string): string[] =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);

/** Puts the words of a preset among those that can be meant; a word stays when its preset goes. */
async function putWords(m: EntityManager, texts: readonly string[]): Promise<void> {
  const words = [...new Set(texts.flatMap(wordsOf).map((w) => w.slice(0, LONGEST)))].filter(
    (w) => w.length > 2,
  );
  for (let at = 0; at < words.length; at += PART) {
    const part = words.slice(at, at + PART);
    await m.query(
      `INSERT IGNORE INTO search_word (owner, word) VALUES ${part.map(() => '(?, ?)').join(', ')}`,
      part.flatMap((word) => [OWNER, word]),
    );
  }
}

/** Puts in the words of a preset that was just saved, beside its transaction: savers share most words. */
export async function learnWords(db: DataSource, preset: string): Promise<void> {
  const row = await db
    .getRepository(PresetRow)
    .findOne({ where: { id: preset }, select: { id: true, search: true } });
  if (row) await putWords(db.manager, [row.search]);
}

/** For shelves from before words were kept: reads every preset once. */
export async function fillWords(m: EntityManager): Promise<void> {
  if (await m.getRepository(SearchWordRow).existsBy({ owner: OWNER })) return;
  for (let from = 0; ; from += PAGE) {
    const rows = await m
      .getRepository(PresetRow)
      .find({ select: { id: true, search: true }, order: { id: 'ASC' }, skip: from, take: PAGE });
    await putWords(
      m,
      rows.map((r) => r.search),
    );
    if (rows.length < PAGE) return;
  }
}

/** Letters that may be wrong in a word, by its length: a turned pair counts as two. */
function mayDiffer(word: string): number {
  if (word.length < 4) return 1;
  return word.length < 9 ? 2 : 3;
}
/** How far a typed word is from one that is known, whole or as its beginning. */
const farness = (typed: string, known: string): number =>
  Math.min(distance(typed, known), distance(typed, known.slice(0, typed.length)) + 0.5);

/**
 * What may be meant by a word that nothing begins with: known words a letter or two away, nearest first.
 * @returns nothing where something begins with the word as it is, or nothing is near
 */
export async function meantBy(m: EntityManager, word: string): Promise<string[]> {
  const words = m.getRepository(SearchWordRow);
  await fillWords(m);
  const begins = await words
    .createQueryBuilder('w')
    .where('w.owner = :o AND w.word LIKE :word', { o: OWNER, word: `${word.replace(/[%_\\]/g, '\\$&')}%` })
    .getExists();
  if (begins || word.length < 3) return [];
  const all = await words.find({ where: { owner: OWNER }, select: { word: true } });
  return all
    .map((row) => ({ word: row.word, far: farness(word, row.word) }))
    .filter((x) => x.far <= mayDiffer(word) + 0.5)
    .sort((a, b) => a.far - b.far || a.word.localeCompare(b.word))
    .slice(0, MEANT)
    .map((x) => x.word);
}
