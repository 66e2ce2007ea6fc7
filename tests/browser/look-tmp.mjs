// node look.mjs out.png step...  (steps: go:/x click:Name type... js:code wait:ms shot:file)
import { openBrowser } from './driver.mjs';
import { startSoundCard } from './sound-card.mjs';
import { writeFileSync } from 'node:fs';
const base = process.env.BASE ?? 'http://127.0.0.1:4777';
const card = process.env.CARD ? await startSoundCard() : null;
const p = await openBrowser(base, card ? { sound: card.env } : { own: true });
try {
  for (const step of process.argv.slice(2)) {
    const [k, ...r] = step.split(':'); const v = r.join(':');
    if (k === 'go') await p.go(v);
    if (k === 'click') await p.click(v);
    if (k === 'see') await p.see(v);
    if (k === 'choose') { const [a, b] = v.split('='); await p.choose(a, b); }
    if (k === 'type') { const [a, b] = v.split('='); await p.type(a, b); }
    if (k === 'js') console.log(await p.js(v));
    if (k === 'keys') await p.keys(...v.split(''));
    if (k === 'chord') { const { Key } = await import('selenium-webdriver'); await p.chord(...v.split('+').map((x) => Key[x] ?? x)); }
    if (k === 'shift') { const { Key } = await import('selenium-webdriver'); const e = await p.find('button', v); await p.driver.actions().keyDown(Key.SHIFT).click(e).keyUp(Key.SHIFT).perform(); }
    if (k === 'wait') await new Promise((x) => setTimeout(x, Number(v)));
    if (k === 'shot') writeFileSync(v, Buffer.from(await p.driver.takeScreenshot(), 'base64'));
    if (k === 'size') { const [w, h] = v.split('x').map(Number); await p.driver.sendDevToolsCommand('Emulation.setDeviceMetricsOverride', { width: w, height: h, deviceScaleFactor: 1, mobile: false }); }
    if (k === 'unplug') card.unplug();
    if (k === 'plug') card.plug();
    if (k === 'text') console.log((await p.text()).slice(0, 3000));
  }
  console.log(await p.errors());
} finally { await p.quit(); await card?.end(); }
