/**
 * What the core finds sound can be used: whatever is changed in a document, either its check says so, or it can be
 * played, checked, shown, printed, dropped into, updated, handed over and read again.
 */
import fc from 'fast-check';
import { makeDemo } from '../../demo/index.ts';
import { furnished, spoil } from '../../tests/support/spoil.ts';
import {
  applyDrop,
  capture,
  clone,
  diffPresets,
  duplicateTracks,
  hashOf,
  lineCheck,
  planDrop,
  planPrint,
  presetDistance,
  printOutlook,
  readPack,
  recallSheet,
  renderNow,
  rootsOf,
  settingsToCsv,
  signalGraph,
  startSession,
  validatePreset,
  validateSession,
  writeDawproject,
  writePack,
  type Preset,
  type Session,
} from '../index.ts';

const demo = makeDemo();
const sessions = [
  ...demo.sessions.map((s) => s.session),
  furnished(demo.sessions[0].session, demo.presets),
  furnished(demo.sessions[1].session, demo.presets.slice(0, 12)),
];
const sounds = new Map();

function useSession(s: Session, preset: Preset): void {
  const { master } = renderNow(s, { sounds, to: 0.02 });
  expect(master.every((side) => side.every(Number.isFinite))).toBe(true);
  lineCheck(s);
  signalGraph(s);
  printOutlook(s, s.print ?? planPrint(s));
  recallSheet(s, 'html');
  writeDawproject(s);
  rootsOf(s);
  const [line] = s.tracks;
  capture(s, [line.id]);
  expect(validateSession(duplicateTracks(s, [line.id]).edit(s))).toEqual([]);
  dropInto(s, preset);
}

function dropInto(s: Session, preset: Preset): void {
  const plan = planDrop(s, preset);
  if (!plan.problems.length) expect(validateSession(applyDrop(s, plan, preset).session)).toEqual([]);
}

function usePreset(p: Preset, other: Preset): void {
  dropInto(sessions[0], p);
  startSession(p);
  presetDistance(p, other);
  diffPresets(p.content, other.content);
  settingsToCsv(p.content);
  // A pack is JSON, which has one zero: −0 comes back as 0.
  const written = JSON.parse(JSON.stringify(p)) as Preset;
  expect(readPack(writePack({ presets: [p] })).presets).toEqual([written]);
}

test.each([
  ['session', 400],
  ['preset', 400],
] as const)('a %s that is found sound can be used for everything', (kind, numRuns) => {
  let sound = 0;
  fc.assert(
    fc.property(fc.nat(1e6), fc.nat(1e9), fc.nat(1e6), (which, where, what) => {
      const preset = demo.presets[which % demo.presets.length];
      const document = clone(kind === 'session' ? sessions[which % sessions.length] : preset);
      spoil(document, where, what);
      if ('content' in document) document.hash = hashOf(document.content ?? null);
      const isSound =
        ('content' in document ? validatePreset(document) : validateSession(document)).length === 0;
      if (!isSound) return;
      sound++;
      if ('content' in document) usePreset(document, demo.presets[0]);
      else useSession(document, preset);
    }),
    { numRuns },
  );
  expect(sound).toBeGreaterThan(10);
});
