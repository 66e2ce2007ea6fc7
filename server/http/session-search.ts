import { Router } from 'express';
import { In, IsNull, type SelectQueryBuilder } from 'typeorm';
import type { FolderCount, SessionEntry, SessionPage } from '../../contract/index.ts';
import { ownerNow } from '../db/acting.ts';
import { SessionRow } from '../db/entities.ts';
import { idOf, type Context } from './context.ts';
import { FolderDto, SessionQueryDto, check } from './dto.ts';
import { keysOf, likeText, markerOf, sqlDate } from './pages.ts';
import { notFound } from './problem.ts';
import { LISTED } from './session-rows.ts';

const PAGE = 100;
/** words that are looked for at most */
const MOST_WORDS = 8;

/** Finding sessions: those that were opened last first, paged by key, narrowed by words of the name and by folder. */
export function sessionSearchRoutes({ db }: Context): Router {
  const router = Router();
  const repo = db.getRepository(SessionRow);

  router.get('/', async (req, res) => {
    const q = check(SessionQueryDto, req.query, 'query');
    const limit = q.limit ?? PAGE;
    const found = await idsOf(q, limit + 1);
    const page = await repo.find({
      where: { id: In(found.slice(0, limit)), owner: ownerNow(), deletedAt: IsNull() },
      select: LISTED,
      order: { openedAt: 'DESC', id: 'DESC' },
    });
    const last = page.at(-1);
    const next = found.length > limit && last ? markerOf([sqlDate(last.openedAt), last.id]) : null;
    res.json({ items: page.map(entryOf), next } satisfies SessionPage);
  });

  router.get('/folders', async (_req, res) => {
    const rows = (await db.query(
      `SELECT folder AS name, COUNT(*) AS n FROM session
       WHERE owner = ? AND deletedAt IS NULL AND folder <> '' GROUP BY folder ORDER BY folder LIMIT 500`,
      [ownerNow()],
    )) as { name: string; n: string }[];
    res.json(rows.map((x): FolderCount => ({ name: x.name, n: Number(x.n) })));
  });

  /** Somebody opened it: it stands first in the list. That changes nothing of it. */
  router.post('/:id/opened', async (req, res) => {
    await touch(idOf(req), 'openedAt = CURRENT_TIMESTAMP(3)', []);
    res.status(204).end();
  });

  router.put('/:id/folder', async (req, res) => {
    const { folder } = check(FolderDto, req.body);
    await touch(idOf(req), 'folder = ?', [folder.trim()]);
    res.status(204).end();
  });

  /** Which sessions are found, in their order: read off an index that has the names, and no row with it. */
  async function idsOf(q: SessionQueryDto, limit: number): Promise<string[]> {
    const rows = repo
      .createQueryBuilder('s')
      .select('s.id', 'id')
      .where('s.owner = :o AND s.deletedAt IS NULL', { o: ownerNow() });
    narrow(rows, q);
    rows.orderBy('s.openedAt', 'DESC').addOrderBy('s.id', 'DESC').limit(limit);
    const found = await rows.getRawMany<{ id: string }>();
    return found.map((row) => row.id);
  }

  /** Sets a column that is not part of the session itself: when it was changed stays. */
  async function touch(id: string, set: string, values: string[]): Promise<void> {
    const sql = `UPDATE session SET ${set}, updatedAt = updatedAt WHERE id = ? AND owner = ? AND deletedAt IS NULL`;
    const there = await repo.existsBy({ id, owner: ownerNow() });
    if (!there) throw notFound('This session');
    await db.query(sql, [...values, id, ownerNow()]);
  }

  return router;
}

function narrow(rows: SelectQueryBuilder<SessionRow>, q: SessionQueryDto): void {
  const words = (q.q ?? '').split(/\s+/).filter(Boolean).slice(0, MOST_WORDS);
  words.forEach((word, i) => rows.andWhere(`s.name LIKE :w${i}`, { [`w${i}`]: `%${likeText(word)}%` }));
  if (q.folder) rows.andWhere('s.folder = :folder', { folder: q.folder });
  if (q.after) {
    const [k, i] = keysOf(q.after, ['', ''] as const);
    rows.andWhere('s.openedAt <= :k AND (s.openedAt < :k OR s.id < :i)', { k, i });
  }
}

const entryOf = (r: SessionRow): SessionEntry => ({
  id: r.id,
  name: r.name,
  folder: r.folder,
  revision: r.revision,
  tempo: r.tempo,
  sampleRate: r.sampleRate,
  trackCount: r.trackCount,
  updatedAt: r.updatedAt.toISOString(),
  openedAt: r.openedAt.toISOString(),
});
