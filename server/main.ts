import { join } from 'node:path';
import { makeApp } from './app.ts';
import { dbFromEnv, makeDataSource } from './db/data-source.ts';
import { fillUses } from './db/store.ts';
import { seedDemo } from './seed.ts';

// An error nobody caught must not take the server down with unsaved work in open windows.
process.on('unhandledRejection', (e) => console.error('unhandled:', e));
process.on('uncaughtException', (e: NodeJS.ErrnoException) => {
  console.error('uncaught:', e);
  if (e.code === 'EADDRINUSE') process.exit(3);
});

const db = makeDataSource(dbFromEnv());
await db.initialize();
await db.runMigrations();
if (process.env.SEED !== 'no' && (await seedDemo(db))) {
  console.log('The demo is in place: four sessions and 34 presets.');
}
await fillUses(db);
const port = Number(process.env.PORT ?? 4310);
const client = join(import.meta.dirname, '../../client');
const server = makeApp(db, client).listen(port, '127.0.0.1', () => {
  console.log(`listening on ${port}`);
  process.send?.('ready');
});

const stop = () => {
  server.closeAllConnections();
  server.close(() => {
    void db.destroy().finally(() => process.exit(0));
  });
};
process.on('SIGTERM', stop);
process.on('SIGINT', stop);
process.on('disconnect', stop);
