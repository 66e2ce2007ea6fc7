// Two engineers, two accounts, one shelf that is shared, one session: both see each other, and nothing is lost.
import assert from 'node:assert/strict';
import { fork, spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, test } from 'node:test';
import { freePort } from '../../scripts/lib.mjs';
import { Key, openBrowser } from './driver.mjs';

const PASSWORD = 'nine ropes and a bell';
const NODE = join(import.meta.dirname, '../../dist/node/server');
/** a server of its own, on a database of its own, where people sign in */
const folder = mkdtempSync(join(tmpdir(), 'rope-shelf-people-'));
const env = { ...process.env, DB_NAME: 'ropeshelf_people', SIGN_IN: 'yes', BACKUPS: '0' };
env.BACKUP_FOLDER = join(folder, 'backups');
env.PRINT_FOLDER = join(folder, 'prints');

let bosun;
let helm;
let server;

/** What whoever runs the server does in a terminal. */
async function account(...words) {
  const child = spawn(process.execPath, [join(NODE, 'account.js'), ...words], { env });
  child.stdin.end(`${PASSWORD}\n`);
  let said = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (text) => (said += text));
  const [code] = await once(child, 'close');
  return { code, said };
}
function start(port) {
  return fork(join(NODE, 'main.js'), {
    env: { ...env, PORT: String(port) },
    stdio: ['ignore', 'pipe', 'inherit', 'ipc'],
  });
}

before(async () => {
  const port = await freePort(4800);
  const early = start(port);
  let said = '';
  early.stdout.on('data', (text) => (said += text));
  const [code] = await once(early, 'exit');
  assert.equal(code, 4, 'no server without an account');
  assert.match(said, /Make an account first: npm run account -- add NAME/);
  for (const name of ['bosun', 'helm', 'purser']) {
    const added = await account('add', name);
    assert.deepEqual([added.code, added.said.trim()], [0, `“${name}” can sign in.`]);
  }
  assert.match((await account('list')).said, /bosun: can sign in\nhelm: can sign in\npurser: can sign in/);
  server = start(port);
  await once(server, 'message');
  const base = `http://127.0.0.1:${port}`;
  [bosun, helm] = [await openBrowser(base), await openBrowser(base)];
});
after(async () => {
  await Promise.all([bosun?.quit(), helm?.quit()]);
  if (server?.exitCode === null) {
    const gone = once(server, 'exit');
    server.kill('SIGTERM');
    await gone;
  }
  rmSync(folder, { recursive: true, force: true });
});

async function signIn(page, name, password = PASSWORD) {
  await page.type('Name', name);
  await page.type('Password', password);
  await page.click('Sign in');
}
const setLevel = async (page, line, text) => {
  const row = await page.line(line);
  await page.click(`Level of ${line}:`, row);
  await page.keys(text, Key.ENTER);
};

test('nobody sees anything; a wrong password says so; the right one opens what was asked for', async () => {
  await bosun.go('/session/kelp-and-copper');
  await bosun.find('dialog', 'Sign in to Rope Shelf');
  assert.equal(await bosun.has('[role="group"]', 'Line Choir'), null);
  assert.deepEqual(await bosun.axe(), []);
  await signIn(bosun, 'bosun', 'not the password');
  await bosun.see('There is no account “bosun” with this password.');
  await signIn(bosun, 'bosun');
  await bosun.line('Choir');
});

test('a shelf is shared, and a session; the other finds both, and nothing else', async () => {
  await helm.go('/sessions');
  await signIn(helm, 'helm');
  await helm.see('No sessions yet');
  await bosun.go('/settings');
  await bosun.see('Signed in as bosun');
  await bosun.choose('My shelf for helm', 'reads it and adds versions');
  await bosun.go('/session/kelp-and-copper');
  await bosun.line('Choir');
  await bosun.click('Session menu');
  await bosun.click('Work together on it …');
  await bosun.check('helm');
  await bosun.click('Close', await bosun.find('dialog', 'Work together on'));
  await helm.go('/sessions');
  await helm.see('of bosun');
  await helm.click('Kelp and Copper');
  await helm.line('Choir');
});

test('both see each other, and at which line; changes of both are kept, and say whose they are', async () => {
  await bosun.find('[role="status"]', 'Here too: helm');
  await helm.find('[role="status"]', 'Here too: bosun');
  await helm.click('Line Choir');
  await bosun.find('[role="img"]', 'helm is at Choir');
  assert.deepEqual(await bosun.axe(), []);
  await Promise.all([setLevel(bosun, 'Bass', '-15'), setLevel(helm, 'Concertina', '-16')]);
  for (const page of [bosun, helm]) {
    await page.until('both changes', async () => {
      const bass = await page.text(await page.line('Bass'));
      return (
        bass.includes('−15.0 dB') && (await page.text(await page.line('Concertina'))).includes('−16.0 dB')
      );
    });
    await page.saved();
  }
  await bosun.click('Session menu');
  await bosun.click('History …');
  const history = await bosun.find('dialog', 'History');
  await bosun.until('whose steps they are', async () =>
    /Concertina.*helm/.test((await bosun.text(history)).replace(/\s+/g, ' ')),
  );
  await bosun.click('Close', history);
  await helm.go('/sessions');
  await bosun.until('helm to be gone', async () => !(await bosun.has('[role="status"]', 'Here too')));
});

test('a shelf of another: read, and a copy on one’s own', async () => {
  await helm.go('/shelf');
  await helm.choose('Whose shelf', 'Shelf of bosun');
  await helm.type('Search the shelf', 'lead');
  await helm.until('presets of the other', () =>
    helm.js('return document.querySelector(\'[id^="preset-"]\')?.innerText'),
  );
  await helm.js('document.querySelector(\'[id^="preset-"]\').click()');
  await helm.see('On the shelf of bosun: you can read it and add versions');
  assert.equal(await helm.has('button', 'Take off the shelf'), null);
  assert.deepEqual(await helm.axe(), []);
  await helm.click('Put a copy on my shelf');
  await helm.see('is on your shelf.');
  await helm.find('button', 'Take off the shelf');
});

test('studios of another: listed, copied to the own ones, and a session moves into one of them', async () => {
  // a screen may ask what is shared before it is known who works here
  const inTime = await helm.answerLate('/api/me', 1500);
  await helm.go('/hardware');
  await helm.find('h2', 'On the shelf of bosun');
  await inTime();
  const [studio] = await helm.js(
    'return [...document.querySelectorAll(\'[aria-labelledby^="studios-of-"] li .font-semibold\')].map((x) => x.innerText)',
  );
  assert.deepEqual(await helm.axe(), []);
  await helm.click(`Copy to mine: ${studio}`);
  await helm.find('h1', `${studio}, copy`);
  await helm.go('/hardware');
  await helm.find('a', `${studio}, copy`);
  // the session is another's, and so is the studio: both are open to this
  await helm.go('/session/kelp-and-copper');
  await helm.line('Choir');
  await helm.click('Session menu');
  await helm.click('Hardware of this session …');
  const sheet = await helm.find('dialog', 'Hardware of this session');
  await helm.choose('Move this session to', studio, sheet);
  await helm.click(`Move to ${studio}`, sheet);
  await helm.saved();
});

test('where nothing is yet, the first steps lead from the demo over a preset to the proof; the guide is searched', async () => {
  const own = await openBrowser(bosun.base);
  try {
    await own.go('/welcome');
    await signIn(own, 'purser');
    await own.see('Step 1 of 4');
    assert.deepEqual(await own.axe(), []);
    await own.click('Look at the demo');
    await own.click('Put the demo in');
    await own.line('Choir');
    await own.see('Step 2 of 4');
    await own.click('Line Choir');
    await own.click('Save to the shelf');
    await own.type('Name', 'Choir to keep', await own.find('dialog', 'Save'));
    await own.click('Save', await own.find('dialog', 'Save'));
    await own.see('Step 3 of 4');
    await own.click('Read more');
    const guide = await own.find('dialog', 'Guide');
    await own.see('null test', 0, guide);
    await own.type('Search the guide', 'patch list', guide);
    await own.until('the chapter with these words', async () =>
      (await own.text(await own.find('[aria-label="Chapters"]', '', guide))).startsWith('Hardware'),
    );
    assert.deepEqual(await own.axe(), []);
    await own.click('Close', guide);
    await own.type('Search the shelf', 'Choir to keep');
    const card = await own.find('button', 'Choir to keep', await own.find('aside', 'Shelf'));
    await card.sendKeys(Key.ENTER);
    await own.see('Step 4 of 4');
    await own.click('What happened');
    await own.find('dialog', 'Intact');
    await own.see('That is the way of it');
    await own.click('Close', await own.find('dialog', 'Intact'));
    await own.click('Leave the first steps');
    await own.until('no more steps', async () => !(await own.text()).includes('That is the way of it'));
    // what came is one’s own
    await bosun.go('/shelf');
    assert.ok(!(await bosun.text()).includes('Choir to keep'));
    await bosun.go('/session/kelp-and-copper');
    await bosun.line('Choir');
  } finally {
    await own.quit();
  }
});

test('signed out meanwhile: what is changed waits for the password, and is saved', async () => {
  const { said } = await account('sign-out', 'bosun');
  assert.match(said, /have to sign in again/);
  await setLevel(bosun, 'Choir', '-9');
  await bosun.find('dialog', 'Sign in to Rope Shelf');
  await bosun.see('What you did in this window is kept');
  await signIn(bosun, 'bosun');
  await bosun.saved();
  await bosun.go('/session/kelp-and-copper');
  await bosun.until('the change', async () =>
    (await bosun.text(await bosun.line('Choir'))).includes('−9.0 dB'),
  );
});
