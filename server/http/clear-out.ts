import { Router } from 'express';
import type { DataSource } from 'typeorm';
import type { ClearOutItem, ClearOutPage, ClearOutReason, PresetSummary } from '../../contract/index.ts';
import { DEVICE_TYPES } from '../../core/index.ts';
import { ownerNow } from '../db/acting.ts';
import type { Context } from './context.ts';
import { ClearOutQueryDto, check } from './dto.ts';

/** presets that are looked through together, and those that are told together */
const PAGE = 2000;
const TOLD = 200;
const DAY = 24 * 3600 * 1000;
/** days after which what was not dropped counts as unused, and what was never dropped as never used */
const UNUSED = 365;
const NEVER = 30;

interface Row {
  id: string;
  name: string;
  category: string;
  pinned: number;
  hash: string;
  twin: string | null;
  lastUsedAt: Date;
  createdAt: Date;
  summary: PresetSummary | string;
}

/** What could go from the shelf, and why: never anything that a session has, and nothing that is pinned. */
export function clearOutRoutes({ db }: Context): Router {
  const router = Router();
  router.get('/clear-out', async (req, res) => {
    const { after = '' } = check(ClearOutQueryDto, req.query, 'query');
    res.json((await found(db, after, Date.now())) satisfies ClearOutPage);
  });
  return router;
}

async function found(db: DataSource, after: string, now: number): Promise<ClearOutPage> {
  const items: ClearOutItem[] = [];
  for (let last = after; ;) {
    const rows = await unused(db, last);
    for (const row of rows) {
      last = row.id;
      const reasons = reasonsFor(row, now);
      if (!reasons.length) continue;
      const { id, name, category, twin } = row;
      items.push({ id, name, category, reasons, ...(twin ? { like: twin } : {}) });
      if (items.length === TOLD) return { items, next: last };
    }
    if (rows.length < PAGE) return { items, next: null };
  }
}

/**
 * Presets that no session has (one in the trash counts: it may come back), a page of them; `twin`: the name of another
 * one with the same content, of which the pinned or the older one stays.
 */
const unused = (db: DataSource, after: string): Promise<Row[]> =>
  db.query<Row[]>(
    `SELECT p.id, p.name, p.category, p.pinned, p.lastUsedAt, p.createdAt, p.summary, v.hash,
       (SELECT q.name FROM preset_version w JOIN preset q ON q.id = w.preset AND q.currentVersion = w.version
         WHERE w.hash = v.hash AND w.preset <> p.id AND q.owner = p.owner AND q.deletedAt IS NULL
           AND (q.pinned > p.pinned OR (q.pinned = p.pinned AND (q.createdAt, q.id) < (p.createdAt, p.id)))
         LIMIT 1) AS twin
       FROM preset p JOIN preset_version v ON v.preset = p.id AND v.version = p.currentVersion
       WHERE p.owner = ? AND p.deletedAt IS NULL AND p.pinned = 0 AND p.id > ?
         AND NOT EXISTS (SELECT 1 FROM session_use u WHERE u.preset = p.id)
       ORDER BY p.id LIMIT ${PAGE}`,
    [ownerNow(), after],
  );

function reasonsFor(row: Row, now: number): ClearOutReason[] {
  const summary = typeof row.summary === 'string' ? (JSON.parse(row.summary) as PresetSummary) : row.summary;
  const wasUsed = row.lastUsedAt.getTime() > 0;
  const [age, rest] = [now - row.createdAt.getTime(), now - row.lastUsedAt.getTime()];
  const reasons: [ClearOutReason, boolean][] = [
    ['same', row.twin !== null],
    ['empty', summary.devices.length === 0 && summary.tracks <= 1],
    ['unnamed', /^(new |untitled|preset)?\s*\d*$/i.test(row.name.trim())],
    ['broken', summary.devices.some((d) => !DEVICE_TYPES[d.type])],
    ['never', !wasUsed && age > NEVER * DAY],
    ['unused', wasUsed && rest > UNUSED * DAY],
  ];
  return reasons.flatMap(([reason, is]) => (is ? [reason] : []));
}
