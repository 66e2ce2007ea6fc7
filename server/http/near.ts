import { Router } from 'express';
import { In, IsNull, type DataSource } from 'typeorm';
import type { ByHand, NearGroups, NearPreset, PresetEntry } from '../../contract/index.ts';
import { NEAR } from '../../core/index.ts';
import { ownerNow } from '../db/acting.ts';
import { PresetRow, SessionRow } from '../db/entities.ts';
import type { Near } from '../jobs/near.ts';
import { idOf, type Context } from './context.ts';
import { NearGroupsQueryDto, NearQueryDto, check } from './dto.ts';
import { entryOf, presetOnShelf } from './shelf.ts';

/** presets, groups and chains that are told at most */
const MOST_NEAR = 8;
const MOST_GROUPS = 60;
const MOST_CHAINS = 40;

/** Presets that do nearly the same, by what they do. */
export function nearRoutes({ db }: Context, near: Near): Router {
  const router = Router();

  router.get('/near-groups', async (req, res) => {
    const { within = NEAR } = check(NearGroupsQueryDto, req.query, 'query');
    const found = await near.here.groups(within);
    const told = found.slice(0, MOST_GROUPS);
    const ids = told.flat().map((n) => n.id);
    const [entries, uses] = [await entriesOf(db, ids), await usesOf(db, ids)];
    const groups = told.map((group) =>
      group.flatMap(({ id, distance }) => {
        const preset = entries.get(id);
        return preset ? [{ preset, distance, sessions: uses.get(id) ?? 0 }] : [];
      }),
    );
    res.json({
      groups: groups.filter((g) => g.length > 1),
      more: found.length - told.length,
    } satisfies NearGroups);
  });

  router.get('/:id/near', async (req, res) => {
    const { limit = MOST_NEAR } = check(NearQueryDto, req.query, 'query');
    const { id } = await presetOnShelf(db, idOf(req));
    const found = await near.here.to(id, limit);
    const entries = await entriesOf(
      db,
      found.map((n) => n.id),
    );
    const told = found.flatMap((n): NearPreset[] => {
      const preset = entries.get(n.id);
      return preset ? [{ preset, distance: n.distance }] : [];
    });
    res.json(told);
  });

  return router;
}

/** What sessions build again and again, and the shelf does not have. */
export function byHandRoutes({ db }: Context, near: Near): Router {
  const router = Router();
  router.get('/by-hand', async (_req, res) => {
    const chains = (await near.here.byHand()).slice(0, MOST_CHAINS);
    const ids = [...new Set(chains.flatMap((c) => c.places.map((p) => p.session)))];
    const rows = ids.length
      ? await db.getRepository(SessionRow).find({ where: { id: In(ids) }, select: { id: true, name: true } })
      : [];
    const names = new Map(rows.map((r) => [r.id, r.name]));
    const told = chains.map(({ devices, places }): ByHand => ({
      devices,
      places: places.map((p) => ({ ...p, sessionName: names.get(p.session) ?? '?' })),
    }));
    res.json(told);
  });
  return router;
}

async function entriesOf(db: DataSource, ids: readonly string[]): Promise<Map<string, PresetEntry>> {
  if (!ids.length) return new Map();
  const rows = await db
    .getRepository(PresetRow)
    .findBy({ id: In([...ids]), owner: ownerNow(), deletedAt: IsNull() });
  return new Map(rows.map((r) => [r.id, entryOf(r)]));
}

async function usesOf(db: DataSource, ids: readonly string[]): Promise<Map<string, number>> {
  if (!ids.length) return new Map();
  const rows = await db.query<{ preset: string; n: string }[]>(
    'SELECT preset, COUNT(DISTINCT session) AS n FROM session_use WHERE owner = ? AND preset IN (?) GROUP BY preset',
    [ownerNow(), ids],
  );
  return new Map(rows.map((r) => [r.preset, Number(r.n)]));
}
