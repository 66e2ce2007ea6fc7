import { makeDemo } from '../../demo/index.ts';
import {
  DEVICE_TYPES,
  compareSheets,
  devicesIn,
  formatValue,
  isListed,
  planPrint,
  recallSheet,
  type Session,
} from '../index.ts';
import { signalGraph } from '../session/graph.ts';
import { mapPicture } from './recall-map.ts';
import { device, sessionWith } from '../../tests/support/build.ts';

/** Rows of a CSV file, read by the letter of RFC 4180. */
function rowsOf(text: string): string[][] {
  const rows: string[][] = [];
  let [row, cell, isQuoted]: [string[], string, boolean] = [[], '', false];
  for (let i = 0; i < text.length; i++) {
    const c = text[i];
    if (isQuoted && c === '"' && text[i + 1] === '"') {
      cell += '"';
      i++;
    } else if (c === '"') isQuoted = !isQuoted;
    else if (!isQuoted && c === ',') {
      row.push(cell);
      cell = '';
    } else if (!isQuoted && c === '\r' && text[i + 1] === '\n') {
      rows.push([...row, cell]);
      [row, cell] = [[], ''];
      i++;
    } else cell += c;
  }
  return rows;
}

test('the sheet of a demo session has every value that is not the factory’s, every send and every connection', () => {
  for (const { session } of makeDemo().sessions) {
    const s: Session = { ...session, print: planPrint(session) };
    const rows = rowsOf(recallSheet(s, 'csv'));
    const [markdown, html] = [recallSheet(s, 'markdown'), recallSheet(s, 'html')];
    for (const t of s.tracks) {
      expect(rows.some((r) => r[0] === t.name)).toBe(true);
      expect(html).toContain(`<h2>${t.name}</h2>`);
      for (const d of devicesIn(t.chain)) {
        const found = rows.filter((r) => r[0] === t.name && r[2] === d.name).map((r) => r[3]);
        const { params, defaults } = DEVICE_TYPES[d.type];
        for (const p of params) {
          if (!isListed(d, p.id) || d.params[p.id] === defaults[p.id]) continue;
          const text = `${p.label} ${formatValue(p, d.params[p.id])}`;
          expect(found.some((v) => v.includes(text))).toBe(true);
        }
      }
      for (const x of t.sends) {
        const to = s.tracks.find((y) => y.id === x.to)!.name;
        expect(rows.some((r) => r[0] === t.name && r[2] === `Send to ${to}`)).toBe(true);
      }
    }
    expect(rows.every((r) => r.length === 4)).toBe(true);
    expect(markdown).toContain('## Connections');
    expect(markdown).toContain('## Print');
  }
});

test('names that look like marks, tags or formulas stay names', () => {
  const s = sessionWith([{ id: 'a', name: '=SUM(A1) | <b>“x”, "y"</b>', note: 'two\nlines, *stars*' }], {
    name: '# <script>',
  });
  expect(recallSheet(s, 'html')).not.toContain('<b>');
  expect(recallSheet(s, 'html')).not.toContain('<script>');
  expect(recallSheet(s, 'markdown')).toContain('two lines, \\*stars\\*');
  const rows = rowsOf(recallSheet(s, 'csv'));
  expect(rows[1][0]).toBe('\'=SUM(A1) | <b>“x”, "y"</b>');
  expect(rows.find((r) => r[2] === 'Note')![3]).toBe('two\nlines, *stars*');
});

test('two sheets compared: what changed between spring and today', () => {
  const spring = sessionWith([
    { id: 'a', name: 'Voice', level: -3, chain: [device('trim', { gain: 1 }, { name: 'In' })] },
  ]);
  const today = structuredClone(spring);
  today.tracks[0].level = -5;
  const d = devicesIn(today.tracks[0].chain)[0];
  d.params = { ...d.params, gain: 2 };
  expect(compareSheets(spring, today).map((x) => [x.part, x.what, x.from, x.to])).toEqual([
    ['Voice', 'In', 'Trim, Gain +1.0 dB', 'Trim, Gain +2.0 dB'],
    ['Voice', 'Level', '−3.0 dB', '−5.0 dB'],
  ]);
  expect(compareSheets(spring, spring)).toEqual([]);
});

test('the map: every line once, what feeds left of what it feeds, each connection by its kind', () => {
  for (const { session } of makeDemo().sessions) {
    const { svg, width } = mapPicture(session)!;
    const { nodes, flows } = signalGraph(session);
    const at = [...svg.matchAll(/<rect x="([\d.]+)"/g)].map((m) => Number(m[1]));
    expect(at.length).toBe(nodes.length);
    expect(Math.max(...at)).toBeLessThan(width);
    const x = new Map(nodes.map((n, i) => [n.id, at[i]]));
    const back = flows.filter((f) => f.from !== f.to && x.get(f.from)! >= x.get(f.to)!);
    expect(back.map((f) => `${f.from} → ${f.to}`)).toEqual([]);
    expect([...svg.matchAll(/<path /g)].length).toBe(flows.length);
    expect(recallSheet(session, 'html')).toContain(svg);
  }
  expect(mapPicture(sessionWith([{ id: 'a', name: '<b> & “c”' }]))!.svg).toContain('&lt;b&gt; &amp; “c”');
});
