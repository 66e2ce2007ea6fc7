// npm run account: accounts of people who sign in, beside the running program or without it.
import { createInterface } from 'node:readline';
import {
  AccountProblem,
  accounts,
  addAccount,
  closeAccount,
  setPassword,
  signOutEverywhere,
} from './accounts/accounts.ts';
import { connectedOrEnd } from './db/data-source.ts';
import { migrated } from './db/migrate.ts';
import { seedDemo } from './seed.ts';

const USE = `npm run account -- list
npm run account -- add NAME          a new account; the first one gets what is here already
npm run account -- password NAME     another password; every browser signs in again
npm run account -- sign-out NAME     every browser signs in again
npm run account -- close NAME        nobody signs in with it any more; what it has stays, “add” opens it again`;

const [what, ...words] = process.argv.slice(2);
const name = words.join(' ');
const say = (text: string) => process.stdout.write(`${text}\n`);

const db = await connectedOrEnd();
try {
  await migrated(db, async () => {
    // an account is no reason for the first start to leave the demo out
    if (process.env.SEED !== 'no' && process.env.DEMO !== 'no') await seedDemo(db);
  });
  await run();
} catch (e) {
  process.stderr.write(`${e instanceof AccountProblem ? e.message : String(e)}\n`);
  process.exitCode = 1;
} finally {
  await db.destroy();
}

async function run(): Promise<void> {
  const tasks: Partial<Record<string, () => Promise<string>>> = {
    list: listed,
    add: async () => `“${(await addAccount(db, name, await password())).name}” can sign in.`,
    password: async () => {
      await setPassword(db, name, await password());
      return `“${name}” has another password, and signs in again everywhere.`;
    },
    'sign-out': async () =>
      `${await signOutEverywhere(db, name)} browsers of “${name}” have to sign in again.`,
    close: async () => {
      await closeAccount(db, name);
      return `Nobody signs in as “${name}” any more. What it has stays; “add” opens it again.`;
    },
  };
  const task = tasks[what];
  if (!task || (what !== 'list' && !name)) throw new AccountProblem(`What should be done?\n${USE}`);
  say(await task());
}

async function listed(): Promise<string> {
  const stateOf = (a: { closedAt: Date | null; canSignIn: boolean }) => {
    if (a.closedAt) return `closed since ${a.closedAt.toISOString().slice(0, 10)}`;
    return a.canSignIn ? 'can sign in' : 'has no password yet: the owner of this machine, without signing in';
  };
  return (await accounts(db)).map((a) => `${a.name}: ${stateOf(a)}`).join('\n') || 'There is no account yet.';
}

/** Asks for a password, which is not shown; or reads it, where it comes from a file or another program. */
async function password(): Promise<string> {
  const { stdin, stderr } = process;
  if (!stdin.isTTY) return firstLine();
  const first = await asked('Password: ');
  if ((await asked('Once more: ')) !== first) {
    throw new AccountProblem('These were two different passwords. Try again.');
  }
  return first;

  async function firstLine(): Promise<string> {
    for await (const line of createInterface({ input: stdin })) return line;
    throw new AccountProblem('No password came. Type it, or send it: echo … | npm run account -- add NAME');
  }
  function asked(question: string): Promise<string> {
    stderr.write(question);
    stdin.setRawMode(true);
    stdin.resume();
    return new Promise((done, failed) => {
      let typed = '';
      const end = () => {
        stdin.setRawMode(false);
        stdin.pause();
        stdin.off('data', key);
        stderr.write('\n');
      };
      const key = (data: Buffer) => {
        for (const letter of data.toString('utf8')) {
          if (letter === '\r' || letter === '\n') {
            end();
            done(typed);
            return;
          }
          if (letter === '\u0003') {
            end();
            failed(new AccountProblem('Nothing was changed.'));
            return;
          }
          typed = letter === '\u007f' ? typed.slice(0, -1) : typed + letter;
        }
      };
      stdin.on('data', key);
    });
  }
}
