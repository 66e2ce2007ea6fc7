import type { DataSource } from 'typeorm';
import { IsNull } from 'typeorm';
import type { PresetEntry, PresetSummary } from '../../contract/index.ts';
import type { Preset, PresetKind } from '../../core/index.ts';
import { ownerNow } from '../db/acting.ts';
import { PresetRow, PresetVersionRow } from '../db/entities.ts';
import { notFound } from './problem.ts';

/** A preset's row, if it is on the shelf. */
export async function presetOnShelf(db: DataSource, id: string): Promise<PresetRow> {
  const row = await db.getRepository(PresetRow).findOneBy({ id, owner: ownerNow(), deletedAt: IsNull() });
  if (!row) throw notFound('This preset');
  return row;
}

/** One version of a preset as it was saved. */
export async function presetVersion(db: DataSource, id: string, version: number): Promise<Preset> {
  const v = await db.getRepository(PresetVersionRow).findOne({
    where: { preset: id, version, owner: ownerNow() },
    select: { preset: true, version: true, document: true },
  });
  if (!v) throw notFound(`Version ${version} of this preset`);
  return v.document as Preset;
}

/** A version of a preset that is on the shelf, the latest unless told, under the name that it has there. */
export async function currentVersion(db: DataSource, id: string, version?: number): Promise<Preset> {
  const row = await presetOnShelf(db, id);
  return { ...(await presetVersion(db, id, version ?? row.currentVersion)), name: row.name };
}

/** What lists show of a preset. */
export const entryOf = (r: PresetRow): PresetEntry => ({
  id: r.id,
  kind: r.kind as PresetKind,
  name: r.name,
  category: r.category,
  colour: r.colour,
  pinned: r.pinned === 1,
  version: r.currentVersion,
  parent: r.parent,
  summary: r.summary as PresetSummary,
  lastUsedAt: r.lastUsedAt.getTime() ? r.lastUsedAt.toISOString() : null,
  updatedAt: r.updatedAt.toISOString(),
});
