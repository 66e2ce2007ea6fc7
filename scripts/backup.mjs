// npm run backup [-- FILE], npm run restore -- FILE: beside the running program, or by itself.
import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { DATA, ROOT, ensureDebian, ensureNpm, fail } from './lib.mjs';
import { databasePid, startDatabase, stopDatabase } from './database.mjs';
import { build } from './build.mjs';

async function main() {
  const [what, file] = process.argv.slice(2);
  await ensureNpm();
  await ensureDebian([['mariadbd', 'mariadb-server']]);
  const wasRunning = Boolean(databasePid());
  const port = await startDatabase({ quiet: true });
  if (!existsSync(join(ROOT, 'dist/node/server/backup.js'))) await build({ parts: ['node'], quiet: true });
  // npm goes to the project's folder: a path means the one that it was called in
  const from = process.env.INIT_CWD ?? process.cwd();
  const args = [join(ROOT, 'dist/node/server/backup.js'), what, ...(file ? [resolve(from, file)] : [])];
  const env = { ...process.env, DB_PORT: String(port), ROPE_SHELF_DATA: DATA };
  const child = spawn(process.execPath, args, { cwd: ROOT, env, stdio: 'inherit' });
  const code = await new Promise((done) => child.once('exit', done));
  if (!wasRunning) await stopDatabase();
  process.exit(code ?? 1);
}

main().catch(fail);
