// Drives Debian's Chromium the way a person would: things are found by what is to be read on them.
import { mkdtempSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Key } from 'selenium-webdriver';
import chrome from 'selenium-webdriver/chrome.js';

export { Key };
const AXE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

/**
 * A page in a Chromium of its own.
 * @param sound the environment of a sound card that it shall hear; it may use its inputs unless `asks` says no
 */
export async function openBrowser(base, { width = 1280, height = 800, sound = null, asks = true } = {}) {
  const page = await start(base, width, height, sound ? { env: sound, asks } : null);
  await page.driver.sendDevToolsCommand('Emulation.setDeviceMetricsOverride', {
    width,
    height,
    deviceScaleFactor: 1,
    mobile: false,
  });
  await page.driver.manage().setTimeouts({ script: 60000 });
  return page;
}

/** Chromium hears a sound card: nothing of it is muted, and it grants (or refuses) the inputs by itself. */
function hear(options, { asks }) {
  options.excludeSwitches('mute-audio');
  options.addArguments('--disable-features=AudioServiceSandbox');
  options.addArguments(asks ? '--use-fake-ui-for-media-stream' : '--deny-permission-prompts');
}

/** Debian's Chromium with what it says kept in a file: its driver throws that away. */
function sayingTo(log, folder) {
  const script = join(folder, 'chromium');
  writeFileSync(script, `#!/bin/sh\nexec /usr/bin/chromium "$@" 2>>'${log}'\n`, { mode: 0o755 });
  return script;
}
/** What Chromium says as it ends a page: a check of its own, a signal, or that there is no memory. */
const LAST_WORDS = /FATAL|Check failed|Received signal|Out of memory|Fatal error/i;
function tellLastWords(log) {
  const words = readFileSync(log, 'utf8').split('\n');
  const last = words.filter((line) => LAST_WORDS.test(line)).slice(0, 10);
  if (last.length) console.log(`Chromium said:\n${last.join('\n')}`);
}

async function start(base, width, height, sound) {
  const profile = mkdtempSync(join(tmpdir(), 'rope-shelf-chrome-'));
  const downloads = mkdtempSync(join(tmpdir(), 'rope-shelf-downloads-'));
  const o = new chrome.Options();
  const log = join(profile, 'browser.log');
  writeFileSync(log, '');
  o.setChromeBinaryPath(sayingTo(log, profile));
  o.addArguments(
    '--headless=new',
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--disable-dev-shm-usage',
    `--window-size=${width},${height}`,
    '--hide-scrollbars',
    '--force-device-scale-factor=1',
    `--user-data-dir=${profile}`,
    '--autoplay-policy=no-user-gesture-required',
    '--enable-logging=stderr',
  );
  o.setUserPreferences({ 'download.default_directory': downloads, 'download.prompt_for_download': false });
  o.set('goog:loggingPrefs', { browser: 'ALL' });
  if (sound) hear(o, sound);
  const service = new chrome.ServiceBuilder('/usr/bin/chromedriver')
    .setEnvironment({ ...process.env, ...sound?.env })
    .build();
  await service.start();
  const driver = chrome.Driver.createSession(o, service);
  await driver.getSession();
  const end = async () => {
    await driver.quit().catch(() => undefined);
    await service.kill().catch(() => undefined);
    tellLastWords(log);
    for (const folder of [profile, downloads]) {
      rmSync(folder, { recursive: true, force: true, maxRetries: 3 });
    }
  };
  return new Page(driver, base, { downloads, end });
}

/** In the page: axe-core's violations, each with the first places where it was found. */
const AXE_RUN = `
  const done = arguments[arguments.length - 1];
  const place = (node) => node.html.slice(0, 160) + ' ' + (node.any[0]?.message ?? '');
  const said = (v) => v.id + ': ' + v.nodes.slice(0, 3).map(place).join(' | ');
  const runOnly = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'];
  axe.run(document, { runOnly }).then((r) => done(r.violations.map(said)), (e) => done(['axe: ' + e.message]));`;

/** In the page: visible elements of a kind whose accessible name (label or text) fits; exact fits first. */
const FIND = `
  const [selector, name, within] = arguments;
  const norm = (s) => (s || '').replace(/\\s+/g, ' ').trim();
  const nameOf = (e) => {
    const label = e.getAttribute('aria-label'); if (label) return norm(label);
    const by = e.getAttribute('aria-labelledby'); if (by && document.getElementById(by)) return norm(document.getElementById(by).innerText);
    if (e.labels && e.labels.length) return norm(e.labels[0].innerText);
    return norm(e.innerText || e.value || e.getAttribute('title') || e.getAttribute('placeholder'));
  };
  const root = within || document;
  const shown = (e) => { const r = e.getBoundingClientRect(); return r.width > 0 && r.height > 0 && getComputedStyle(e).visibility !== 'hidden'; };
  const all = [...root.querySelectorAll(selector)].filter((e) => shown(e) || e.type === 'file' || e.getAttribute('role') === 'dialog');
  return all.find((e) => nameOf(e) === name) || all.find((e) => nameOf(e).startsWith(name)) || all.find((e) => nameOf(e).includes(name)) || null;
`;
const KINDS = {
  button: 'button, [role="button"], a, [role="menuitem"], [role="option"], [role="radio"]',
  field: 'input:not([type=checkbox]):not([type=radio]), textarea, select',
  box: 'input[type=checkbox], input[type=radio]',
  group: '[role="group"], section, fieldset, article, aside, main, [role="dialog"], li',
  dialog: '[role="dialog"]',
  item: 'li, tr',
  any: '*',
};

export class Page {
  /** @param browser `downloads`: its folder, `end`: what ends it */
  constructor(driver, base, { downloads, end }) {
    Object.assign(this, { driver, base, downloads, end });
  }

  go(path) {
    return this.driver.get(this.base + path);
  }
  js(code, ...args) {
    return this.driver.executeScript(code, ...args);
  }

  /** Waits for something true; the error says what was waited for. */
  async until(what, f, ms = 40000) {
    // a shared machine can be several times slower than a quiet one; only a failure waits that long
    ms = Math.max(ms, 40000);
    const end = Date.now() + ms;
    let last;
    for (;;) {
      try {
        last = await f();
        if (last) return last;
      } catch (e) {
        // nothing comes of a page that is dead
        if (e.message.includes('tab crashed')) throw e;
        last = e;
      }
      if (Date.now() > end) {
        const found = last instanceof Error ? last.message : JSON.stringify(last);
        throw new Error(`waited ${ms} ms for ${what}; last: ${found}; the page: ${await this.words()}`);
      }
      await new Promise((r) => setTimeout(r, 40));
    }
  }

  /**
   * The path of a file that the browser saved, once all of it is there: until then an empty one has its name, and one
   * beside it what has come.
   * @param fits its name, or a pattern of it
   * @param before names that were there already
   */
  download(fits, before = []) {
    return this.until(`the saved file ${fits}`, () => {
      const all = readdirSync(this.downloads);
      const isMeant = (name) => (typeof fits === 'string' ? name === fits : fits.test(name));
      const others = all.filter((n) => !before.includes(n));
      const name = others.find(
        (n) => isMeant(n) && !n.endsWith('.crdownload') && !all.includes(`${n}.crdownload`),
      );
      const path = name && join(this.downloads, name);
      return path && statSync(path).size > 0 && path;
    });
  }

  /** What the page says, for a message about a failure; messages of the program stand at its end. */
  async words() {
    const text = await this.text().catch((e) => e.message);
    const whole = text.replace(/\s+/g, ' ');
    return whole.length > 1500 ? `${whole.slice(0, 500)} … ${whole.slice(-1000)}` : whole;
  }

  find(kind, name, within, ms) {
    return this.until(
      `the ${kind} “${name}”`,
      () => this.driver.executeScript(FIND, KINDS[kind] ?? kind, name, within ?? null),
      ms,
    );
  }
  has(kind, name, within) {
    return this.driver.executeScript(FIND, KINDS[kind] ?? kind, name, within ?? null);
  }

  /**
   * Clicks as a person does: what lies on top gets the click; an element that was redrawn meanwhile is looked
   * up again.
   */
  async click(name, within, kind = 'button') {
    await this.until(`a click on “${name}”`, async () => {
      const e = await this.driver.executeScript(FIND, KINDS[kind] ?? kind, name, within ?? null);
      if (!e) return false;
      await this.js('arguments[0].scrollIntoView({ block: "nearest" })', e);
      await e.click();
      return true;
    });
  }
  check(name, within) {
    return this.click(name, within, 'box');
  }
  /**
   * From the next page that is opened on, answers to requests whose path begins so come that much later.
   * @returns ends it, for the pages after
   */
  async answerLate(path, ms) {
    const source = `
      const ask = window.fetch;
      window.fetch = async (...request) => {
        const answer = await ask(...request);
        if (String(request[0]).startsWith('${path}')) await new Promise((r) => setTimeout(r, ${ms}));
        return answer;
      };`;
    const added = await this.driver.sendAndGetDevToolsCommand('Page.addScriptToEvaluateOnNewDocument', {
      source,
    });
    return () => this.driver.sendDevToolsCommand('Page.removeScriptToEvaluateOnNewDocument', added);
  }
  /**
   * Presses something from inside of the page. For long runs: the driver holds every element that it is handed, and with
   * it the screen that the element stood in.
   */
  press(name, kind = 'button') {
    return this.until(`a press on “${name}”`, () =>
      this.js(
        `const found = (function () { ${FIND} }).apply(null, arguments);
         found?.scrollIntoView({ block: 'nearest' });
         found?.focus();
         found?.click();
         return found !== null;`,
        KINDS[kind] ?? kind,
        name,
        null,
      ),
    );
  }
  /** Whether something is there, without its being handed out. */
  shows(name, kind = 'button') {
    return this.js(
      `return (function () { ${FIND} }).apply(null, arguments) !== null;`,
      KINDS[kind] ?? kind,
      name,
      null,
    );
  }

  async type(name, text, within) {
    const e = await this.find('field', name, within);
    await e.click();
    await e.sendKeys(Key.chord(Key.CONTROL, 'a'), text);
    return e;
  }
  /** Chooses in a select by the text of its option. */
  async choose(name, option, within) {
    const e = await this.find('field', name, within);
    await this.until(`“${name}” to be ready`, () => e.isEnabled());
    const hit = await this.until(`the option “${option}” of “${name}”`, () =>
      this.js(
        'return [...arguments[0].options].find((o) => o.text.trim() === arguments[1]) || [...arguments[0].options].find((o) => o.text.includes(arguments[1]))',
        e,
        option,
      ),
    );
    await hit.click();
    return e;
  }
  keys(...k) {
    return this.driver
      .actions()
      .sendKeys(...k)
      .perform();
  }
  chord(...k) {
    const a = this.driver.actions();
    for (const x of k) a.keyDown(x);
    for (const x of [...k].reverse()) a.keyUp(x);
    return a.perform();
  }

  text(within) {
    return this.js('return (arguments[0] || document.body).innerText', within ?? null);
  }
  see(text, ms, within) {
    return this.until(
      `the text “${text}”`,
      async () => (await this.text(within)).replace(/\s+/g, ' ').includes(text),
      ms,
    );
  }
  /** Every row of a long list, read by scrolling through it: only those in sight are drawn. */
  async rowsOf(list, row = 'tbody tr:not([aria-hidden])') {
    const seen = new Set();
    const look = () =>
      this.js(
        `const [list, row] = arguments;
         const rows = [...list.querySelectorAll(row)].map((e) => e.innerText.replace(/\\s+/g, ' '));
         let at = list;
         while (at && !['auto', 'scroll'].includes(getComputedStyle(at).overflowY)) at = at.parentElement;
         const before = at.scrollTop;
         at.scrollTop += at.clientHeight * 0.7;
         return { rows, end: at.scrollTop === before };`,
        list,
        row,
      );
    await this.until('the end of the list', async () => {
      const { rows, end } = await look();
      rows.forEach((text) => seen.add(text));
      return end;
    });
    return [...seen];
  }
  gone(text, ms) {
    return this.until(`“${text}” to go`, async () => !(await this.text()).includes(text), ms);
  }

  line(name) {
    return this.find('[role="group"]', `Line ${name}`);
  }
  async lines() {
    return this.js(
      'return [...document.querySelectorAll(\'[role="group"][aria-label^="Line "]\')].map((e) => [e.getBoundingClientRect().top, e.getAttribute("aria-label").slice(5)]).sort((a, b) => a[0] - b[0]).map((x) => x[1])',
    );
  }
  async tiles(name) {
    const l = await this.line(name);
    return this.js(
      'return [...arguments[0].querySelectorAll(".tile")].map((e) => e.getAttribute("aria-label"))',
      l,
    );
  }

  /**
   * Picks up one element and lets it go over a place of another (0…1 of its width and height).
   * @param words what is to be read at the pointer before it is let go
   */
  async drag(from, to, x = 0.5, y = 0.5, words = '') {
    for (const e of [to, from]) await this.js('arguments[0].scrollIntoView({ block: "nearest" })', e);
    const r = await to.getRect();
    const dx = Math.round(r.width * (x - 0.5));
    const dy = Math.round(r.height * (y - 0.5));
    // a person's drag takes its time: the browser reports where it is only now and then
    const a = this.driver
      .actions({ async: true })
      .move({ origin: from })
      .press()
      .pause(80)
      .move({ origin: from, x: 8, y: 3, duration: 80 })
      .pause(120)
      .move({ origin: to, x: dx, y: dy + 2, duration: 200 });
    for (let i = 0; i < 5; i++) a.pause(120).move({ origin: to, x: dx + (i % 2), y: dy, duration: 30 });
    await a.perform();
    if (words) await this.see(words);
    await this.driver.actions({ async: true }).pause(120).release().perform();
  }

  /** Waits until a line's meter shows sound. */
  heard(name) {
    return this.until(`${name} to be heard`, async () => {
      const shown = await this.text(await this.find(`[data-testid="peak-${name}"]`, ''));
      return parseFloat(shown.replace('−', '-')) > -40;
    });
  }
  async saved() {
    return this.until('everything to be saved', () =>
      this.js('return document.querySelector(\'[data-testid="save-state"]\')?.innerText === "saved"'),
    );
  }
  position() {
    return this.js(
      'const t = document.querySelector(\'[data-testid="clock"]\').getAttribute("aria-label").split(" ")[1].split(":"); return Number(t[0]) * 60 + Number(t[1])',
    );
  }

  /** What the system asks of a page beside its size, as CSS media features. */
  media(features) {
    return this.driver.sendDevToolsCommand('Emulation.setEmulatedMedia', { features });
  }
  /** axe-core on the page by day, by night and in the system's own colours; WCAG 2.2 A and AA rules. */
  async axe() {
    await this.js(AXE);
    const theme = await this.js('return document.documentElement.dataset.theme');
    const found = [];
    for (const look of ['day', 'night', 'forced colours']) {
      await this.media(look === 'forced colours' ? [{ name: 'forced-colors', value: 'active' }] : []);
      await this.js(
        'document.documentElement.dataset.theme = arguments[0]',
        look === 'night' ? 'night' : 'day',
      );
      const violations = await this.driver.executeAsyncScript(AXE_RUN);
      found.push(...violations.map((v) => `${look}: ${v}`));
    }
    await this.media([]);
    await this.js('document.documentElement.dataset.theme = arguments[0]', theme);
    return found;
  }
  /** What the console complained of. A 412 is no fault: a window left with work under way, and the next merges it. */
  async errors() {
    return (await this.driver.manage().logs().get('browser'))
      .filter((l) => l.level.name === 'SEVERE' && !l.message.includes('status of 412'))
      .map((l) => l.message);
  }
  async picture() {
    return Buffer.from(await this.driver.takeScreenshot(), 'base64');
  }

  quit() {
    return this.end();
  }
}
