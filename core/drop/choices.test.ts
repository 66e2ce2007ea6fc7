/**
 * Drops with whatever a person may choose on the sheet: any parts, any ends, any place, adaptations refused.
 * Whatever it is, nothing stays unexplained and what was on a line before is no change of the preset's.
 */
import fc from 'fast-check';
import {
  applyDrop,
  canonicalJson,
  capture,
  compile,
  createPreset,
  createSend,
  diffPresets,
  nullTest,
  planDrop,
  putBack,
  rootsOf,
  stateOf,
  updateFromShelf,
  validateSession,
  type Place,
  type Preset,
  type Session,
} from '../index.ts';
import { PARTS } from './parts/index.ts';
import { anyKind, anySession } from '../../tests/support/generate.ts';
import { clipOf, dev, device, mediaRef, sessionWith } from '../../tests/support/build.ts';

const runs = { numRuns: Number(process.env.SOAK ?? 150) };

interface Choices {
  parts: boolean[];
  ends: number[];
  refuse: boolean;
  silentSends: boolean;
  onto: number;
  mode: number;
}
const anyChoices = (): fc.Arbitrary<Choices> =>
  fc.record({
    parts: fc.array(fc.boolean(), { minLength: PARTS.length, maxLength: PARTS.length }),
    ends: fc.array(fc.nat(20), { minLength: 12, maxLength: 12 }),
    refuse: fc.boolean(),
    silentSends: fc.boolean(),
    onto: fc.nat(20),
    mode: fc.nat(2),
  });

/** The session's lines play something and send somewhere, so that a drop finds things in its way. */
function lived(s: Session): Session {
  const far = s.tracks.find((t) => t.role === 'return');
  return {
    ...s,
    media: [...s.media, mediaRef('x')],
    tracks: s.tracks.map((t) => {
      if (t.role !== 'audio') return t;
      const sends = far && !t.sends.length ? [createSend(far.id, { level: -7 })] : t.sends;
      return { ...t, sends, clips: t.clips.length ? t.clips : [clipOf('x', 1)] };
    }),
  };
}
function chosen(s: Session, p: Preset, c: Choices) {
  const lines = s.tracks.filter((t) => t.role === 'audio' || t.role === 'bus');
  const t = lines[c.onto % Math.max(1, lines.length)];
  const alone = p.content.tracks.length === 1 && p.kind !== 'starter';
  const chain = (['replace', 'append', 'before'] as const)[c.mode];
  const place: Place = t && alone && c.onto % 3 ? { kind: 'onto', track: t.id, chain } : { kind: 'new' };
  const parts = PARTS.map((x) => x.id).filter((_, i) => c.parts[i]);
  const { silentSends } = c;
  const first = planDrop(s, p, { place, parts, silentSends });
  const ties = Object.fromEntries(
    first.ends.map((e, i) => [e.end.id, e.choices[c.ends[i % 12] % e.choices.length].id]),
  );
  const adapt = Object.fromEntries(first.adaptations.map((a) => [a.path, !c.refuse]));
  return planDrop(s, p, { place, parts, ties, adapt, silentSends });
}

test('nothing stays unexplained, whatever is chosen; undo restores the document', () => {
  fc.assert(
    fc.property(anySession(), anyKind(), anyChoices(), (bare, p, c) => {
      const s = lived(bare);
      const plan = chosen(s, p, c);
      if (plan.problems.length) return;
      const r = applyDrop(s, plan, p);
      expect(validateSession(r.session)).toEqual([]);
      expect(() => compile(r.session)).not.toThrow();
      expect(r.report.rows.filter((x) => x.verdict === 'unexplained')).toEqual([]);
    }),
    runs,
  );
});

test('one line of a band by itself, or all of it, saved and dropped with any parts', () => {
  fc.assert(
    fc.property(anySession(), anySession(), fc.nat(900), anyChoices(), (bare, from, n, c) => {
      const lines = from.tracks.filter((t) => t.role !== 'master');
      if (!lines.length) return;
      const home = lived(from);
      const saved = PARTS.map((x) => x.id).filter((_, i) => n % 7 === 0 || (n >> i) % 3);
      const which = n % 4 === 0 ? lines : [lines[n % lines.length]];
      const ids = which.map((t) => t.id);
      const p = createPreset(capture(home, ids, { parts: saved }), { id: 'p', name: 'P' });
      const plan = chosen(lived(bare), p, c);
      if (plan.problems.length) return;
      const r = applyDrop(lived(bare), plan, p);
      expect(validateSession(r.session)).toEqual([]);
      expect(r.report.rows.filter((x) => x.verdict === 'unexplained')).toEqual([]);
    }),
    runs,
  );
});

test('what was on a line before a drop is no change, and putting all back leaves it where it is', () => {
  fc.assert(
    fc.property(anySession(), anyKind(), anyChoices(), (bare, p, c) => {
      const s = lived(bare);
      const plan = chosen(s, p, c);
      if (plan.problems.length) return;
      const { session } = applyDrop(s, plan, p);
      for (const root of rootsOf(session).filter((r) => r.origin.drop === plan.drop)) {
        expect(stateOf(root, p, 1).changes).toEqual([]);
        const back = putBack(session, root, p);
        const at = back.tracks.find((t) => t.id === root.track.id)!;
        expect(at.sends.map((x) => x.id).sort()).toEqual(root.track.sends.map((x) => x.id).sort());
        expect(canonicalJson(at.chain.length)).toBe(canonicalJson(root.track.chain.length));
      }
    }),
    runs,
  );
});

test.each(['x'.repeat(200), `${'x'.repeat(197)} 99`, '🎚'.repeat(100)])(
  'a name of 200 letters dropped a dozen times: each is another name of 200 at most',
  (name) => {
    const p = createPreset(capture(sessionWith([{ id: 'a', name }]), ['a']), { id: 'p', name: 'P' });
    let s = sessionWith([]);
    for (let i = 0; i < 12; i++) s = applyDrop(s, planDrop(s, p), p).session;
    const names = s.tracks.map((t) => t.name);
    expect(new Set(names).size).toBe(13);
    expect(names.every((n) => n.length <= 200 && !/\p{Surrogate}/u.test(n))).toBe(true);
  },
);

test('a send that takes another’s place goes on being moved by the lane that moved it', () => {
  const s = sessionWith([
    {
      id: 'v',
      sends: [createSend('plate', { id: 'old', level: -20 })],
      automation: [{ id: 'lane', of: 'old', param: 'level', on: true, points: [{ at: 0, value: -9 }] }],
    },
    { id: 'plate', name: 'Plate', role: 'return' },
  ]);
  const home = sessionWith([
    { id: 'x', sends: [createSend('p', { level: -3 })] },
    { id: 'p', name: 'Plate', role: 'return' },
  ]);
  const p = createPreset(capture(home, ['x']), { id: 'p', name: 'P' });
  const onto = { kind: 'onto' as const, track: 'v', chain: 'append' as const };
  const { session } = applyDrop(s, planDrop(s, p, { place: onto }), p);
  const [t] = session.tracks;
  expect(t.sends.map((x) => x.level)).toEqual([-3]);
  expect(t.automation!.map((l) => l.of)).toEqual([t.sends[0].id]);
});

test('a line goes back to an earlier version as it goes to a later one', () => {
  const version = (n: number, threshold: number): Preset => {
    const s = sessionWith([
      { id: 'x', name: 'X', chain: [device('compressor', { threshold }, { id: 'c' })] },
    ]);
    return { ...createPreset(capture(s, ['x']), { id: 'p', name: 'P' }), version: n };
  };
  const [one, two] = [version(1, -10), version(2, -30)];
  const empty = sessionWith([]);
  const { session } = applyDrop(empty, planDrop(empty, two), two);
  const back = updateFromShelf(session, rootsOf(session)[0], two, one).session;
  expect(dev(back.tracks[0].chain[0]).params.threshold).toBe(-10);
  expect(rootsOf(back)[0].origin.version).toBe(1);
  expect(stateOf(rootsOf(back)[0], one, 2)).toEqual({ changes: [], newer: true });
});

test('spares of two versions pair by what they are, in whatever order', () => {
  const version = (order: string[], level: number): Preset => {
    const names = ['Plate', 'Slap', 'Hall'];
    const s = sessionWith([
      { id: 'x', name: 'X', sends: order.map((n) => createSend(n, { level: -9 })) },
      ...names.map((name) => ({
        id: name,
        name,
        role: 'return' as const,
        level: name === 'Hall' ? level : 0,
        chain: [device('reverb', { type: name === 'Plate' ? 'plate' : 'hall' })],
      })),
    ]);
    return createPreset(capture(s, ['x']), { id: 'p', name: 'P' });
  };
  const [a, b] = [version(['Plate', 'Slap', 'Hall'], 0), version(['Hall', 'Plate', 'Slap'], -3)];
  expect(diffPresets(a.content, b.content).map((d) => [d.label, d.from, d.to])).toEqual([
    ['Hall · level', '0.0 dB', '−3.0 dB'],
  ]);
});

test('a value kept on purpose is listed as that, and the null test names what makes a difference', async () => {
  const home = sessionWith(
    [
      {
        id: 'x',
        name: 'X',
        chain: [
          device('delay', { mode: 'ms', time: 156.25, mix: 50 }, { name: 'Slap' }),
          device('delay', { mode: 'note', note: '1/8', mix: 50 }, { name: 'Echo' }),
        ],
      },
    ],
    { tempo: 96 },
  );
  const p = createPreset(capture(home, ['x']), { id: 'p', name: 'P' });
  const there = sessionWith([], { tempo: 132 });
  const first = planDrop(there, p);
  const [slap] = first.adaptations;
  const kept = planDrop(there, p, { adapt: { [slap.path]: false } });
  const { session, report } = applyDrop(there, kept, p);
  expect(report.rows.find((r) => r.path === slap.path)).toMatchObject({
    verdict: 'intact',
    reason: expect.stringMatching(/^kept on purpose instead of 114 ms: .*1\/16/) as string,
  });
  const { residual, causes } = await nullTest(session, p, kept);
  expect(residual).toBeGreaterThan(-100);
  expect(causes).toEqual(['Echo on X follows the tempo: 1/8 at 96 and at 132 bpm']);
  const adapted = applyDrop(there, first, p);
  expect((await nullTest(adapted.session, p, first)).causes[0]).toMatch(/Slap · Time: 156 ms .* 114 ms here/);
});
