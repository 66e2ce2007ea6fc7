// npm run backup, npm run restore: beside the running program or without it.
import { copyFile, stat } from 'node:fs/promises';
import { basename, join, resolve } from 'node:path';
import { connectedOrEnd } from './db/data-source.ts';
import { accountIdOf } from './accounts/accounts.ts';
import { actAsOwner } from './db/acting.ts';
import { OWNER, UserRow } from './db/entities.ts';
import { migrated } from './db/migrate.ts';
import { packLimits } from './http/disk.ts';
import { Backups } from './packs/backups.ts';
import { takePack } from './packs/take.ts';
import { readPack } from './work/files.ts';
import { withFolder } from './work/work-folder.ts';

const folder = process.env.ROPE_SHELF_DATA ?? join(process.cwd(), '.data');
const work = { folder: join(folder, 'work') };
const [what, file] = process.argv.slice(2);
/** whose; the first account's where none is named */
const { ACCOUNT } = process.env;
const say = (text: string) => process.stdout.write(`${text}\n`);

const db = await connectedOrEnd();
try {
  await migrated(db, () => Promise.resolve());
  const owner = ACCOUNT ? await accountIdOf(db, ACCOUNT) : OWNER;
  await actAsOwner(owner, () => (what === 'restore' ? restore(file) : backup(file)));
} catch (e) {
  process.stderr.write(`${(e as Error).message}\n`);
  process.exitCode = 1;
} finally {
  await db.destroy();
}

/** @param to a file; among the other backups when left out */
async function backup(to: string | undefined): Promise<void> {
  const keep = Number(process.env.BACKUPS ?? 7);
  const options = { folder: process.env.BACKUP_FOLDER ?? join(folder, 'backups'), keep };
  const backups = new Backups(db, work, options);
  const { name, bytes } = await backups.make();
  const path = join(backups.folder, name);
  if (to) await copyFile(path, to);
  say(
    `${to ?? path}: ${(bytes / 1e6).toFixed(1)} MB. Bring it back with: npm run restore -- "${to ?? path}"`,
  );
}

async function restore(from: string | undefined): Promise<void> {
  if (!from) throw new Error('Which backup? npm run restore -- "path of the file"');
  const path = resolve(from);
  const found = await stat(path).catch(() => null);
  if (!found) throw new Error(`There is no file ${path}. npm run backup says where it put one.`);
  // the demo does not come on top of what is brought back
  const first = db.getRepository(UserRow).createQueryBuilder().insert().values({ id: OWNER, name: 'You' });
  await first.orIgnore().execute();
  const { items } = await withFolder(work, async (beside) => {
    const pack = await readPack(
      { path, name: basename(path), size: found.size },
      beside,
      await packLimits(work),
    );
    return takePack(db, pack, basename(path), new Set());
  });
  const came = items.filter((i) => i.fate !== 'same' && i.fate !== 'older');
  const there = items.length - came.length;
  say(`${came.length} presets, studios and sessions came from ${path}; ${there} were here already.`);
}
