import fc from 'fast-check';
import jsonpatch from 'fast-json-patch';
import {
  applyDrop,
  canonicalJson,
  capture,
  captureStarter,
  createPreset,
  diffPresets,
  planDrop,
  planPrint,
  printOutlook,
  startSession,
  validatePreset,
  validateSession,
  type PrintPlan,
  type Session,
} from '../index.ts';
import { clipOf, mediaRef, sessionWith } from '../../tests/support/build.ts';
import { anySession } from '../../tests/support/generate.ts';

/** Lines that play, in stems that were drawn up by hand. */
const room = (names: string[], over: Partial<PrintPlan> = {}): Session => {
  const s = sessionWith(
    names.map((name) => ({ id: name, name, clips: [clipOf()] })),
    { media: [mediaRef()] },
  );
  return { ...s, print: { ...planPrint(s), stems: [], versions: [], ...over } };
};
const stem = (name: string, ...lines: string[]) => ({ id: name, name, lines, depth: 'buses' as const });
const fishing = room(['Voice', 'Choir', 'Net'], {
  stems: [stem('Sung', 'Voice', 'Choir'), stem('Beaten', 'Net')],
  versions: [
    { id: 'v1', name: 'Instrumental', muted: ['Voice', 'Choir'], levels: {} },
    { id: 'v2', name: 'Without the net', muted: ['Net'], levels: {} },
  ],
});
const rig = createPreset(
  capture(fishing, ['Voice', 'Choir'], { print: true, parts: ['chain', 'clips', 'output'] }),
  { id: 'sung', name: 'Sung' },
);
const drop = (s: Session, preset = rig) => {
  const plan = planDrop(s, preset);
  return { ...applyDrop(s, plan, preset), plan };
};
const namesIn = (s: Session) =>
  s.print!.stems.map((x) => [x.name, x.lines.map((id) => s.tracks.find((t) => t.id === id)?.name)]);

test('a rig takes along the stems and versions of its lines, and nothing of others', () => {
  expect(rig.content.print!.stems).toEqual([stem('Sung', 't1', 't2')]);
  expect(rig.content.print!.versions.map((v) => [v.name, v.muted])).toEqual([['Instrumental', ['t1', 't2']]]);
  expect(capture(fishing, ['Voice', 'Choir']).content.print).toBeUndefined();
  const wrong = { ...rig.content, print: { ...rig.content.print!, stems: [{ id: 'x' }] } };
  expect(validatePreset({ ...rig, content: wrong })).not.toEqual([]);
  const starter = createPreset(captureStarter(fishing), { id: 'st', name: 'Fishing' });
  const bad = { ...starter.content.session!, print: { ...fishing.print!, tail: -1 } };
  expect(validatePreset({ ...starter, content: { ...starter.content, session: bad } })).not.toEqual([]);
});

test('dropped, its stems stand beside the session’s; twice, it is there twice; back, all is as it was', () => {
  const home = room(['Drum'], {
    stems: [stem('Drum', 'Drum')],
    versions: [{ id: 'own', name: 'Instrumental', muted: ['Drum'], levels: {} }],
  });
  const once = drop(home);
  expect(once.plan.facts).toContain('“Sung”, “Instrumental” come into the print plan.');
  expect(namesIn(once.session)).toEqual([
    ['Drum', ['Drum']],
    ['Sung', ['Voice', 'Choir']],
  ]);
  expect(once.session.print!.versions).toHaveLength(1);
  expect(once.session.print!.versions[0].muted).toHaveLength(3);
  expect(once.report.rows.filter((r) => r.path.startsWith('print/'))).toMatchObject([
    { wanted: 'Voice, Choir', found: 'Voice, Choir', verdict: 'intact' },
  ]);
  const twice = drop(once.session);
  expect(namesIn(twice.session).at(-1)).toEqual(['Sung', ['Voice 2', 'Choir 2']]);
  expect(new Set(twice.session.print!.stems.map((x) => x.id)).size).toBe(3);
  const back = jsonpatch.applyPatch(structuredClone(once.session), structuredClone(once.inverse)).newDocument;
  expect(canonicalJson(back)).toBe(canonicalJson(home));
});

test('where no plan was made yet, the lines that are there keep the stems that they would have had', () => {
  const { print: _none, ...home } = room(['Drum', 'Bass']);
  const { session } = drop(home as Session);
  expect(namesIn(session).map(([name]) => name)).toEqual(['Drum', 'Bass', 'Sung']);
  expect(startSession(rig).session.print!.stems.map((x) => x.name)).toEqual(['Sung']);
});

test('what differs in how it is printed is told', () => {
  const other = capture(
    { ...fishing, print: { ...fishing.print!, stems: [stem('Sung', 'Voice')] } },
    ['Voice', 'Choir'],
    { print: true, parts: ['chain', 'clips', 'output'] },
  );
  expect(diffPresets(rig.content, other.content)).toEqual([
    { label: 'print plan · “Sung”', from: 'Voice, Choir (buses)', to: 'Voice (buses)', kind: 'value' },
  ]);
});

test('any lines of any session, saved with their print and dropped anywhere: sound, no line twice, told', () => {
  fc.assert(
    fc.property(anySession(), anySession(), fc.array(fc.nat(4), { minLength: 1 }), (from, into, deal) => {
      const lines = from.tracks.filter((t) => t.role !== 'master').map((t) => t.id);
      fc.pre(lines.length > 1);
      const stems = [0, 1, 2].map((n) =>
        stem(`Stem ${n}`, ...lines.filter((_, i) => deal[i % deal.length] === n)),
      );
      const whole = { ...from, print: { ...planPrint(from), stems } };
      const saved = lines.filter((_, i) => deal[(i + 1) % deal.length] !== 3);
      fc.pre(saved.length > 0);
      const preset = createPreset(capture(whole, saved, { print: true }), { id: 'p', name: 'Any' });
      expect(validatePreset(preset)).toEqual([]);
      const { session, report, inverse } = drop(into, preset);
      expect(validateSession(session)).toEqual([]);
      expect(report.intact).toBe(true);
      if (session.print) expect(printOutlook(session, session.print).twice).toEqual([]);
      const back = jsonpatch.applyPatch(structuredClone(session), structuredClone(inverse)).newDocument;
      expect(canonicalJson(back)).toBe(canonicalJson(into));
    }),
    { numRuns: 100 },
  );
});
