import { existsSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import packed from 'express-static-gzip';
import express, { type Express } from 'express';
import helmet, { type HelmetOptions } from 'helmet';
import type { DataSource } from 'typeorm';
import type { Health } from '../contract/index.ts';
import { Access } from './accounts/access.ts';
import { ownHosts, ownOrigin, shallowBody } from './http/doors.ts';
import { peopleRoutes } from './http/people.ts';
import { signedIn, signInRoutes } from './http/sign-in.ts';
import { spaces } from './http/spaces.ts';
import { roomOnDisk } from './http/disk.ts';
import { EventHub } from './http/events.ts';
import type { Context } from './http/context.ts';
import { defaultRoutes } from './http/defaults.ts';
import { dropRoutes } from './http/drops.ts';
import { byHandRoutes, nearRoutes } from './http/near.ts';
import { jobRoutes } from './http/jobs.ts';
import { likenessRoutes } from './http/likeness.ts';
import { mediaRoutes } from './http/media.ts';
import { packRoutes } from './http/packs.ts';
import { interfacePage } from './http/page.ts';
import { presetRoutes } from './http/presets.ts';
import { logged } from './http/logged.ts';
import { problems, unknownRoute } from './http/problem.ts';
import { searchRoutes } from './http/searches.ts';
import { sessionRoutes } from './http/sessions.ts';
import { backupRoutes } from './http/backups.ts';
import { trashRoutes } from './http/trash.ts';
import { Backups, type BackupOptions } from './packs/backups.ts';
import { uploadRoutes } from './http/uploads.ts';
import { setupRoutes } from './http/setups.ts';
import { Documents } from './db/documents.ts';
import { Fingerprints } from './jobs/fingerprints.ts';
import { Near } from './jobs/near.ts';
import { PrintJobs } from './jobs/prints.ts';

export interface AppOptions {
  /** the folder of the built interface; the API works without it */
  client?: string;
  /** names that it answers to beside those of the machine itself */
  hosts?: readonly string[];
  /** the data folder, and the bytes that are free on its disk; without them the disk is not looked at */
  disk?: { folder: string; free: () => Promise<number> };
  /** where prints lie; with everything that passes where nothing is said */
  prints?: string;
  /** whether people sign in, each to a shelf of their own; without it there is one account, and nobody does */
  signIn?: boolean;
  /** it is reached over TLS alone: browsers are told to stay with it */
  tls?: boolean;
  /** whose word is taken for where a request came from: proxies in front (Express, “trust proxy”) */
  proxies?: string[];
  /** where backups lie, and how many are kept; beside what passes, and none by themselves, where nothing is said */
  backups?: BackupOptions;
}

/** What runs beside the HTTP side, to be started and stopped. */
export interface Made {
  app: Express;
  jobs: PrintJobs;
  fingerprints: Fingerprints;
  near: Near;
  backups: Backups;
  documents: Documents;
}

/** What the build has packed beside each file is sent to who takes it. */
const PACKED = { enableBrotli: true, orderPreference: ['br', 'gzip'] };

/** What a browser may do with pages of this program: nothing from elsewhere, and isolated, so that memory can be shared. */
const headersFor = (tls: boolean): HelmetOptions => ({
  contentSecurityPolicy: {
    directives: {
      'default-src': ["'self'"],
      'script-src': ["'self'", "'wasm-unsafe-eval'"],
      'style-src': ["'self'", "'unsafe-inline'"],
      'font-src': ["'self'"],
      'connect-src': ["'self'"],
      'img-src': ["'self'", 'data:', 'blob:'],
      'worker-src': ["'self'", 'blob:'],
      'upgrade-insecure-requests': null,
    },
  },
  crossOriginEmbedderPolicy: { policy: 'require-corp' },
  crossOriginOpenerPolicy: { policy: 'same-origin' },
  // once told, a browser refuses to come without
  strictTransportSecurity: tls,
});

/**
 * The whole HTTP side, the prints that it takes and the fingerprints that it makes. Whoever starts it starts these, too,
 * and stops them.
 */
export function makeApp(
  db: DataSource,
  {
    client,
    hosts = [],
    disk,
    prints,
    backups: kept,
    signIn = false,
    proxies = [],
    tls = false,
  }: AppOptions = {},
): Made {
  const app = express();
  const work = disk ? { folder: join(disk.folder, 'work'), free: disk.free } : { folder: tmpdir() };
  const access = new Access(db, signIn);
  const context: Context = { db, work, events: new EventHub(db), documents: new Documents(db), access };
  const backups = new Backups(db, work, kept ?? { folder: join(work.folder, 'rope-shelf-backups'), keep: 0 });
  const fingerprints = new Fingerprints(db);
  const near = new Near(db);
  const jobs = new PrintJobs(db, {
    folder: prints ?? join(tmpdir(), 'rope-shelf-prints'),
    free: disk?.free,
    tell: (owner, news) => context.events.printed(owner, news),
  });
  app.disable('x-powered-by');
  app.set('trust proxy', proxies);
  app.use(helmet(headersFor(tls)));
  app.use(logged);
  app.use(ownHosts(hosts), ownOrigin);
  app.use('/api', signedIn(db, signIn));
  if (disk) app.use('/api', roomOnDisk(disk.folder, disk.free));
  app.use(
    '/api',
    express.json({ limit: '32mb', type: ['application/json', 'application/json-patch+json'] }),
    shallowBody,
  );
  app.get('/api/health', async (_req, res) => {
    await db.query('SELECT 1');
    res.json({ ok: true, app: 'rope-shelf' } satisfies Health);
  });
  // what a file of this program looks like, for programs of others
  app.use('/api/schema', express.static(join(process.cwd(), 'docs/schema'), { index: false }));
  // and what can be asked of it (npm run openapi)
  app.get('/api/openapi.json', (_req, res) => res.sendFile(join(process.cwd(), 'docs/schema/openapi.json')));
  app.use('/api', signInRoutes(context), spaces(context), peopleRoutes(context));
  app.use('/api/sessions', byHandRoutes(context, near), sessionRoutes(context));
  app.use(
    '/api/presets',
    likenessRoutes(context, fingerprints),
    nearRoutes(context, near),
    presetRoutes(context, () => fingerprints.wake()),
  );
  app.use('/api/media', mediaRoutes(context));
  app.use(
    '/api/packs',
    packRoutes(context, () => fingerprints.wake()),
  );
  app.use('/api/trash', trashRoutes(context));
  app.use('/api/backups', backupRoutes(backups));
  app.use('/api/uploads', uploadRoutes(context));
  app.use('/api/drops', dropRoutes(context));
  app.use('/api/searches', searchRoutes(context));
  app.use('/api/defaults', defaultRoutes(context));
  app.use('/api/setups', setupRoutes(context));
  app.use('/api/jobs', jobRoutes(context, jobs));
  app.use('/api', unknownRoute);
  if (client && existsSync(client)) {
    app.use(
      '/assets',
      packed(join(client, 'assets'), { ...PACKED, serveStatic: { immutable: true, maxAge: '365d' } }),
    );
    app.use('/assets', (_req, res) => void res.status(404).end());
    app.use(packed(client, { ...PACKED, index: false }));
    app.get('/{*path}', interfacePage(client));
  }
  app.use(problems);
  return { app, jobs, fingerprints, near, backups, documents: context.documents };
}
