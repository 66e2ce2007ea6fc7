/**
 * Every remedy that is offered, on generated sessions with faults of every kind in them: it ends its finding,
 * adds no fault or warning, and touches nothing that it does not speak of.
 */
import fc from 'fast-check';
import {
  applyLayout,
  fixFinding,
  lineCheck,
  planLayout,
  same,
  validateSession,
  type Finding,
  type Levels,
  type Session,
  type Track,
} from '../index.ts';
import { anySession } from '../../tests/support/generate.ts';
import { dev, kitSession } from '../../tests/support/build.ts';

const runs = { numRuns: Number(process.env.SOAK ?? 150) };

/** Ways in which a kit that was laid out goes wrong. */
const FAULTS = [
  'line on',
  'part on',
  'part main',
  'part half',
  'line half',
  'line gone',
  'line asleep',
  'shift lines',
  'shift parts',
  'swap',
  'rename',
  'mono',
  'slot gone',
] as const;
interface Fault {
  kind: (typeof FAULTS)[number];
  n: number;
  to: number;
}
const anyFaults = (): fc.Arbitrary<Fault[]> =>
  fc.array(
    fc.record({
      kind: fc.constantFrom(...FAULTS),
      n: fc.nat(15),
      to: fc.integer({ min: 1, max: 16 }),
    }),
    { minLength: 1, maxLength: 4 },
  );

const isTaker = (t: Track) => t.input.kind === 'deviceOutput' && t.input.slot === 'k';
const out = (t: Track) => t.input as Extract<Track['input'], { kind: 'deviceOutput' }>;
function faulty(faults: Fault[], skip: number[], few: number): Session {
  const s0 = kitSession();
  const rows = Object.fromEntries(
    Array.from({ length: 16 }, (_, i) => [`p${i + 1}`, i < few ? {} : { mode: 'main' as const }]),
  );
  const s = structuredClone(applyLayout(s0, planLayout(s0, 'k', { skip, rows })));
  const kit = dev(s.tracks.find((t) => t.chain.some((d) => d.id === 'k'))!.chain.find((d) => d.id === 'k')!);
  for (const f of faults) {
    const takers = s.tracks.filter(isTaker);
    if (!takers.length) break;
    const t = takers[f.n % takers.length];
    const p = `p${1 + (f.n % 16)}.out`;
    const move = (v: string, by: number) =>
      v.replace(/^\d+/, (d) => String(Math.min(16, Math.max(1, +d + by))));
    if (f.kind === 'line on') out(t).output = f.to;
    if (f.kind === 'part on') kit.params[p] = String(f.to);
    if (f.kind === 'part main') kit.params[p] = 'main';
    if (f.kind === 'part half') kit.params[p] = `${f.to}${f.n % 2 ? 'L' : 'R'}`;
    if (f.kind === 'line half') out(t).take = (['left', 'right', 'sum', 'stereo'] as const)[f.to % 4];
    if (f.kind === 'line gone') s.tracks = s.tracks.filter((x) => x !== t);
    if (f.kind === 'line asleep') t.state = 'inactive';
    if (f.kind === 'shift lines') for (const x of takers) out(x).output = Math.min(16, out(x).output + 1);
    if (f.kind === 'shift parts') {
      for (let i = 1 + (f.n % 16); i <= 16; i++) {
        const v = String(kit.params[`p${i}.out`]);
        if (v !== 'main') kit.params[`p${i}.out`] = move(v, f.to % 2 ? 1 : -1);
      }
    }
    if (f.kind === 'swap') {
      const other = takers[f.to % takers.length];
      [t.input, other.input] = [other.input, t.input];
    }
    if (f.kind === 'rename') t.name = `Somebody ${f.n}`;
    if (f.kind === 'mono') t.channels = t.channels === 1 ? 2 : 1;
    if (f.kind === 'slot gone') t.input = { ...out(t), slot: 'nobody' };
  }
  return s;
}
const anyFaultyKit = () =>
  fc
    .tuple(
      anyFaults(),
      fc.uniqueArray(fc.integer({ min: 1, max: 16 }), { maxLength: 2 }),
      fc.integer({ min: 2, max: 8 }),
    )
    .map(([faults, skip, few]) => faulty(faults, skip, few))
    .filter((s) => validateSession(s).length === 0);

const label = (f: Finding) => `${f.rule}: ${f.message} → ${f.fix}`;
/** What is wrong with a remedy; null when nothing is. */
function wrongWith(s: Session, f: Finding, before: Finding[], levels: Levels | null): string | null {
  const next = fixFinding(s, f, levels);
  if (next === s || same(next, s)) return 'does nothing';
  const after = lineCheck(next, levels);
  if (after.some((x) => x.key === f.key)) return 'leaves its finding';
  const known = new Set(before.map((x) => x.key));
  const fresh = after.filter((x) => x.severity !== 'advice' && !known.has(x.key));
  if (fresh.length) return `adds ${fresh.map((x) => `${x.rule}: ${x.message}`).join('; ')}`;
  const words = `${f.message} ${f.fix}`;
  const touched = next.tracks.filter((t) => !same(t, s.tracks.find((x) => x.id === t.id) ?? t));
  // “Move all 6 lines” speaks of as many
  const many = Number(/\d+(?= (lines|parts))/.exec(f.fix!)?.[0] ?? 0);
  if (many) return touched.length > many ? `touches ${touched.length}` : null;
  const unspoken = touched.filter((t) => t.id !== f.track && !words.includes(`“${t.name}”`));
  if (unspoken.length) return `touches ${unspoken.map((t) => t.name).join(', ')}`;
  return null;
}
/** Of the remedies that are offered a few at a time: each asks for a check of the whole. */
const failures = (s: Session, from: number, levels: Levels | null = null): string[] => {
  const found = lineCheck(s, levels);
  const offered = found.filter((f) => f.fix);
  const some = offered.length > 4 ? [0, 1, 2, 3].map((k) => offered[(from + k) % offered.length]) : offered;
  return some.flatMap((f) => {
    const wrong = wrongWith(s, f, found, levels);
    return wrong ? [`${label(f)}: ${wrong}`] : [];
  });
};

test('remedies of kits', () => {
  fc.assert(
    fc.property(anyFaultyKit(), fc.nat(50), (s, from) => {
      expect(failures(s, from)).toEqual([]);
    }),
    { numRuns: Math.ceil(runs.numRuns / 3) },
  );
});

/** Levels as a render might have measured them. */
const anyLevels = (s: Session): fc.Arbitrary<Levels> =>
  fc
    .array(fc.record({ before: fc.integer({ min: -120, max: 9 }), gain: fc.integer({ min: -30, max: 6 }) }), {
      minLength: s.tracks.length,
      maxLength: s.tracks.length,
    })
    .chain((list) =>
      fc.integer({ min: -60, max: 6 }).map((master) => ({
        tracks: Object.fromEntries(
          s.tracks.map((t, i) => [t.id, { before: list[i].before, after: list[i].before + list[i].gain }]),
        ),
        master,
      })),
    );

test('remedies of any session, levels measured or not', () => {
  fc.assert(
    fc.property(
      anySession().chain((s) => fc.tuple(fc.constant(s), fc.option(anyLevels(s)))),
      fc.nat(50),
      ([s, levels], from) => {
        expect(failures(s, from, levels)).toEqual([]);
      },
    ),
    runs,
  );
});

test.each([-1, 1])(
  'all lines of a kit one place off (%d), whatever they are called: one press mends it',
  (by) => {
    const laid = structuredClone(applyLayout(kitSession(), planLayout(kitSession(), 'k', { skip: [1, 16] })));
    laid.tracks.filter(isTaker).forEach((t, n) => {
      t.name = `Line ${n + 1}`;
      out(t).output += by;
    });
    const quiet = (s: Session) => lineCheck(s).filter((f) => f.severity === 'fault');
    const before = quiet(laid);
    expect(before.length).toBeGreaterThan(1);
    for (const f of before.slice(0, 3)) {
      expect(f.fix).toMatch(/^Move all \d+ lines one output (back|up)$/);
      expect(quiet(fixFinding(laid, f))).toEqual([]);
    }
  },
);
