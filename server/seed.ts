import type { DataSource } from 'typeorm';
import { makeDemo } from '../demo/index.ts';
import { actAsOwner } from './db/acting.ts';
import { OWNER, UserRow } from './db/entities.ts';
import { putMedia } from './db/media.ts';
import { putPreset, putSession, putSetup } from './db/store.ts';
import { transact } from './db/transaction.ts';

/** Puts the demo in once: on the first start of an empty database. */
export async function seedDemo(db: DataSource): Promise<boolean> {
  if (await db.getRepository(UserRow).existsBy({ id: OWNER })) return false;
  return actAsOwner(OWNER, () => putDemo(db));
}

async function putDemo(db: DataSource): Promise<true> {
  const demo = makeDemo();
  for (const s of demo.sessions) {
    for (const [id, bytes] of s.media) {
      await putMedia(db, Buffer.from(bytes), s.session.media.find((m) => m.id === id)!.name, 'wav');
    }
  }
  await transact(db, async (m) => {
    // the second session first, so that the first one is the newest and stands on top
    for (const s of [demo.faulty, ...[...demo.sessions].reverse()]) await putSession(m, s.id, s.session);
    for (const p of demo.presets) await putPreset(m, p);
    for (const studio of demo.studios) await putSetup(m, studio);
    // last, so that a start that was cut short seeds again
    await m.insert(UserRow, { id: OWNER, name: 'You' });
  });
  return true;
}
