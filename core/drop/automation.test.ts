/**
 * Automation as a part of a line: it travels when it is asked for, moves the copies of what it moved, and
 * every point is proved.
 */
import {
  USUAL_PARTS,
  applyDrop,
  capture,
  captureStarter,
  createPreset,
  createRack,
  createStrand,
  diffPresets,
  laneTarget,
  nullTest,
  planDrop,
  readDawproject,
  startSession,
  validateSession,
  verifyDrop,
  writeDawproject,
  type Lane,
  type PartId,
  type Session,
} from '../index.ts';
import { device, send, sessionWith } from '../../tests/support/build.ts';

const lane = (of: string, param: string, ...points: [number, number][]): Lane => ({
  id: `lane-${of}`,
  of,
  param,
  on: true,
  points: points.map(([at, value]) => ({ at, value })),
});
const home = (): Session =>
  sessionWith(
    [
      {
        id: 'lead',
        name: 'Lead',
        sends: [send('plate', -12, { id: 'throw' })],
        chain: [
          device('eq', { 'b3.on': true }, { id: 'eq' }),
          createRack('Grit', [], {
            id: 'rack',
            strands: [createStrand('Dirt', [device('saturator', {}, { id: 'sat' })], { id: 'dirt' })],
            handles: [
              {
                id: 'grit',
                name: 'Grit',
                colour: 'rust',
                value: 20,
                cc: null,
                ties: [{ id: 'tie', slot: 'sat', param: 'drive', from: 0, to: 12, curve: 0 }],
              },
            ],
          }),
        ],
        automation: [
          lane('lead', 'level', [0, -6], [0.2, 0]),
          lane('throw', 'level', [0, -60], [0.1, -6]),
          lane('eq', 'b3.gain', [0, -3], [0.3, 6]),
          lane('grit', 'value', [0, 0], [0.25, 100]),
        ],
      },
      { id: 'plate', name: 'Plate', role: 'return', chain: [device('reverb', { mix: 100 })] },
    ],
    { name: 'Home' },
  );
const ALL: PartId[] = [...USUAL_PARTS, 'automation'];
const preset = (parts = ALL) => createPreset(capture(home(), ['lead'], { parts }), { id: 'p', name: 'Lead' });
const there = () =>
  sessionWith(
    [{ id: 'x', name: 'Voice', chain: [device('gate')], automation: [lane('x', 'level', [0, -20])] }],
    { name: 'There' },
  );
const labels = (s: Session, name: string) => {
  const t = s.tracks.find((x) => x.name === name)!;
  return (t.automation ?? []).map(
    (l) => laneTarget(t, l, (id) => s.tracks.find((x) => x.id === id)!.name)?.label,
  );
};

test('it comes along when asked for, lands on the copies, and both sound alike', async () => {
  const p = preset();
  const s = there();
  const plan = planDrop(s, p);
  const { session } = applyDrop(s, plan, p);
  expect(validateSession(session)).toEqual([]);
  expect(labels(session, 'Lead')).toEqual(
    ['Level', 'Send to Plate', 'EQ · Band 3 gain', 'Grit · Grit'].map((x) =>
      x.startsWith('EQ') ? expect.stringContaining('EQ · ') : x,
    ),
  );
  const rows = verifyDrop(session, p, plan).rows.filter((r) => r.label.includes('automation'));
  expect(rows.map((r) => r.verdict)).toEqual(['intact', 'intact', 'intact', 'intact']);
  expect((await nullTest(session, p, plan, { seconds: 1 })).residual).toBe(-Infinity);
  // a point that was moved is found
  const off = structuredClone(session);
  off.tracks.find((t) => t.name === 'Lead')!.automation![2].points[1].value = 5.9;
  expect(
    verifyDrop(off, p, plan)
      .rows.filter((r) => !['intact', 'tied', 'adapted', 'left out'].includes(r.verdict))
      .map((r) => r.label),
  ).toEqual([expect.stringContaining('automation of EQ')]);
});

test('the usual set leaves it, and parts that stay out take their lanes with them', () => {
  const usual = preset(USUAL_PARTS);
  const s = there();
  expect(usual.content.tracks[0].automation).toBeUndefined();
  const p = preset();
  const plan = planDrop(s, p, { parts: ['chain', 'name', 'output', 'automation'] });
  const { session } = applyDrop(s, plan, p);
  expect(labels(session, 'Lead')).toHaveLength(3);
  expect(
    verifyDrop(session, p, plan)
      .rows.filter((r) => r.label.includes('automation'))
      .map((r) => r.verdict)
      .sort(),
  ).toEqual(['intact', 'intact', 'intact', 'left out']);
  // two versions differ by a point that moved, and by a lane that is new
  const later = structuredClone(p.content);
  const lanes = later.tracks[0].automation!;
  lanes[0].points[1].value = -1;
  lanes.pop();
  expect(diffPresets(p.content, later)).toEqual([
    { label: 'Lead · automation of Level', from: '2 points', to: '2 points, moved', kind: 'value' },
    { label: 'Lead · automation of Grit · Grit', from: '2 points', to: '—', kind: 'removed' },
  ]);
  expect(preset(['level', 'automation']).content.tracks[0].automation!.map((l) => l.of)).toEqual(['t1']);
});

test('onto a line: its lanes join those that are there, and take the place of one that moves the same', async () => {
  const p = preset();
  const s = there();
  const plan = planDrop(s, p, {
    place: { kind: 'onto', track: 'x', chain: 'append' },
    parts: ['chain', 'sends', 'automation'],
  });
  const { session } = applyDrop(s, plan, p);
  expect(validateSession(session)).toEqual([]);
  const t = session.tracks.find((x) => x.id === 'x')!;
  expect(t.automation!.filter((l) => l.of === 'x').map((l) => l.points[0].value)).toEqual([-6]);
  expect(t.automation).toHaveLength(4);
  expect(t.automation!.every((l) => laneTarget(t, l))).toBe(true);
  expect((await nullTest(session, p, plan, { seconds: 1 })).residual).toBe(-Infinity);
  // without that part the line keeps its own, and the two still sound alike
  const plain = planDrop(s, p, {
    place: { kind: 'onto', track: 'x', chain: 'replace' },
    parts: ['chain', 'sends'],
  });
  const kept = applyDrop(s, plain, p).session;
  expect(kept.tracks.find((x) => x.id === 'x')!.automation).toEqual(s.tracks[0].automation);
  expect((await nullTest(kept, p, plain, { seconds: 1 })).residual).toBe(-Infinity);
});

test('a starter with its sounds keeps it; files carry it', () => {
  for (const clips of [true, false]) {
    const starter = createPreset(captureStarter(home(), clips), { id: 's', name: 'Starter' });
    expect(labels(startSession(starter).session, 'Lead')).toEqual(labels(home(), 'Lead'));
  }
  const back = readDawproject(writeDawproject(home()).bytes).session;
  expect(labels(back, 'Lead')).toEqual(labels(home(), 'Lead'));
  expect(back.tracks[0].automation!.map((l) => l.points)).toEqual(
    home().tracks[0].automation!.map((l) => l.points),
  );
});
