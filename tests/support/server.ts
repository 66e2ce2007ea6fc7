import { once } from 'node:events';
import { createServer, type AddressInfo } from 'node:net';
import type { Express } from 'express';
import type { DataSource } from 'typeorm';
import { makeApp, type AppOptions } from '../../server/app.ts';
import type { Fingerprints } from '../../server/jobs/fingerprints.ts';
import { makeDataSource } from '../../server/db/data-source.ts';
import { ENTITIES, OWNER, UserRow } from '../../server/db/entities.ts';

/**
 * The real application on a real database, emptied. Test files run side by side, so each takes a database of
 * its own.
 */
export async function startApi(
  database:
    | 'ropeshelf_test'
    | 'ropeshelf_bench'
    | 'ropeshelf_doors'
    | 'ropeshelf_tidy'
    | 'ropeshelf_prints'
    | 'ropeshelf_history'
    | 'ropeshelf_likeness'
    | 'ropeshelf_lists'
    | 'ropeshelf_files'
    | 'ropeshelf_packs'
    | 'ropeshelf_keeping'
    | 'ropeshelf_near'
    | 'ropeshelf_cluster'
    | 'ropeshelf_openapi'
    | 'ropeshelf_accounts'
    | 'ropeshelf_secure'
    | 'ropeshelf_several' = 'ropeshelf_test',
  options: AppOptions = {},
): Promise<{ app: Express; db: DataSource; fingerprints: Fingerprints; stop: () => Promise<void> }> {
  const db = makeDataSource({ port: Number(process.env.DB_PORT ?? 33306), database });
  await db.initialize();
  await db.runMigrations();
  for (const e of ENTITIES) await db.getRepository(e).clear();
  await db.getRepository(UserRow).insert({ id: OWNER, name: 'Test' });
  const { app, fingerprints, near, documents } = makeApp(db, options);
  const stop = async () => {
    await Promise.all([fingerprints.stop(), near.stop(), documents.stop()]);
    await db.destroy();
  };
  return { app, db, fingerprints, stop };
}

/** A port of this machine that nothing listens on. */
export async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  server.close();
  await once(server, 'close');
  return port;
}
