import {
  piecesOf,
  planEven,
  playTake,
  render,
  setClipGains,
  splitClip,
  validateSession,
  integratedLoudness,
  type Clip,
  type Session,
} from '../index.ts';
import { mediaRef, noise, sessionWith } from '../../tests/support/build.ts';

const FS = 48000;
const clip = (id: string, media: string, start: number, over: Partial<Clip> = {}): Clip => ({
  id,
  media,
  start,
  offset: 0,
  length: 4,
  gain: 0,
  ...over,
});
/** Phrases with pauses: a second of noise, a second of nothing. */
const phrases = (gain: number, seed: number) =>
  noise(4, gain, seed).map((v, i) => (Math.floor(i / FS) % 2 ? 0 : v));
const sounds = new Map(
  [
    ['a', phrases(0.1, 1)],
    ['b', phrases(0.02, 2)],
    ['c', noise(4, 0.9, 3).map((v, i) => (i % 24000 ? 0.02 * v : Math.sign(v)))],
  ].map(([id, x]) => [id as string, { l: x as Float32Array, r: x as Float32Array }]),
);
const session = (): Session =>
  sessionWith(
    [{ id: 't', name: 'Takes', clips: [clip('1', 'a', 0), clip('2', 'b', 4), clip('3', 'c', 8)] }],
    {
      media: ['a', 'b', 'c'].map((id) => mediaRef(id, 4 * FS)),
    },
  );

test('clips become as loud as the chosen one, within a tenth of a LU, as the engine plays them', async () => {
  const s = session();
  const rows = planEven(s, ['t'], sounds, '1');
  expect(rows.map((r) => r.clip)).toEqual(['1', '2', '3']);
  expect(rows[0]).toMatchObject({ from: 0, to: 0, isHeld: false });
  const even = setClipGains(Object.fromEntries(rows.map((r) => [r.clip, r.to])))(s);
  expect(validateSession(even)).toEqual([]);
  const { master } = await render(even, { sounds });
  const part = (from: number) => master.map((x) => x.slice(from * FS, (from + 4) * FS));
  const [one, two] = [integratedLoudness(part(0), FS), integratedLoudness(part(4), FS)];
  expect(Math.abs(one - two)).toBeLessThan(0.1);
  expect(two).toBeCloseTo(rows[1].after!, 0);
});

test('peaks that would pass −1 dBTP are held back and told; to a number; what is off is left', () => {
  const rows = planEven(session(), ['t'], sounds, -16);
  expect(rows[0].after).toBeCloseTo(-16, 1);
  expect(rows[2].isHeld).toBe(true);
  expect(rows[2].peak).toBeLessThanOrEqual(-0.95);
  const s = playTake('t', '2', false)(session());
  expect(planEven(s, ['t'], sounds, -16).map((r) => r.clip)).toEqual(['1', '3']);
  expect(() => planEven(s, ['t'], sounds, '2')).toThrow(/not among them/);
  const silent = new Map([['a', { l: new Float32Array(4 * FS), r: new Float32Array(4 * FS) }]]);
  expect(planEven(session(), ['t'], silent, -16)).toMatchObject([{ clip: '1', before: null, to: 0 }]);
});

test('a clip is split at its silences; the pieces sound where they did', async () => {
  const s = session();
  const parts = piecesOf(s.tracks[0].clips[0], sounds.get('a')!, FS);
  expect(parts.map((p) => [p.from, p.to].map((x) => Math.round(x * 10) / 10))).toEqual([
    [0, 1.1],
    [2, 3.1],
  ]);
  const cut = splitClip('t', '1', parts)(s);
  expect(validateSession(cut)).toEqual([]);
  expect(cut.tracks[0].clips).toHaveLength(4);
  const [was, now] = [await render(s, { sounds }), await render(cut, { sounds })];
  expect(now.master[0]).toEqual(was.master[0]);
});

test('of takes that lie over each other one plays', () => {
  const s = sessionWith(
    [{ id: 't', name: 'T', clips: [clip('1', 'a', 0), clip('2', 'b', 2), clip('3', 'c', 9)] }],
    { media: ['a', 'b', 'c'].map((id) => mediaRef(id, 4 * FS)) },
  );
  const on = (x: Session) => x.tracks[0].clips.filter((c) => !c.off).map((c) => c.id);
  expect(on(playTake('t', '2', true)(s))).toEqual(['2', '3']);
  expect(on(playTake('t', '1', true)(playTake('t', '2', true)(s)))).toEqual(['1', '3']);
});
