/**
 * Automation in DAWproject files: the format's own points, both ways (facts of version 1.0 from memory of the
 * public specification).
 */
import {
  laneTarget,
  laneValue,
  readDawproject,
  readZip,
  writeDawproject,
  writeZip,
  type Lane,
  type Session,
} from '../index.ts';
import { PROJECT, handFile } from '../../tests/support/dawproject.ts';
import { device, send, sessionWith } from '../../tests/support/build.ts';

const lane = (of: string, param: string, points: [number, number, true?][]): Lane => ({
  id: `lane-${of}-${param}`,
  of,
  param,
  on: true,
  points: points.map(([at, value, hold]) => ({ at, value, ...(hold ? { hold } : {}) })),
});
const home = (): Session =>
  sessionWith([
    {
      id: 'lead',
      name: 'Lead',
      sends: [send('plate', -12, { id: 'throw' })],
      chain: [device('trim', {}, { id: 'trim' })],
      automation: [
        lane('lead', 'level', [
          [0, -20],
          [2, 0],
          [4, -144],
        ]),
        lane('lead', 'pan', [
          [1, -100],
          [3, 50],
        ]),
        lane('lead', 'mute', [
          [0, 0],
          [2.5, 1],
          [3, 0],
        ]),
        lane('throw', 'level', [
          [0, -40, true],
          [2, -6, true],
          [2.5, -40],
        ]),
        lane('trim', 'gain', [
          [0, 0],
          [1, 6],
        ]),
      ],
    },
    { id: 'plate', name: 'Plate', role: 'return' },
  ]);
const edited = (bytes: Uint8Array, change: (xml: string) => string, drop: string[] = []) => {
  const all = readZip(bytes, 'x');
  all['project.xml'] = new TextEncoder().encode(change(new TextDecoder().decode(all['project.xml'])));
  for (const k of Object.keys(all)) if (drop.some((d) => k.includes(d))) delete all[k];
  return writeZip(all);
};
const xmlOf = (bytes: Uint8Array) => new TextDecoder().decode(readZip(bytes, 'x')['project.xml']);
const lanesIn = (s: Session) => s.tracks[0].automation ?? [];

test('levels, pans, mutes and sends go out as points of the parameters; another program reads the same curve; ours comes back as it was', () => {
  const s = home();
  const { bytes, notes } = writeDawproject(s);
  const xml = xmlOf(bytes);
  expect(xml.match(/<Points /g)).toHaveLength(4);
  expect(xml).toMatch(
    /<Target parameter="lead-vol"\/><RealPoint time="0" value="0.1" interpolation="linear"\/>/,
  );
  expect(xml).toMatch(/<BoolPoint time="2.5" value="true"\/>/);
  expect(
    notes.some((n) => n.includes('of devices, strands and handles travels in an entry of our own')),
  ).toBe(true);
  expect(lanesIn(readDawproject(bytes).session)).toEqual(lanesIn(s));
  // as a program that knows nothing of our entry has it: within half a dB of the curve wherever it is above
  // −60 dB
  const plain = readDawproject(edited(bytes, (x) => x, ['rope-shelf'])).session;
  for (const l of lanesIn(s).filter((x) => x.of !== 'trim')) {
    const read = lanesIn(plain).find((x) => x.of === l.of && x.param === l.param)!;
    const { spec } = laneTarget(s.tracks[0], l)!;
    for (let t = 0; t < 5; t += 0.07) {
      const want = laneValue(spec, l.points, t);
      if (spec.unit !== 'dB' || want > -60) {
        expect(Math.abs(laneValue(spec, read.points, t) - want)).toBeLessThan(0.5);
      }
    }
  }
});

test('an import that is not touched stays the same bytes; a changed lane changes its points alone; what moved a send goes with it', () => {
  const source = writeDawproject(home()).bytes;
  const { session } = readDawproject(source);
  const named = { ...session, source: { format: 'dawproject' as const, sha256: 'x', name: 'x' } };
  expect(xmlOf(writeDawproject(named, { source }).bytes)).toBe(xmlOf(source));
  const other = structuredClone(named);
  other.tracks[0].automation![0].points[0].value = -6;
  const after = xmlOf(writeDawproject(other, { source }).bytes);
  expect(after.match(/<Points /g)).toHaveLength(4);
  expect(after).toMatch(/parameter="lead-vol"\/><RealPoint time="0" value="0.5011872336"/);
  const gone = structuredClone(named);
  gone.tracks[0].sends = [];
  const left = xmlOf(writeDawproject(gone, { source }).bytes);
  expect(left.match(/<Points /g)).toHaveLength(3);
  expect(left).not.toContain('throw-vol');
});

const steps = (n: number) => Array.from({ length: n }, (_, i): [number, number] => [i / 4, -1 - (i % 20)]);
// each was a matter of minutes when every point, or line, looked at all the others
test.each([
  ['10,000 points of one lane', 1, 10000],
  ['1,500 lines that move', 1500, 4],
])('%s go out, come back, and go out of the import changed', (_, lines, points) => {
  const s = sessionWith(
    Array.from({ length: lines }, (_, i) => ({
      id: `line-${i}`,
      name: `Line ${i}`,
      automation: [lane(`line-${i}`, 'level', steps(points))],
    })),
  );
  const source = writeDawproject(s).bytes;
  const { session } = readDawproject(source);
  const lanes = (x: Session) => x.tracks.flatMap((t) => t.automation ?? []);
  expect(lanes(session)).toEqual(lanes(s));
  session.tracks[0].automation![0].points[0].value = -3;
  const again = readDawproject(writeDawproject(session, { source }).bytes).session;
  expect(lanes(again)).toEqual(lanes(session));
});

test('what another program moved wins over our own entry', () => {
  const { bytes } = writeDawproject(home());
  const { session } = readDawproject(
    edited(bytes, (x) => x.replace(/(parameter="lead-pan"\/><RealPoint time="1" value=")0"/, '$10.5"')),
  );
  expect(lanesIn(session).find((l) => l.param === 'pan')!.points[0]).toEqual({ at: 1, value: 0 });
  expect(lanesIn(session).find((l) => l.param === 'level')!.points).toHaveLength(3);
});

test('a file by another program: points in beats, in decibels, without a word for a straight line; those of devices and inside clips stay in the file and are told', () => {
  const xml = PROJECT.replace(
    '</Arrangement>',
    `<Lanes timeUnit="beats"><Points unit="linear"><Target parameter="v9"/><RealPoint time="0" value="1"/><RealPoint time="8" value="0.5" interpolation="hold"/><RealPoint time="16" value="nonsense"/></Points>
    <Points unit="hertz"><Target parameter="f2"/><RealPoint time="0" value="2000"/></Points></Lanes></Arrangement>`,
  );
  const { session, notes } = readDawproject(handFile(xml));
  const folder = session.tracks.find((t) => t.name === 'Singers')!;
  // 96 bpm: eight quarters are five seconds
  expect(folder.automation!.map((l) => [l.of, l.param, l.points])).toEqual([
    [
      'folder1',
      'level',
      [
        { at: 0, value: 0 },
        { at: 5, value: -6.0206, hold: true },
      ],
    ],
  ]);
  expect(notes.filter((n) => n.includes('Automation'))).toEqual([
    expect.stringContaining('stays in the file and is not played here'),
  ]);
});
