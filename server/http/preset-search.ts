import { Router } from 'express';
import {
  In,
  IsNull,
  MoreThan,
  type EntityManager,
  type FindOptionsOrder,
  type SelectQueryBuilder,
} from 'typeorm';
import type { Facets, PresetPage, ShelfOrder } from '../../contract/index.ts';
import { abortable } from '../db/abortable.ts';
import { ownerNow } from '../db/acting.ts';
import { PresetCountRow, PresetRow } from '../db/entities.ts';
import {
  MANY,
  inLists,
  isCommon,
  listOfTag,
  listsOf,
  meantBy,
  walkLists,
  wordsOf,
  type Condition,
  type Narrowing,
} from '../db/words.ts';
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
   * Search: lists in the order of names for a tag and for words that many have, FULLTEXT for several words (each a
   * beginning) and for one that few have in another order, indexed columns for the rest; paged by key (name and id, or last
   * use and id).
   */
  router.get('/', async (req, res) => {
    const q = check(ShelfQueryDto, req.query, 'query');
    const page = await abortable(db, res, (m) => pageOf(m, q));
    if (page) res.json(page);
  });

  router.get('/facets', async (_req, res) => {
    const counted = (what: PresetCountRow['what'], order: FindOptionsOrder<PresetCountRow>, take: number) =>
      db.getRepository(PresetCountRow).find({
        where: { owner: ownerNow(), what, n: MoreThan(0) },
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

type Sought = NonNullable<PresetPage['instead']>;

async function pageOf(m: EntityManager, q: ShelfQueryDto): Promise<PresetPage> {
  const sought = await soughtFor(m, q.q ?? '');
  const page = (await walked(m, q, sought)) ?? (await queried(m, q, sought));
  const instead = sought.filter((x) => x.meant.length);
  return { ...page, ...(instead.length ? { instead } : {}) };
}

/**
 * One word or a tag, by name: read off its lists, each entry looked at for what else is asked. (Names begin with the words
 * that are looked for: in the order of names they lie together, and not at the beginning.)
 * @returns null where another order is asked for, several words, one that too many words begin like, or something that
 * few have
 */
async function walked(m: EntityManager, q: ShelfQueryDto, sought: Sought): Promise<PresetPage | null> {
  if ((q.sort ?? 'name') !== 'name') return null;
  if (sought.length > 1) return walkedTogether(m, q, sought);
  // a tag alone: kinds and categories are in the order of names as well, and shorter
  if (!sought.length && (!q.tag || q.kind || q.category)) return null;
  const ofTag = q.tag && listOfTag(q.tag);
  if (await isNarrow(m, q, sought.length > 0)) return null;
  const lists = sought.length ? await listsOf(m, beginsOf(sought)) : [ofTag!];
  if (!lists) return null;
  const limit = q.limit ?? PAGE;
  const after = q.after ? keysOf(q.after, ['', '', 0] as const) : null;
  const presets = allOf(await conditionsOf(m, { ...q, tag: undefined }));
  const also = sought.length && ofTag ? [[ofTag]] : [];
  return pageFrom(m, await walkLists(m, lists, limit + 1, after, { also, presets }), limit, 0);
}

/**
 * Several words that many have, by name, read off the list of the first: where they were typed with spaces, those whose
 * names have them side by side. What nothing is spelt like stands nowhere side by side: then all in one order.
 * @returns null where few have one of the words, or where fewer have them side by side than a page shows
 */
async function walkedTogether(
  m: EntityManager,
  q: ShelfQueryDto,
  sought: Sought,
): Promise<PresetPage | null> {
  const typed = phraseOf(q.q ?? '');
  const names = sought.some((x) => x.meant.length) ? null : typed;
  const after = q.after ? keysOf(q.after, ['', '', 0] as const) : null;
  // behind the names there are other texts that have them side by side
  if (names && after && Number(after[2]) > 0) return null;
  if (await isNarrow(m, q, true)) return null;
  const choices = await Promise.all(sought.map((one) => listsOf(m, beginsOf([one]))));
  for (const lists of choices) if (!lists || !(await isCommon(m, lists))) return null;
  const [walkedOnes, ...also] = choices as string[][];
  if (q.tag) also.push([listOfTag(q.tag)]);
  const presets = allOf(await conditionsOf(m, { ...q, tag: undefined }));
  const limit = q.limit ?? PAGE;
  const narrowing: Narrowing = { also, presets, ...(names ? { names } : {}) };
  const ids = await walkLists(m, walkedOnes, limit + 1, after, narrowing);
  if (names && ids.length <= limit) return null;
  return pageFrom(m, ids, limit, typed && !names ? NOWHERE : 0);
}

/** A page of ids of which one more was asked for than it shows, all as near as `near` says. */
async function pageFrom(
  m: EntityManager,
  ids: readonly string[],
  limit: number,
  near: number,
): Promise<PresetPage> {
  const page = await rowsOf(m, ids.slice(0, limit));
  const last = page.at(-1);
  const next = last && ids.length > limit ? markerOf([last.name, last.id, near]) : null;
  return { items: page.map(entryOf), next };
}

/** Whether something is asked for beside the lists that so few have that it is sooner read by that. */
async function isNarrow(m: EntityManager, q: ShelfQueryDto, hasWords: boolean): Promise<boolean> {
  if (q.pinned === 'true' || q.parent) return true;
  const asked = { kind: q.kind, category: q.category, tag: hasWords ? q.tag : undefined };
  for (const [what, name] of Object.entries(asked)) {
    if (!name) continue;
    const rows = await counted(m, what as PresetCountRow['what'], name);
    if (rows.reduce((sum, { n }) => sum + n, 0) < MANY) return true;
  }
  return false;
}

/** A kind, a tag, or a category with those below it, as they are counted. */
const counted = (m: EntityManager, what: PresetCountRow['what'], name: string): Promise<PresetCountRow[]> =>
  m
    .getRepository(PresetCountRow)
    .createQueryBuilder('c')
    .where('c.owner = :o AND c.what = :what', { o: ownerNow(), what })
    .andWhere("(c.name = :name OR (c.what = 'category' AND c.name LIKE :below))", {
      name,
      below: `${likeText(name)}/%`,
    })
    .getMany();

/** Presets of the shelf by their ids, in this order. */
async function rowsOf(m: EntityManager, ids: readonly string[]): Promise<PresetRow[]> {
  const rows = await m.findBy(PresetRow, { id: In([...ids]), owner: ownerNow(), deletedAt: IsNull() });
  const known = new Map(rows.map((row) => [row.id, row]));
  return ids.flatMap((id) => known.get(id) ?? []);
}

async function queried(m: EntityManager, q: ShelfQueryDto, sought: Sought): Promise<PresetPage> {
  const limit = q.limit ?? PAGE;
  const rows = m
    .getRepository(PresetRow)
    .createQueryBuilder('p')
    .select('p.id', 'id')
    .where('p.owner = :o AND p.deletedAt IS NULL', { o: ownerNow() });
  for (const { where, values } of await conditionsOf(m, q)) rows.andWhere(where, values);
  await narrowByWords(m, rows, sought);
  const by = ORDERS[q.sort ?? 'name'];
  if (q.sort === 'never') rows.andWhere('p.lastUsedAt = :never', { never: NEVER });
  order(rows, q.q ?? '', by, q.after);
  // only what is shown is read whole: the rest is ruled out by what the indexes hold
  const found = await rows.limit(limit + 1).getRawMany<{ id: string; near?: string }>();
  const shown = found.slice(0, limit);
  const page = await rowsOf(
    m,
    shown.map((x) => x.id),
  );
  const last = page.at(-1);
  // how near its words stand together comes before the order
  const near = Number(shown.at(-1)?.near ?? 0);
  const next = last && found.length > limit ? markerOf([by.key(last), last.id, near]) : null;
  return { items: page.map(entryOf), next };
}

/** words that are looked for at most */
const MOST_WORDS = 8;

/** What is looked for: up to eight words, each with what is meant where nothing begins with it. */
async function soughtFor(m: EntityManager, text: string): Promise<Sought> {
  const typed = wordsOf(text).slice(0, MOST_WORDS);
  return Promise.all(typed.map(async (word) => ({ typed: word, meant: await meantBy(m, word) })));
}

/** How words begin that are looked for: as typed, or as what may be meant. */
const beginsOf = (sought: Sought): string[] =>
  sought.flatMap(({ typed, meant }) => (meant.length ? meant : [typed]));

/** Each word a beginning, all of them to be there; of what may be meant any. */
const fulltext = (sought: Sought): string =>
  sought
    .map(({ typed, meant }) => (meant.length ? `+(${meant.map((m) => `${m}*`).join(' ')})` : `+${typed}*`))
    .join(' ');

/** A category with those below it: one alone is read off its index in order. */
async function ofCategory(m: EntityManager, category: string): Promise<Condition> {
  const below = (await counted(m, 'category', category)).map((c) => c.name).filter((c) => c !== category);
  const categories = [category, ...below];
  return below.length
    ? { where: 'p.category IN (:...categories)', values: { categories } }
    : { where: 'p.category = :category', values: { category } };
}

/** The words: of one that many have, page by page in the order that is asked for; all others by FULLTEXT. */
async function narrowByWords(m: EntityManager, rows: Rows, sought: Sought): Promise<void> {
  if (!sought.length) return;
  const lists = sought.length === 1 ? await listsOf(m, beginsOf(sought)) : null;
  if (lists && (await isCommon(m, lists))) {
    const { where, values } = inLists(lists);
    rows.andWhere(where, values);
  } else rows.andWhere('MATCH(p.search) AGAINST (:words IN BOOLEAN MODE)', { words: fulltext(sought) });
}

type Narrowed = Pick<ShelfQueryDto, 'kind' | 'tag' | 'parent' | 'pinned' | 'category'>;

/** What is asked of presets beside words. */
async function conditionsOf(m: EntityManager, q: Narrowed): Promise<Condition[]> {
  const all: Condition[] = [];
  const ask = (where: string, values: Condition['values'] = {}) => all.push({ where, values });
  if (q.kind) ask('p.kind = :kind', { kind: q.kind });
  if (q.tag) ask('EXISTS (SELECT 1 FROM tag t WHERE t.preset = p.id AND t.name = :tag)', { tag: q.tag });
  if (q.parent) ask('p.parent = :parent', { parent: q.parent });
  if (q.pinned === 'true') ask('p.pinned = 1');
  if (q.category) all.push(await ofCategory(m, q.category));
  return all;
}

/** All of some conditions as one; null where there is none. */
function allOf(all: readonly Condition[]): Condition | null {
  if (!all.length) return null;
  const values = all.map((one) => one.values);
  return {
    where: all.map(({ where }) => where).join(' AND '),
    values: Object.assign({}, ...values) as Condition['values'],
  };
}

/** How a text looks in which the words stand side by side as they were typed; null where there is one word or none. */
function phraseOf(typed: string): string | null {
  const words = typed.trim().split(/\s+/).filter(Boolean);
  return words.length < 2 ? null : `%${likeText(words.join(' '))}%`;
}

/** Words that stand together nowhere. */
const NOWHERE = 2;

/**
 * Where the words that were typed stand together: 0 in the name, 1 in what else it is found by, 2 nowhere. Null where
 * there is nothing to order by.
 */
function together(rows: Rows, typed: string): string | null {
  const phrase = phraseOf(typed);
  if (!phrase) return null;
  rows.setParameter('phrase', phrase);
  return `CASE WHEN p.name LIKE :phrase THEN 0 WHEN p.search LIKE :phrase THEN 1 ELSE ${NOWHERE} END`;
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
