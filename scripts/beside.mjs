// npm run backup [-- FILE], npm run restore -- FILE, npm run account: beside the running program, or by themselves.
import { spawn } from 'node:child_process';
import { join, resolve } from 'node:path';
import { DATA, ROOT, ensureDebian, ensureNpm, fail } from './lib.mjs';
import { databasePid, startDatabase, stopDatabase } from './database.mjs';
import { build } from './build.mjs';

/** the database is one that runs already, here or on another machine */
const elsewhere = Boolean(process.env.DATABASE_URL);

/** What is called for, as a file of the server and its arguments. */
function called([what, ...args]) {
  if (what === 'account') return ['account.js', ...args];
  // npm goes to the project's folder: a path means the one that it was called in
  const from = process.env.INIT_CWD ?? process.cwd();
  return ['backup.js', what, ...args.map((file) => resolve(from, file))];
}

async function main() {
  const [file, ...args] = called(process.argv.slice(2));
  await ensureNpm();
  if (!elsewhere) await ensureDebian([['mariadbd', 'mariadb-server']]);
  const wasRunning = elsewhere || Boolean(databasePid());
  const port = elsewhere ? 0 : await startDatabase({ quiet: true });
  await build({ parts: ['node'], quiet: true });
  const env = { ...process.env, DB_PORT: String(port), ROPE_SHELF_DATA: DATA };
  const child = spawn(process.execPath, [join(ROOT, 'dist/node/server', file), ...args], {
    cwd: ROOT,
    env,
    stdio: 'inherit',
  });
  const code = await new Promise((done) => child.once('exit', done));
  if (!wasRunning) await stopDatabase();
  process.exit(code ?? 1);
}

main().catch(fail);
