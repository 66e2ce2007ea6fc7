import { Router } from 'express';
import { MoreThan, type EntityManager, type FindOptionsOrder, type SelectQueryBuilder } from 'typeorm';
import type { Facets, PresetPage, ShelfOrder } from '../../contract/index.ts';
import { abortable } from '../db/abortable.ts';
import { OWNER, PresetCountRow, PresetRow } from '../db/entities.ts';
import { meantBy, wordsOf } from '../db/words.ts';
import type { Context } from './context.ts';
import { ShelfQueryDto, check } from './dto.ts';
import { keysOf, likeText, markerOf, sqlDate } from './pages.ts';
import { entryOf } from './shelf.ts';

type Rows = SelectQueryBuilder<PresetRow>;
const PAGE = 50;

/** Finding presets: a search with its pages, and what the shelf holds by category, tag and kind. */
export function presetSearchRoutes({ db }: Context): Router {
  const router = Router();

  /**
   * Search: FULLTEXT for words (each a beginning), indexed columns for the rest; paged by key (name and id,
   * or last use and id).
   */
  router.get('/', async (req, res) => {
    const q = check(ShelfQueryDto, req.query, 'query');
    const page = await abortable(db, res, (m) => pageOf(m, q));
    if (page) res.json(page);
  });

  router.get('/facets', async (_req, res) => {
    const counted = (what: PresetCountRow['what'], order: FindOptionsOrder<PresetCountRow>, take: number) =>
      db.getRepository(PresetCountRow).find({
        where: { owner: OWNER, what, n: MoreThan(0) },
        select: { name: true, n: true },
        order,
        take,
      });
    const [categories, tags, kinds] = await Promise.all([
      counted('category', { name: 'ASC' }, 500),
      counted('tag', { n: 'DESC', name: 'ASC' }, 200),
      counted('kind', { name: 'ASC' }, 20),
    ]);
    res.json({ categories, tags, kinds } satisfies Facets);
  });

  return router;
}

async function pageOf(m: EntityManager, q: ShelfQueryDto): Promise<PresetPage> {
  const limit = q.limit ?? PAGE;
  const rows = m
    .getRepository(PresetRow)
    .createQueryBuilder('p')
    .where('p.owner = :o AND p.deletedAt IS NULL', { o: OWNER });
  const sought = await soughtFor(m, q.q ?? '');
  narrow(rows, q, fulltext(sought));
  if (q.category) await ofCategory(m, rows, q.category);
  const by = ORDERS[q.sort ?? 'name'];
  if (q.sort === 'never') rows.andWhere('p.lastUsedAt = :never', { never: NEVER });
  order(rows, q.q ?? '', by, q.after);
  const { entities, raw } = await rows.limit(limit + 1).getRawAndEntities<{ near?: string }>();
  const page = entities.slice(0, limit);
  const [last, near] = [page.at(-1)!, Number(raw[page.length - 1]?.near ?? 0)];
  // how near its words stand together comes before the order
  const next = entities.length > limit ? markerOf([by.key(last), last.id, near]) : null;
  const instead = sought.filter((x) => x.meant.length);
  const more = instead.length ? { instead } : {};
  return { items: page.map(entryOf), next, ...more };
}

/** words that are looked for at most */
const MOST_WORDS = 8;

/** What is looked for: up to eight words, each with what is meant where nothing begins with it. */
async function soughtFor(m: EntityManager, text: string): Promise<NonNullable<PresetPage['instead']>> {
  const typed = wordsOf(text).slice(0, MOST_WORDS);
  return Promise.all(typed.map(async (word) => ({ typed: word, meant: await meantBy(m, word) })));
}

/** Each word a beginning, all of them to be there; of what may be meant any. */
const fulltext = (sought: NonNullable<PresetPage['instead']>): string =>
  sought
    .map(({ typed, meant }) => (meant.length ? `+(${meant.map((m) => `${m}*`).join(' ')})` : `+${typed}*`))
    .join(' ');

/** A category with those below it, as they are counted: one alone is read off its index in order. */
async function ofCategory(m: EntityManager, rows: Rows, category: string): Promise<void> {
  const below = await m
    .getRepository(PresetCountRow)
    .createQueryBuilder('c')
    .where("c.owner = :o AND c.what = 'category' AND c.name LIKE :below", {
      o: OWNER,
      below: `${likeText(category)}/%`,
    })
    .getMany();
  const categories = [category, ...below.map((c) => c.name)];
  if (below.length) rows.andWhere('p.category IN (:...categories)', { categories });
  else rows.andWhere('p.category = :category', { category });
}

function narrow(rows: Rows, q: ShelfQueryDto, words: string): void {
  if (words) rows.andWhere('MATCH(p.search) AGAINST (:words IN BOOLEAN MODE)', { words });
  if (q.kind) rows.andWhere('p.kind = :kind', { kind: q.kind });
  if (q.tag) {
    rows.andWhere('EXISTS (SELECT 1 FROM tag t WHERE t.preset = p.id AND t.name = :tag)', { tag: q.tag });
  }
  if (q.parent) rows.andWhere('p.parent = :parent', { parent: q.parent });
  if (q.pinned === 'true') rows.andWhere('p.pinned = 1');
}

/**
 * Where the words that were typed stand together: 0 in the name, 1 in what else it is found by, 2 nowhere. Null where
 * there is only one word or none, and with it nothing to order by.
 */
function together(rows: Rows, typed: string): string | null {
  const words = typed.trim().split(/\s+/).filter(Boolean);
  if (words.length < 2) return null;
  rows.setParameter('phrase', `%${likeText(words.join(' '))}%`);
  return 'CASE WHEN p.name LIKE :phrase THEN 0 WHEN p.search LIKE :phrase THEN 1 ELSE 2 END';
}

interface Order {
  column: string;
  /** one direction for the whole key, so that it is read off the index */
  direction: 'ASC' | 'DESC';
  key(row: PresetRow): string;
}
const BY_NAME: Order = { column: 'p.name', direction: 'ASC', key: (r) => r.name };
const ORDERS: Record<ShelfOrder, Order> = {
  name: BY_NAME,
  never: BY_NAME,
  used: { column: 'p.lastUsedAt', direction: 'DESC', key: (r) => sqlDate(r.lastUsedAt) },
  most: { column: 'p.drops', direction: 'DESC', key: (r) => String(r.drops) },
  added: { column: 'p.createdAt', direction: 'DESC', key: (r) => sqlDate(r.createdAt) },
};
const NEVER = '1970-01-01 00:00:00.000';

/** First where the words stand together, then in the order that is asked for; from behind the row that a marker names. */
function order(rows: Rows, typed: string, { column, direction }: Order, after: string | undefined): void {
  const near = together(rows, typed);
  const beyond = direction === 'ASC' ? '>' : '<';
  if (after) {
    const [k, i, n] = keysOf(after, ['', '', 0] as const);
    // the first half says where to begin in the index; the second alone would have it read from its start
    const behind = `(${column} ${beyond}= :k AND (${column} ${beyond} :k OR p.id ${beyond} :i))`;
    rows.andWhere(near ? `(${near} > :n OR (${near} = :n AND ${behind}))` : behind, { k, i, n });
  }
  if (near) rows.addSelect(near, 'near').orderBy('near', 'ASC');
  rows.addOrderBy(column, direction).addOrderBy('p.id', direction);
}
