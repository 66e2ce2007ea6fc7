import {
  PARTS,
  adaptedHere,
  applyDrop,
  capture,
  createPreset,
  pitchCorrectionsIn,
  planDrop,
  rootsOf,
  setSongKey,
  stateOf,
  takeBackAdapted,
  validateSession,
  type Params,
  type SongKey,
} from '../index.ts';
import { clipOf, device, mediaRef, sessionWith } from '../../tests/support/build.ts';

const voice = (...params: Params[]) =>
  sessionWith([
    {
      id: 'a',
      name: 'Lead',
      chain: params.map((p, i) => device('pitchcorrect', p, { id: `d${i}`, name: `Pull ${i}` })),
    },
  ]);
const D_MINOR: SongKey = { tonic: 2, mode: 'minor' };
const setTo = (s: ReturnType<typeof voice>) =>
  pitchCorrectionsIn(s).map((d) => [d.params.key, d.params.scale]);

test('a key is kept with the song and handed to every pitch correction in one step; scales of its mode stay', () => {
  const s = voice(
    { key: '0', scale: 'major' },
    { key: '9', scale: 'harmonic' },
    { key: '4', scale: 'chromatic' },
  );
  const now = setSongKey(D_MINOR)(s);
  expect(validateSession(now)).toEqual([]);
  expect(now.key).toEqual(D_MINOR);
  expect(setTo(now)).toEqual([
    ['2', 'minor'],
    ['2', 'harmonic'],
    ['2', 'minor'],
  ]);
  expect(setTo(setSongKey({ tonic: 7, mode: 'major' })(now)).map(([, scale]) => scale)).toEqual([
    'major',
    'major',
    'major',
  ]);
});

test('a drop sets a pitch correction to the song’s key, and says why; refused it stays, all notes belong to no key', () => {
  const from = voice({ key: '0', scale: 'major' }, { key: '5', scale: 'chromatic' });
  const p = createPreset(capture(from, ['a']), { id: 'p', name: 'Pulled', category: '', tags: [] });
  const home = { ...sessionWith([]), key: D_MINOR };
  const plan = planDrop(home, p, {});
  expect(plan.adaptations.map((a) => [a.fromText, a.toText, a.reason])).toEqual([
    ['C', 'D', 'this session is in D minor'],
    ['Major', 'Minor', 'this session is in D minor'],
  ]);
  const done = applyDrop(home, plan, p);
  expect(setTo(done.session)).toEqual([
    ['2', 'minor'],
    ['5', 'chromatic'],
  ]);
  expect(done.report.rows.filter((r) => r.verdict === 'unexplained')).toEqual([]);
  const refused = planDrop(home, p, {
    adapt: Object.fromEntries(plan.adaptations.map((a) => [a.path, false])),
  });
  expect(setTo(applyDrop(home, refused, p).session)[0]).toEqual(['0', 'major']);
  expect(planDrop(sessionWith([]), p, {}).adaptations).toEqual([]);
});

test.each([{ tonic: 12, mode: 'major' }, { tonic: 1.5, mode: 'minor' }, { tonic: 0, mode: 'dorian' }, 'C'])(
  'a key that is none is refused: %j',
  (key) => {
    expect(validateSession({ ...sessionWith([]), key } as never)).toHaveLength(1);
  },
);

test('sounds that come along to another tempo are told', () => {
  const from = {
    ...sessionWith([{ id: 'a', name: 'Lead', clips: [clipOf('x', 2)] }]),
    tempo: 96,
    media: [mediaRef('x')],
  };
  const parts = PARTS.map((part) => part.id);
  const p = createPreset(capture(from, ['a'], { parts }), { id: 'p', name: 'Sung', category: '', tags: [] });
  const facts = (tempo: number) => planDrop({ ...sessionWith([]), tempo }, p, { parts }).facts.join(' ');
  expect(facts(74)).toContain('The sounds on “Lead” keep their length and pitch: at 74 bpm instead of 96');
  expect(facts(96)).not.toContain('keep their length');
});

test('what was adapted is listed with what was saved, and goes back value by value; the rest stays, and nothing counts as changed', () => {
  const from = voice({ key: '0', scale: 'major' }, { key: '9', scale: 'minor' });
  const p = createPreset(capture(from, ['a']), { id: 'p', name: 'Pulled', category: '', tags: [] });
  const home = { ...sessionWith([]), key: D_MINOR };
  const { session } = applyDrop(home, planDrop(home, p, {}), p);
  const root = rootsOf(session)[0];
  const listed = adaptedHere(root, p);
  expect(listed.map((v) => [v.label, v.saved, v.here])).toEqual([
    ['Pull 0 · Key', 'C', 'D'],
    ['Pull 0 · Scale', 'Major', 'Minor'],
    ['Pull 1 · Key', 'A', 'D'],
  ]);
  const one = takeBackAdapted(session, root, p, [listed[0].path]);
  expect(setTo(one)).toEqual([
    ['0', 'minor'],
    ['2', 'minor'],
  ]);
  expect(adaptedHere(rootsOf(one)[0], p).map((v) => v.label)).toEqual(['Pull 0 · Scale', 'Pull 1 · Key']);
  expect(stateOf(rootsOf(one)[0], p, 1).changes).toEqual([]);
  const all = takeBackAdapted(
    session,
    root,
    p,
    listed.map((v) => v.path),
  );
  expect(setTo(all)).toEqual(setTo(from));
  expect([adaptedHere(rootsOf(all)[0], p), stateOf(rootsOf(all)[0], p, 1).changes]).toEqual([[], []]);
  expect(validateSession(all)).toEqual([]);
});
