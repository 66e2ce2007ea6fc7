import { join } from 'node:path';
import { makeApp } from './app.ts';
import { dbFromEnv, makeDataSource } from './db/data-source.ts';
import { migrated } from './db/migrate.ts';
import { fillUses } from './db/store.ts';
import { fillWords } from './db/words.ts';
import { tidyRegularly } from './db/tidy.ts';
import { log } from './db/log.ts';
import { freeOn } from './http/disk.ts';
import { sweepWork } from './work/work-folder.ts';
import { renewDemo } from './renew.ts';
import { seedDemo } from './seed.ts';

// An error nobody caught must not take the server down with unsaved work in open windows.
process.on('unhandledRejection', (err) => log.error({ err }, 'nobody caught a rejection'));
process.on('uncaughtException', (err: NodeJS.ErrnoException) => {
  log.error({ err }, 'nobody caught an error');
  if (err.code === 'EADDRINUSE') process.exit(3);
});

const folder = process.env.ROPE_SHELF_DATA ?? join(process.cwd(), '.data');
const kept = {
  folder: process.env.BACKUP_FOLDER ?? join(folder, 'backups'),
  keep: Math.max(0, Math.floor(Number(process.env.BACKUPS ?? 7)) || 0),
};

const db = makeDataSource(dbFromEnv());
await db.initialize();
await migrated(
  db,
  async () => {
    const isWanted = process.env.SEED !== 'no' && process.env.DEMO !== 'no';
    if (isWanted && (await seedDemo(db))) log.info('the demo is in place');
    const renewed = await renewDemo(db);
    if (renewed) log.info({ presets: renewed }, 'presets of the demo have a version with the present sound');
    await fillUses(db);
    await fillWords(db.manager);
  },
  kept.folder,
);
const port = Number(process.env.PORT ?? 4310);
const client = join(import.meta.dirname, '../../client');
const hosts = (process.env.HOSTS ?? '')
  .split(',')
  .map((host) => host.trim())
  .filter(Boolean);
const disk = { folder, free: freeOn(folder) };
const { app, jobs, fingerprints, near, backups, documents } = makeApp(db, {
  client,
  hosts,
  disk,
  prints: process.env.PRINT_FOLDER ?? join(folder, 'prints'),
  backups: kept,
});
const server = app.listen(port, '127.0.0.1', () => {
  log.info({ port }, 'listening');
  process.send?.('ready');
});

const rests = [tidyRegularly(db), backups.regularly()];
jobs.start();
fingerprints.start();
void sweepWork({ folder: join(folder, 'work') }).catch((err: unknown) =>
  log.error({ err }, 'what earlier work left on the disk could not be cleared away'),
);

const stop = () => {
  for (const rest of rests) rest();
  server.closeAllConnections();
  server.close(() => {
    void Promise.all([jobs.stop(), fingerprints.stop(), near.stop(), documents.stop()])
      .catch((err: unknown) =>
        log.error({ err }, 'prints could not be given back; the next start sees to it'),
      )
      .finally(() => void db.destroy().finally(() => process.exit(0)));
  });
};
process.on('SIGTERM', stop);
process.on('SIGINT', stop);
process.on('disconnect', stop);
