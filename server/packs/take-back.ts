import { In, IsNull, type DataSource, type EntityManager } from 'typeorm';
import type { PackBack } from '../../contract/index.ts';
import type { Preset } from '../../core/index.ts';
import { ownerNow } from '../db/acting.ts';
import {
  PackTakenRow,
  PresetRow,
  PresetVersionRow,
  SessionRow,
  SessionUseRow,
  SetupRow,
} from '../db/entities.ts';
import { presetRow } from '../db/store.ts';
import { transact } from '../db/transaction.ts';

/**
 * Takes back what a pack brought: what came goes to the trash, where it can be found for a month; histories end where
 * they did. What went on since, or is used by a session that stays, is kept and said.
 * @returns null where nothing of that name was taken in
 */
export function takeBack(db: DataSource, id: string): Promise<PackBack | null> {
  return transact(db, async (m) => {
    const row = await m.findOneBy(PackTakenRow, { id, owner: ownerNow() });
    if (!row) return null;
    const kept: string[] = [];
    const { presets, setups, sessions, presetVersions, setupVersions, back } = row.made;
    const of = { preset: PresetRow, setup: SetupRow, session: SessionRow };
    await trash(m, SessionRow, [...sessions]);
    for (const { kind, id: one } of back) await trash(m, of[kind], [one]);
    await trash(m, SetupRow, setups);
    for (const preset of presets) {
      if (await isUsed(m, preset)) kept.push(await nameOf(m, preset));
      else await trash(m, PresetRow, [preset]);
    }
    for (const step of presetVersions) {
      if (!(await versionsBack(m, step))) kept.push(await nameOf(m, step.id));
    }
    for (const step of setupVersions) if (!(await setupBack(m, step))) kept.push(`studio ${step.id}`);
    await m.delete(PackTakenRow, { id });
    return { kept };
  });
}

interface Step {
  id: string;
  from: number;
  to: number;
}
type Row = typeof PresetRow | typeof SetupRow | typeof SessionRow;

async function trash(m: EntityManager, of: Row, ids: string[]): Promise<void> {
  if (!ids.length) return;
  await m.update(
    of as typeof PresetRow,
    { id: In(ids), owner: ownerNow(), deletedAt: IsNull() },
    { deletedAt: new Date() },
  );
}
/** Whether a session that is not in the trash has it. */
async function isUsed(m: EntityManager, preset: string): Promise<boolean> {
  for (const { session } of await m.findBy(SessionUseRow, { preset })) {
    if (await m.existsBy(SessionRow, { id: session, deletedAt: IsNull() })) return true;
  }
  return false;
}
const nameOf = async (m: EntityManager, id: string) => (await m.findOneBy(PresetRow, { id }))?.name ?? id;

/** A preset's history ends where it did, if nobody saved a version since. */
async function versionsBack(m: EntityManager, { id, from, to }: Step): Promise<boolean> {
  const row = await m.findOneBy(PresetRow, { id, owner: ownerNow() });
  if (row?.currentVersion !== to) return false;
  const { document } = await m.findOneOrFail(PresetVersionRow, {
    where: { preset: id, version: from },
    select: { preset: true, version: true, document: true },
  });
  const { pinned: _p, lastUsedAt: _l, parent: _v, deletedAt: _d, ...fields } = presetRow(document as Preset);
  await m.update(PresetRow, { id }, fields);
  await m.query('DELETE FROM preset_version WHERE preset = ? AND version > ?', [id, from]);
  await m.query('DELETE FROM fingerprint WHERE preset = ? AND version > ?', [id, from]);
  return true;
}
async function setupBack(m: EntityManager, { id, from, to }: Step): Promise<boolean> {
  const { affected } = await m.update(
    SetupRow,
    { id, owner: ownerNow(), currentVersion: to },
    { currentVersion: from },
  );
  if (affected) await m.query('DELETE FROM setup_version WHERE setup = ? AND version > ?', [id, from]);
  return affected === 1;
}
