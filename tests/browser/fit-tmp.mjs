import { writeFileSync } from 'node:fs';
import { api, copy, document } from './api.mjs';
import { openBrowser } from './driver.mjs';
const p = await openBrowser(process.env.BASE, { own: true });
const shot = async (f) => writeFileSync(f, await p.picture());
try {
  const id = await copy('Fitted', 'kelp-and-copper');
  await p.go(`/session/${id}`);
  await p.click('Line Lead voice', await p.line('Lead voice'));
  await p.keys('k');
  await p.type('Name', 'Lead, remembered');
  await shot('/tmp/f0.png');
  await p.click('Save', await p.find('dialog', 'Save “Lead voice”'));
  await p.see('is on the shelf', 60000);
  // the same voice 9 dB softer
  await p.go(`/session/${id}`);
  await p.line('Lead voice');
  const { revision, document: was } = await api('GET', `/sessions/${id}`);
  const tracks = was.tracks.map((t) => t.name === 'Lead voice' ? { ...t, clips: t.clips.map((c) => ({ ...c, gain: -9 })) } : t);
  await api('PATCH', `/sessions/${id}`, [{ op: 'replace', path: '/tracks', value: tracks }], { 'Content-Type': 'application/json-patch+json', 'If-Match': `"${revision}"` });
  await p.go(`/session/${id}`);
  await p.click('More for Lead voice');
  await p.click('Fit to this sound …');
  await p.see('Level in', 60000, await p.find('dialog', 'Fit “Lead voice” to its sound'));
  await new Promise((r) => setTimeout(r, 500));
  await shot('/tmp/f1.png');
  await p.click('Cancel');
  await p.click('More for Lead voice');
  await p.click('Drop a preset onto this line');
  await p.keys('Lead, remembered');
  await new Promise((r) => setTimeout(r, 800));
  await shot('/tmp/f2.png');
  await p.keys('\uE007');
  await new Promise((r) => setTimeout(r, 4000));
  await shot('/tmp/f3.png');
  console.log(await p.errors());
} finally { await p.quit(); }
