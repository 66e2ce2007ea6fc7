import 'reflect-metadata';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { DataSource, type Logger } from 'typeorm';
import { ENTITIES } from './entities.ts';
import { INTERRUPTED } from './abortable.ts';
import { log } from './log.ts';
import * as migrations from './migrations/index.ts';

/** Logs failed queries only, and cuts their parameters short: sound would fill the log. */
class ShortLogger implements Logger {
  logQuery(): void {
    /* quiet */
  }
  logQueryError(error: string | Error, query: string, parameters?: unknown[]): void {
    // somebody typed on, and the query was ended on purpose
    if ((error as { errno?: number }).errno === INTERRUPTED) return;
    const shown = (parameters ?? [])
      .slice(0, 8)
      .map((p) => String(Buffer.isBuffer(p) ? `<${p.length} bytes>` : p).slice(0, 60));
    const why = error instanceof Error ? error.message : error;
    log.error({ error: why.slice(0, 300), query: query.slice(0, 200), parameters: shown }, 'a query failed');
  }
  logQuerySlow(): void {
    /* quiet */
  }
  logSchemaBuild(): void {
    /* quiet */
  }
  logMigration(message: string): void {
    log.info(message);
  }
  log(): void {
    /* quiet */
  }
}

export interface DbOptions {
  port: number;
  database: string;
  password?: string;
}

/** The file in the data folder that holds the password, as the start makes it: for this account only. */
function passwordFromFile(): string {
  const file = join(process.env.ROPE_SHELF_DATA ?? join(process.cwd(), '.data'), 'db-password');
  try {
    return readFileSync(file, 'utf8').trim();
  } catch {
    throw new Error(
      `The database’s password is not to be read in ${file}. Start the database first: npm start`,
    );
  }
}

export const dbFromEnv = (): DbOptions => ({
  port: Number(process.env.DB_PORT ?? 33306),
  database: process.env.DB_NAME ?? 'ropeshelf',
});

/** MariaDB on 127.0.0.1 through TypeORM; the schema comes from migrations only. */
export const makeDataSource = (o: DbOptions): DataSource =>
  new DataSource({
    type: 'mariadb',
    host: '127.0.0.1',
    port: o.port,
    username: 'ropeshelf',
    password: o.password ?? passwordFromFile(),
    database: o.database,
    charset: 'utf8mb4',
    timezone: 'Z',
    supportBigNumbers: true,
    bigNumberStrings: true,
    synchronize: false,
    entities: ENTITIES,
    migrations: Object.values(migrations),
    migrationsTransactionMode: 'each',
    poolSize: 10,
    connectTimeout: 5000,
    logger: new ShortLogger(),
    extra: { enableKeepAlive: true },
  });
