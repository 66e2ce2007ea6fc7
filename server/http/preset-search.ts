import { Router } from 'express';
import type { DataSource, SelectQueryBuilder } from 'typeorm';
import type { Facets, PresetPage } from '../../contract/index.ts';
import { OWNER, PresetRow } from '../db/entities.ts';
import { meantBy, wordsOf } from '../db/words.ts';
import type { Context } from './context.ts';
import { ShelfQueryDto, check } from './dto.ts';
import { HttpProblem } from './problem.ts';
import { entryOf } from './shelf.ts';

type Rows = SelectQueryBuilder<PresetRow>;
const PAGE = 50;
const LAST_USED = "COALESCE(p.lastUsedAt, '1970-01-01')";

/** Finding presets: a search with its pages, and what the shelf holds by category, tag and kind. */
export function presetSearchRoutes({ db }: Context): Router {
  const router = Router();

  /**
   * Search: FULLTEXT for words (each a beginning), indexed columns for the rest; paged by key (name and id,
   * or last use and id).
   */
  router.get('/', async (req, res) => {
    const q = check(ShelfQueryDto, req.query, 'query');
    const limit = q.limit ?? PAGE;
    const rows = db
      .getRepository(PresetRow)
      .createQueryBuilder('p')
      .where('p.owner = :o AND p.deletedAt IS NULL', { o: OWNER });
    const sought = await soughtFor(db, q.q ?? '');
    narrow(rows, q, fulltext(sought));
    order(rows, q.q ?? '', q.sort === 'used', q.after);
    const { entities, raw } = await rows.limit(limit + 1).getRawAndEntities<{ near: string }>();
    const page = entities.slice(0, limit);
    const last = { row: page.at(-1)!, near: Number(raw[page.length - 1]?.near) };
    const next = entities.length > limit ? markerOf(last, q.sort === 'used') : null;
    const instead = sought.filter((x) => x.meant.length);
    const more = instead.length ? { instead } : {};
    res.json({ items: page.map(entryOf), next, ...more } satisfies PresetPage);
  });

  router.get('/facets', async (_req, res) => {
    const counts = async (sql: string) => {
      const rows = (await db.query(sql, [OWNER])) as { name: string; n: string }[];
      return rows.map((x) => ({ name: x.name, n: Number(x.n) }));
    };
    const [categories, tags, kinds] = await Promise.all([
      counts(
        `SELECT category AS name, COUNT(*) AS n FROM preset
         WHERE owner = ? AND deletedAt IS NULL AND category <> ""
         GROUP BY category ORDER BY category LIMIT 500`,
      ),
      counts(
        `SELECT t.name AS name, COUNT(*) AS n FROM tag t JOIN preset p ON p.id = t.preset
         WHERE t.owner = ? AND p.deletedAt IS NULL
         GROUP BY t.name ORDER BY n DESC, t.name LIMIT 200`,
      ),
      counts(
        'SELECT kind AS name, COUNT(*) AS n FROM preset WHERE owner = ? AND deletedAt IS NULL GROUP BY kind',
      ),
    ]);
    res.json({ categories, tags, kinds } satisfies Facets);
  });

  return router;
}

/** words that are looked for at most */
const MOST_WORDS = 8;

/** What is looked for: up to eight words, each with what is meant where nothing begins with it. */
async function soughtFor(db: DataSource, text: string): Promise<NonNullable<PresetPage['instead']>> {
  const typed = wordsOf(text).slice(0, MOST_WORDS);
  return Promise.all(typed.map(async (word) => ({ typed: word, meant: await meantBy(db, word) })));
}

/** Each word a beginning, all of them to be there; of what may be meant any. */
const fulltext = (sought: NonNullable<PresetPage['instead']>): string =>
  sought
    .map(({ typed, meant }) => (meant.length ? `+(${meant.map((m) => `${m}*`).join(' ')})` : `+${typed}*`))
    .join(' ');

function narrow(rows: Rows, q: ShelfQueryDto, words: string): void {
  if (words) rows.andWhere('MATCH(p.search) AGAINST (:words IN BOOLEAN MODE)', { words });
  if (q.kind) rows.andWhere('p.kind = :kind', { kind: q.kind });
  if (q.category) {
    const below = q.category.replace(/[%_\\]/g, '\\$&') + '/%';
    rows.andWhere('(p.category = :cat OR p.category LIKE :below)', { cat: q.category, below });
  }
  if (q.tag) {
    rows.andWhere('EXISTS (SELECT 1 FROM tag t WHERE t.preset = p.id AND t.name = :tag)', { tag: q.tag });
  }
  if (q.parent) rows.andWhere('p.parent = :parent', { parent: q.parent });
  if (q.pinned === 'true') rows.andWhere('p.pinned = 1');
}

/**
 * Where the words that were typed stand together: 0 in the name, 1 in what else it is found by, 2 nowhere. The same for
 * all where there is only one word or none.
 */
function together(rows: Rows, typed: string): string {
  const words = typed.trim().split(/\s+/).filter(Boolean);
  if (words.length < 2) return '0';
  rows.setParameter('phrase', `%${words.join(' ').replace(/[%_\\]/g, '\\$&')}%`);
  return 'CASE WHEN p.name LIKE :phrase THEN 0 WHEN p.search LIKE :phrase THEN 1 ELSE 2 END';
}

/** First where the words stand together, then by name or by last use; from behind the row that a marker names. */
function order(rows: Rows, typed: string, used: boolean, after: string | undefined): void {
  const near = together(rows, typed);
  const [key, beyond, direction] = used
    ? ([LAST_USED, '<', 'DESC'] as const)
    : (['p.name', '>', 'ASC'] as const);
  if (after) {
    const { k, i, n } = markerIn(after);
    const behind = `(${key} ${beyond} :k OR (${key} = :k AND p.id > :i))`;
    rows.andWhere(`(${near} > :n OR (${near} = :n AND ${behind}))`, { k, i, n });
  }
  rows.addSelect(near, 'near').orderBy('near', 'ASC').addOrderBy(key, direction).addOrderBy('p.id', 'ASC');
}

const sqlDate = (d: Date | null): string =>
  d ? d.toISOString().slice(0, 23).replace('T', ' ') : '1970-01-01 00:00:00.000';

/** A row of a page and how near its words stand together. */
interface Found {
  row: PresetRow;
  near: number;
}

/** Names the last row of a page, so that the next one begins behind it. */
const markerOf = ({ row, near }: Found, used: boolean): string =>
  Buffer.from(JSON.stringify([used ? sqlDate(row.lastUsedAt) : row.name, row.id, near])).toString(
    'base64url',
  );

function markerIn(text: string): { k: string; i: string; n: number } {
  try {
    const [k, i, n] = JSON.parse(Buffer.from(text, 'base64url').toString()) as unknown[];
    if (typeof k === 'string' && typeof i === 'string' && typeof n === 'number') return { k, i, n };
  } catch {
    /* answered below */
  }
  throw new HttpProblem('not-valid', 'The page marker is not one that this server gave out.');
}
