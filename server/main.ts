import { readFileSync } from 'node:fs';
import { isIP } from 'node:net';
import { hostname, networkInterfaces } from 'node:os';
import { join } from 'node:path';
import { makeApp } from './app.ts';
import { people } from './accounts/accounts.ts';
import { actAsOwner } from './db/acting.ts';
import { OWNER } from './db/entities.ts';
import { connectedOrEnd } from './db/data-source.ts';
import { migrated } from './db/migrate.ts';
import { unfitSettings } from './db/settings.ts';
import { fillUses } from './db/store.ts';
import { bundleRegularly } from './db/bundle.ts';
import { tidyRegularly } from './db/tidy.ts';
import { log } from './db/log.ts';
import { freeOn } from './http/disk.ts';
import { serverOf } from './serve.ts';
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

/** a list in the environment, by commas */
const listed = (text = ''): string[] =>
  text
    .split(',')
    .map((part) => part.trim())
    .filter(Boolean);
const host = process.env.HOST ?? '127.0.0.1';
const isAlone = ['127.0.0.1', '::1', 'localhost'].includes(host);
/** people sign in where the server is opened to other machines, or a proxy in front opens it */
const signIn = !isAlone || process.env.SIGN_IN === 'yes';

const db = await connectedOrEnd();
for (const problem of await unfitSettings(db)) log.warn(problem);
await migrated(
  db,
  async () => {
    const isWanted = process.env.SEED !== 'no' && process.env.DEMO !== 'no';
    if (isWanted && (await seedDemo(db))) log.info('the demo is in place');
    const renewed = await renewDemo(db);
    if (renewed) log.info({ presets: renewed }, 'presets of the demo have a version with the present sound');
    await actAsOwner(OWNER, () => fillUses(db));
  },
  kept.folder,
);
if (signIn && !(await people(db)).length) {
  log.fatal(
    'Other machines are let in only where people sign in. Make an account first: npm run account -- add NAME',
  );
  process.exit(4);
}
const port = Number(process.env.PORT ?? 4310);
const client = join(import.meta.dirname, '../../client');
const hosts = [...listed(process.env.HOSTS), ...(isAlone ? [] : ownNames())];
/** What a machine that is open to others is called by them: an address can't be made to mean another one. */
function ownNames(): string[] {
  const addresses = Object.values(networkInterfaces()).flatMap((all) => (all ?? []).map((a) => a.address));
  return [hostname(), host, ...addresses].map(hostName);
}
/** How a browser names a host: IPv6 in brackets. */
function hostName(name: string): string {
  return isIP(name) === 6 ? `[${name}]` : name;
}
const { TLS_CERT, TLS_KEY } = process.env;
const tls = TLS_CERT && TLS_KEY ? { cert: readFileSync(TLS_CERT), key: readFileSync(TLS_KEY) } : null;
const disk = { folder, free: freeOn(folder) };
const { app, jobs, fingerprints, near, backups, documents } = makeApp(db, {
  client,
  hosts,
  disk,
  prints: process.env.PRINT_FOLDER ?? join(folder, 'prints'),
  backups: kept,
  signIn,
  proxies: listed(process.env.PROXIES),
  tls: tls !== null,
});
if (!isAlone && !tls) {
  log.warn(
    'Browsers of other machines play sound only over TLS, and passwords travel openly without: TLS_CERT, TLS_KEY',
  );
}
const server = serverOf(app, tls);
server.listen(port, host, () => {
  log.info({ host, port, tls: tls !== null }, 'listening');
  process.send?.('ready');
});

const rests = [bundleRegularly(db), tidyRegularly(db), backups.regularly()];
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
