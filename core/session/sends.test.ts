import fc from 'fast-check';
import {
  applyDrop,
  arranged,
  capture,
  createPreset,
  movedSend,
  planDrop,
  validateSession,
  type Send,
} from '../index.ts';
import { send, sessionWith } from '../../tests/support/build.ts';

const names = (sends: readonly Send[]) => sends.map((s) => s.to + (s.place ?? '')).join(' ');
const list = (...marks: string[]): Send[] =>
  marks.map((m, i) => ({
    ...send(m[0], 0, { id: `s${i}` }),
    ...(m[1] ? { place: Number(m[1]) } : {}),
  }));

test.each([
  [['a', 'b', 'p1'], 'p1 a b'],
  [['q3', 'a', 'p1', 'b'], 'p1 a q3 b'],
  [['a', 'p9'], 'a p9'],
  [['p2', 'q2', 'a'], 'q p2 a'],
  [['q3', 'p2'], 'q3 p2'],
])('%s stand as %s', (marks, order) => {
  expect(names(arranged(list(...marks)))).toBe(order);
});

test('a send moves; one with a fixed place gets the place that it was put to', () => {
  expect(names(movedSend(list('a', 'b', 'c'), 's2', 0))).toBe('c a b');
  expect(names(movedSend(list('p1', 'a', 'b'), 's2', 0))).toBe('p1 b a');
  expect(names(movedSend(list('p1', 'a', 'b'), 's0', 2))).toBe('a b p3');
});

test('any sends: none is lost, and a fixed place is held where there are so many', () => {
  const mark = fc.tuple(fc.constantFrom('a', 'b', 'c', 'd'), fc.constantFrom('', '1', '2', '3', '7'));
  fc.assert(
    fc.property(
      fc.array(
        mark.map((m) => m.join('')),
        { maxLength: 6 },
      ),
      (marks) => {
        const sends = list(...marks);
        const out = arranged(sends);
        expect(out.map((s) => s.id).sort()).toEqual(sends.map((s) => s.id).sort());
        out.forEach((s, i) => s.place && s.place <= out.length && expect(i + 1).toBe(s.place));
        expect(arranged(out)).toEqual(out);
      },
    ),
  );
});

test('a send at its fixed place survives a drop onto the line: what arrives stands around it', () => {
  const returns = ['plate', 'slap', 'hall'].map((id) => ({ id, name: id, role: 'return' as const }));
  const from = sessionWith([
    { id: 'v', name: 'V', sends: [send('hall', -3), send('slap', -9), send('plate', -20)] },
    ...returns,
  ]);
  const preset = createPreset(capture(from, ['v'], { parts: ['sends'] }), { id: 'p', name: 'P' });
  const s = sessionWith([
    {
      id: 'v',
      name: 'V',
      sends: [
        { ...send('plate', -12), place: 1 },
        { ...send('slap', -12), place: 2 },
      ],
    },
    ...returns,
  ]);
  const place = { kind: 'onto' as const, track: 'v', chain: 'append' as const };
  const { session, report } = applyDrop(s, planDrop(s, preset, { place, parts: ['sends'] }), preset);
  expect(validateSession(session)).toEqual([]);
  expect(names(session.tracks[0].sends)).toBe('plate1 slap2 hall');
  expect(session.tracks[0].sends.map((x) => x.level)).toEqual([-20, -9, -3]);
  expect(report.intact).toBe(true);
});
