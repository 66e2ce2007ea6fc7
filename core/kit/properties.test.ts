/** What holds for every layout, whatever is chosen: by generated choices, and by listening. */
import fc from 'fast-check';
import {
  accepts,
  applyLayout,
  applyPlayer,
  compile,
  fixAllSafe,
  hears,
  instrumentAt,
  lineCheck,
  listenersIn,
  outPlace,
  planLayout,
  planPlayer,
  playerRows,
  sameAddress,
  takersOf,
  tapTest,
  unprint,
  validateSession,
  withPrint,
  type LayoutChoice,
  type LayoutOptions,
  type PlayerRow,
  type Session,
  type Track,
} from '../index.ts';
import { countedIds, kitSession } from '../../tests/support/build.ts';
import { sameFamily } from './layout.ts';

const parts = instrumentAt(kitSession(), 'k').parts;
const outOf = (t: Track) => t.input as Extract<Track['input'], { kind: 'deviceOutput' }>;
const anyChoice = (): fc.Arbitrary<Partial<LayoutChoice>> =>
  fc.oneof(
    {
      weight: 4,
      arbitrary: fc.record({
        mode: fc.constant('own' as const),
        with: fc.constant(''),
        width: fc.constantFrom(1 as const, 2 as const),
        name: fc.constantFrom('Kick', 'Snare', 'Toms', 'Cymbals', 'Low tom', 'Shared'),
        sub: fc.constantFrom('', '', 'Toms', 'Cymbals'),
      }),
    },
    {
      weight: 2,
      arbitrary: fc.record({
        mode: fc.constant('with' as const),
        with: fc.constantFrom(...parts.map((p) => p.id)),
      }),
    },
    { weight: 1, arbitrary: fc.constant({ mode: 'main' as const, with: '' }) },
  );
const anyOptions = (): fc.Arbitrary<LayoutOptions> =>
  fc.record({
    rows: fc
      .array(fc.tuple(fc.constantFrom(...parts.map((p) => p.id)), anyChoice()), { maxLength: 10 })
      .map((l) => Object.fromEntries(l)),
    skip: fc.uniqueArray(fc.integer({ min: 1, max: 16 }), { maxLength: 3 }),
    halves: fc.boolean(),
    bus: fc.constantFrom('Deck kit bus', 'Other bus', null),
  });

/** Every part is heard on exactly the line of its row and on no other; what stays on main is on none. */
function holds(s: Session, options: LayoutOptions): Session {
  const before = JSON.stringify(s);
  const plan = planLayout(s, 'k', options);
  expect(JSON.stringify(s)).toBe(before);
  if (plan.problems.length) {
    expect(() => applyLayout(s, plan)).toThrow(plan.problems[0].slice(0, 20));
    return s;
  }
  const x = applyLayout(s, plan);
  expect(JSON.stringify(s)).toBe(before);
  expect(validateSession(x)).toEqual([]);
  expect(() => compile(x)).not.toThrow();
  const lines = takersOf(x, 'k');
  for (const r of plan.rows) {
    const now = instrumentAt(x, 'k').parts.find((p) => p.id === r.part.id)!;
    const o = outPlace(now.out);
    const on = lines.filter((t) => outOf(t).output === o.pair && hears(outOf(t).take, o.side));
    expect([r.part.name, now.out, on.length]).toEqual([r.part.name, r.out, r.mode === 'main' ? 0 : 1]);
    if (r.mode === 'own') {
      expect(on[0].channels).toBe(r.width);
      expect(outOf(on[0]).take).toBe(r.width === 1 ? o.side : 'stereo');
    }
    if (options.renumber && r.mode === 'own') expect(options.skip ?? []).not.toContain(o.pair);
  }
  // no two rows of their own share a place, and all lines lead to one bus in one or two steps, and nowhere
  // else
  const own = plan.rows.filter((r) => r.mode === 'own').map((r) => r.out);
  expect(new Set(own).size).toBe(own.length);
  expect(lines.length).toBe(own.length);
  const bus = plan.options.bus;
  const home = bus ? x.tracks.find((t) => t.name === bus)!.id : null;
  for (const t of lines) {
    const first = outTo(x, t);
    expect(home === null || first?.id === home || (first && outTo(x, first)?.id === home)).toBe(true);
    expect(t.sends).toEqual([]);
  }
  return x;
}
const outTo = (s: Session, t: Track) =>
  s.tracks.find((y) => t.output.kind === 'track' && y.id === t.output.track);

test('any choice of lines, halves, buses and empty outputs: each part on its line and only there; run again, nothing changes; run with other choices, it holds again', () => {
  fc.assert(
    fc.property(anyOptions(), anyOptions(), fc.boolean(), (a, b, renumber) => {
      const first = holds(kitSession(), a);
      if (first !== kitSession() && takersOf(first, 'k').length) {
        const again = planLayout(first, 'k', { skip: a.skip, halves: a.halves });
        // parts that were left on main are offered a line of their own when the rest has one
        const rows = Object.fromEntries(
          again.rows
            .filter((r) => r.part.out === 'main')
            .map((r) => [r.part.id, { mode: 'main' as const, with: '' }]),
        );
        expect(applyLayout(first, planLayout(first, 'k', { skip: a.skip, halves: a.halves, rows }))).toEqual(
          first,
        );
      }
      holds(first, { ...b, renumber });
    }),
    { numRuns: 120 },
  );
});

test('a family’s name stays only while two parts of it share the line', () => {
  const usual = planLayout(kitSession(), 'k').rows;
  const families = usual.filter((r) => r.mode === 'own' && usual.some((x) => x.with === r.part.id));
  expect(families.map((r) => r.name)).toContain('Percussion');
  for (const host of families) {
    const guests = usual.filter((x) => x.with === host.part.id);
    const rows = Object.fromEntries(guests.map((x) => [x.part.id, { mode: 'own' as const, with: '' }]));
    const apart = planLayout(kitSession(), 'k', { rows }).rows;
    for (const r of apart.filter((x) => x.part.id === host.part.id || x.part.id in rows)) {
      expect(r.name).toBe(r.part.name);
    }
    const stranger = usual.find((r) => r.mode === 'own' && !sameFamily(r.part.sound, host.part.sound))!;
    const visited = { ...rows, [stranger.part.id]: { mode: 'with' as const, with: host.part.id } };
    const joined = planLayout(kitSession(), 'k', { rows: visited }).rows;
    expect(joined.find((r) => r.part.id === host.part.id)!.name).toBe(host.part.name);
  }
});

test('what a layout makes, the line check and the tap test agree with', async () => {
  await fc.assert(
    fc.asyncProperty(anyOptions(), async (o) => {
      const rows = Object.fromEntries(
        Object.entries(o.rows ?? {}).map(([id, c]) => [
          id,
          { ...c, ...(c.mode === 'own' ? { name: parts.find((p) => p.id === id)!.name } : {}) },
        ]),
      );
      const plan = planLayout(kitSession(), 'k', { ...o, rows });
      if (plan.problems.length) return;
      const s = applyLayout(kitSession(), plan);
      // parts that were chosen to stay on the main output are told as such, and when there is no room for all
      const found = lineCheck(s).filter(
        (f) =>
          ![
            'part-on-main',
            'outputs-short',
            'outputs-shared',
            'same-name',
            'unplayed',
            'half-of-a-pair',
          ].includes(f.rule),
      );
      expect(found.map((f) => f.message)).toEqual([]);
      const r = await tapTest(s, 'k');
      for (const x of r.rows) {
        expect([
          x.name,
          ['right', 'low', 'main'].includes(x.verdict) ||
            plan.rows.find((y) => y.part.id === x.part)!.mode === 'with',
        ]).toEqual([x.name, true]);
      }
    }),
    { numRuns: 8 },
  );
});

test('any number of parts on players, beside whatever listens already: every part is reached by its line, no address is shared, and a second run keeps everything', () => {
  const row = fc.record<PlayerRow>({
    name: fc.constantFrom('Strings', 'Horns', 'Choir'),
    sound: fc.constantFrom('strings', 'horns', 'choir', 'bells'),
    port: fc.constantFrom('', '', 'A', 'C'),
    channel: fc.constantFrom(0, 0, 0, 1, 10, 16),
    width: fc.constantFrom(1, 2),
    colour: fc.constant('heather'),
    insert: fc.constantFrom('', 'eq'),
  });
  fc.assert(
    fc.property(fc.array(row, { minLength: 1, maxLength: 40 }), fc.boolean(), (rows, midi) => {
      const s = kitSession();
      const plan = planPlayer(s, rows, { name: 'Players', midi });
      if (plan.problems.length) return;
      expect(plan.rows).toHaveLength(rows.length);
      const x = applyPlayer(s, plan, countedIds('n'));
      expect(validateSession(x)).toEqual([]);
      const heard = listenersIn(x.tracks);
      expect(heard).toHaveLength(rows.length + 1);
      heard.forEach((a, i) => expect(heard.findIndex((b) => sameAddress(a, b))).toBe(i));
      for (const l of heard) {
        expect(accepts(x.tracks.find((t) => t.id === l.track)!.input, l.port, l.channel)).toBe(true);
      }
      for (const p of plan.players) {
        const id = x.tracks.find((t) => t.name === p.name)!.chain[0].id;
        expect(takersOf(x, id)).toHaveLength(plan.rows.filter((r) => plan.players[r.player] === p).length);
      }
      const at = plan.players.map((p) => x.tracks.find((t) => t.name === p.name)!.id);
      expect(applyPlayer(x, planPlayer(x, playerRows(x, at), { at, midi }))).toEqual(x);
    }),
    { numRuns: 60 },
  );
});

test('a print and the way back, whatever was edited in between; and the check’s own fixes leave it sound', () => {
  fc.assert(
    fc.property(anyOptions(), fc.integer({ min: -30, max: 6 }), (o, level) => {
      const s = holds(kitSession(), o);
      const lines = takersOf(s, 'k');
      const media = lines.map((t, i) => ({
        track: t.id,
        ref: {
          id: i.toString(16).padStart(64, '0'),
          name: t.name,
          sampleRate: 48000,
          channels: 2 as const,
          frames: 48000,
        },
      }));
      const printed = withPrint(s, 'k', media);
      expect(validateSession(printed)).toEqual([]);
      expect(unprint(printed)).toEqual(s);
      const turned = (x: Session) => ({
        ...x,
        tracks: x.tracks.map((t) => (t.id === lines[0]?.id ? { ...t, level } : t)),
      });
      expect(unprint(turned(printed))).toEqual(turned(s));
      expect(validateSession(fixAllSafe(printed).session)).toEqual([]);
    }),
    { numRuns: 40 },
  );
});
