import fc from 'fast-check';
import jsonpatch from 'fast-json-patch';
import {
  ADDABLE,
  applyDrop,
  canonicalJson,
  capture,
  clone,
  compile,
  countedIds,
  createDevice,
  createPreset,
  devicesIn,
  diffPresets,
  isPiece,
  letGo,
  merge3,
  planDrop,
  putBack,
  racksIn,
  rootsOf,
  startSession,
  stateOf,
  updateFromShelf,
  validatePreset,
  validateSession,
  type Device,
  type Place,
  type Preset,
  type Session,
  type Track,
} from '../index.ts';
import { sessionWith } from '../../tests/support/build.ts';
import { anyKind, anySession } from '../../tests/support/generate.ts';

/** Hundreds of cases in the test run; `npm run soak` asks for tens of thousands. */
const runs = { numRuns: Number(process.env.SOAK ?? 150) };
const anyPlace = (s: Session, p: Preset, n: number): Place => {
  const lines = s.tracks.filter((t) => t.role === 'audio');
  const t = lines[n % Math.max(1, lines.length)];
  if (!t || n % 3 === 0) return n % 2 ? { kind: 'new' } : { kind: 'new', index: n % (s.tracks.length + 1) };
  if (p.content.tracks.length > 1) return { kind: 'new' };
  const strand = racksIn(t.chain)[0]?.strands[0];
  if (n % 5 === 1 && strand) {
    return { kind: 'onto', track: t.id, chain: 'at', container: strand.id, at: n % 3 };
  }
  if (n % 5 === 2 && t.chain.length) {
    return { kind: 'onto', track: t.id, chain: 'swap', slot: t.chain[n % t.chain.length].id };
  }
  return { kind: 'onto', track: t.id, chain: (['replace', 'append', 'before'] as const)[n % 3] };
};
const idsOf = (s: Session) =>
  s.tracks.flatMap((t) => [
    t.id,
    ...t.sends.map((x) => x.id),
    ...t.clips.map((x) => x.id),
    ...devicesIn(t.chain).map((d) => d.id),
    ...racksIn(t.chain).flatMap((r) => [r.id, ...r.strands.map((x) => x.id)]),
  ]);

test('a generated preset is sound', () => {
  fc.assert(
    fc.property(anyKind(), (p) => {
      expect(validatePreset(p)).toEqual([]);
    }),
    runs,
  );
});

test('a drop makes a sound session without a loop, explains every value, touches nothing else; undo restores the document byte for byte', () => {
  fc.assert(
    fc.property(anySession(), anyKind(), fc.nat(1000), (s, p, n) => {
      const before = JSON.stringify(s);
      const plan = planDrop(s, p, { place: anyPlace(s, p, n) });
      expect(JSON.stringify(s)).toBe(before);
      if (plan.problems.length) return;
      const r = applyDrop(s, plan, p);
      expect(validateSession(r.session)).toEqual([]);
      expect(() => compile(r.session)).not.toThrow();
      expect(r.report.rows.filter((x) => x.verdict === 'unexplained')).toEqual([]);
      for (const t of s.tracks) {
        if (t.id !== plan.target?.id) expect(r.session.tracks.find((x) => x.id === t.id)).toBe(t);
      }
      expect(JSON.stringify(jsonpatch.applyPatch(clone(r.session), r.inverse).newDocument)).toBe(before);
      expect(JSON.stringify(merge3(r.session, s, r.session).value)).toBe(before);
    }),
    runs,
  );
});

test('dropping twice gives two that share nothing', () => {
  fc.assert(
    fc.property(anySession(), anyKind(), (s, p) => {
      const one = planDrop(s, p);
      if (one.problems.length) return;
      const first = applyDrop(s, one, p).session;
      const two = planDrop(first, p);
      if (two.problems.length) return;
      const both = applyDrop(first, two, p).session;
      const all = idsOf(both);
      expect(new Set(all).size).toBe(all.length);
      expect(new Set([...one.tracks, ...two.tracks].map((t) => t.name)).size).toBe(
        one.tracks.length + two.tracks.length,
      );
      const inner = (plan: typeof one) => new Set(plan.tracks.map((t) => t.id));
      for (const t of two.tracks) {
        for (const x of t.sends) {
          expect(inner(one).has(x.to) && !one.spares.some((y) => y.id === x.to)).toBe(false);
        }
      }
    }),
    runs,
  );
});

test('capturing what was just dropped gives the same content hash when nothing was adapted and nothing left open', () => {
  let compared = 0;
  fc.assert(
    fc.property(anyKind(), (p) => {
      if (isPiece(p.kind)) return;
      const r =
        p.kind === 'starter'
          ? startSession(p)
          : (() => {
              const empty = sessionWith([], { tempo: p.reference.tempo, sampleRate: p.reference.sampleRate });
              const first = planDrop(empty, p);
              const ties = Object.fromEntries(
                first.ends.map((e) => [
                  e.end.id,
                  e.choices.find(
                    (c) => c.kind === 'spare' || (c.kind === 'master' && e.end.role === 'master'),
                  )?.id ??
                    e.choices.find((c) => c.kind === 'empty')?.id ??
                    'open',
                ]),
              );
              const plan = planDrop(empty, p, { ties });
              return { plan, ...applyDrop(empty, plan, p) };
            })();
      if (
        r.plan.renames.length ||
        r.plan.adaptations.length ||
        r.plan.ends.some((e) => e.chosen === 'open')
      ) {
        return;
      }
      compared++;
      const ends = Object.fromEntries(
        r.session.tracks.flatMap((t) =>
          (['send', 'output', 'key', 'input', 'folder'] as const).map((k) => [
            `${k}:${t.id}`,
            p.content.looseEnds.some((e) => e.kind === k && e.label === t.name && e.spare)
              ? ('spare' as const)
              : ('keep' as const),
          ]),
        ),
      );
      const back = capture(
        r.session,
        p.content.tracks.map((t) => r.plan.ids[t.id]),
        { parts: p.content.parts, ends, whole: p.kind === 'starter' },
      );
      expect(diffPresets(p.content, back.content)).toEqual([]);
      expect(canonicalJson(back.content)).toBe(canonicalJson(p.content));
      expect(back.hash).toBe(p.hash);
    }),
    runs,
  );
  expect(compared).toBeGreaterThan(runs.numRuns / 8);
});

test('what was just dropped is as on the shelf; a change is told and put back, all or one; letting go leaves the sound alone', () => {
  fc.assert(
    fc.property(anySession(), anyKind(), fc.nat(1000), (s, p, n) => {
      const plan = planDrop(s, p, { place: anyPlace(s, p, n) });
      if (plan.problems.length) return;
      const dropped = applyDrop(s, plan, p).session;
      const roots = rootsOf(dropped).filter((r) => r.origin.drop === plan.drop);
      for (const r of roots) expect(stateOf(r, p, 1)).toEqual({ changes: [], newer: false });
      const root = roots.find((r) => r.track.chain.length) ?? roots[0];
      if (!root) return;
      const d = devicesIn(root.slot ? [root.slot] : root.track.chain)[0];
      if (!d) return;
      const numbers = Object.keys(d.params).filter((k) => typeof d.params[k] === 'number');
      const other = edited(dropped, root.track.id, d.id, (x) => ({
        ...x,
        state: x.state === 'on' ? 'bypassed' : 'on',
        params: numbers.length
          ? { ...x.params, [numbers[n % numbers.length]]: spread(x, numbers[n % numbers.length], n) }
          : x.params,
      }));
      const at = (x: Session) =>
        rootsOf(x).find((y) => y.track.id === root.track.id && y.slot?.id === root.slot?.id)!;
      const { changes } = stateOf(at(other), p, 2);
      expect(changes.length).toBeGreaterThan(0);
      expect(stateOf(at(putBack(other, at(other), p)), p, 1).changes).toEqual([]);
      const one = putBack(other, at(other), p, [changes[0].path]);
      expect(stateOf(at(one), p, 1).changes.map((c) => c.path)).toEqual(changes.slice(1).map((c) => c.path));
      const free = letGo(other, at(other));
      expect(validateSession(free)).toEqual([]);
      expect(rootsOf(free).some((y) => y.track.id === root.track.id && y.slot?.id === root.slot?.id)).toBe(
        false,
      );
    }),
    runs,
  );
});

const edited = (s: Session, track: string, slot: string, f: (d: Device) => Device): Session => {
  const walk = (c: Track['chain']): Track['chain'] =>
    c.map((x) => {
      if (x.kind === 'rack') return { ...x, strands: x.strands.map((y) => ({ ...y, chain: walk(y.chain) })) };
      if (x.id === slot) return f(x);
      return x;
    });
  return { ...s, tracks: s.tracks.map((t) => (t.id === track ? { ...t, chain: walk(t.chain) } : t)) };
};
const spread = (d: Device, param: string, n: number): number => {
  const p = ADDABLE.find((x) => x.type === d.type)!.byId[param];
  const v = p.min! + ((p.max! - p.min!) * (n % 97)) / 97;
  return v === d.params[param] ? p.max! : v;
};

/**
 * The three-way update against a brute-force oracle. A line of devices of distinct types; both sides make
 * edits of their own: values, states, a device less, a device more, level and pan. The oracle goes through
 * every value there is and decides by itself what must stand there.
 */
interface Edit {
  device: number;
  what: 'param' | 'state' | 'remove' | 'add';
  n: number;
}
const anyEdits = () =>
  fc.array(
    fc.record({
      device: fc.nat(4),
      what: fc.constantFrom(
        'param' as const,
        'param' as const,
        'state' as const,
        'remove' as const,
        'add' as const,
      ),
      n: fc.nat(96),
    }),
    { maxLength: 5 },
  );
const TYPES = ['eq', 'compressor', 'gate', 'delay', 'width'];
const MORE = { mine: ['trim', 'chorus', 'reverb'], theirs: ['clipper', 'saturator', 'doubler'] };
const work = (chain: Device[], edits: Edit[], side: 'mine' | 'theirs'): Device[] => {
  let out = [...chain];
  for (const e of edits) {
    const at = out.findIndex((d) => d.type === TYPES[e.device]);
    if (e.what === 'add') {
      const type = MORE[side][e.n % 3];
      if (!out.some((d) => d.type === type)) out.splice(e.n % (out.length + 1), 0, createDevice(type));
      continue;
    }
    if (at < 0) continue;
    const d = out[at];
    const numbers = Object.keys(d.params).filter((k) => typeof d.params[k] === 'number');
    if (e.what === 'remove') out = out.filter((x) => x !== d);
    else {
      out[at] =
        e.what === 'state'
          ? { ...d, state: (['on', 'bypassed', 'inactive'] as const)[e.n % 3] }
          : {
              ...d,
              params: {
                ...d.params,
                [numbers[e.n % numbers.length]]: spread(d, numbers[e.n % numbers.length], e.n),
              },
            };
    }
  }
  return out;
};

test('a three-way update is what a brute-force oracle says, and conflicts are exactly those values that both changed', () => {
  fc.assert(
    fc.property(
      anyEdits(),
      anyEdits(),
      fc.integer({ min: -20, max: 6 }),
      fc.integer({ min: -50, max: 50 }),
      fc.integer({ min: -50, max: 50 }),
      (a, b, level, panA, panB) => {
        const home = sessionWith([
          { id: 'x', name: 'Line', chain: TYPES.map((type) => createDevice(type, {}, { id: type })) },
        ]);
        const v1 = createPreset(capture(home, ['x']), { id: 'p', name: 'P' });
        const empty = sessionWith([]);
        const plan = planDrop(empty, v1);
        const dropped = applyDrop(empty, plan, v1).session;
        const id = plan.ids.t1;
        const mine: Session = {
          ...dropped,
          tracks: dropped.tracks.map((t) =>
            t.id === id ? { ...t, pan: panA, chain: work(t.chain as Device[], a, 'mine') } : t,
          ),
        };
        const theirs: Session = {
          ...home,
          tracks: home.tracks.map((t) =>
            t.id === 'x' ? { ...t, pan: panB, level, chain: work(t.chain as Device[], b, 'theirs') } : t,
          ),
        };
        const v2: Preset = { ...createPreset(capture(theirs, ['x']), { id: 'p', name: 'P' }), version: 2 };
        const before = canonicalJson(mine);
        const u = updateFromShelf(mine, rootsOf(mine)[0], v1, v2, { ids: countedIds('n') });
        expect(canonicalJson(mine)).toBe(before);
        expect(validateSession(u.session)).toEqual([]);

        const of = (s: Session, t: string, type: string) =>
          s.tracks.find((y) => y.id === t)!.chain.find((d) => d.kind === 'device' && d.type === type) as
            Device | undefined;
        const plain = (d: Device | undefined) => d && { state: d.state, params: d.params };
        const clashes = new Set<string>();
        const pick = <T>(base: T, m: T, t: T, name: string): T => {
          const [x, y, z] = [base, m, t].map((v) => canonicalJson(v ?? null));
          if (x === y) return t;
          if (x !== z && y !== z) clashes.add(name);
          return m;
        };
        for (const type of [...TYPES, ...MORE.mine, ...MORE.theirs]) {
          const [base, m, t, got] = [
            of(home, 'x', type),
            of(mine, id, type),
            of(theirs, 'x', type),
            of(u.session, id, type),
          ];
          if (base && m && t) {
            expect(got!.state).toBe(pick(base.state, m.state, t.state, `${type}/state`));
            for (const p of Object.keys(base.params)) {
              expect(got!.params[p]).toBe(
                pick(base.params[p], m.params[p], t.params[p], `${type}/params/${p}`),
              );
            }
          } else if (base) {
            const other = m ?? t;
            const untouched = !other || canonicalJson(plain(other)) === canonicalJson(plain(base));
            if (!untouched) clashes.add(type);
            expect(plain(got)).toEqual(untouched ? undefined : plain(m));
          } else expect(plain(got)).toEqual(plain(m ?? t));
        }
        const line = u.session.tracks.find((t) => t.id === id)!;
        expect(line.level).toBe(pick(0, 0, level, 'level'));
        expect(line.pan).toBe(pick(0, panA, panB, 'pan'));
        expect(u.conflicts.length).toBe(clashes.size);

        // taking the other side in every conflict leaves nothing that both changed; and what stands there now
        // is what the state says
        const all = updateFromShelf(mine, rootsOf(mine)[0], v1, v2, {
          choices: Object.fromEntries(u.conflicts.map((c) => [c.path, 'theirs' as const])),
        });
        expect(all.session.tracks.find((t) => t.id === id)!.pan).toBe(panB !== 0 ? panB : panA);
        const root = rootsOf(u.session)[0];
        expect(root.origin.version).toBe(2);
        const state = stateOf(root, v2, 2);
        expect(state.newer).toBe(false);
        expect(stateOf(rootsOf(putBack(u.session, root, v2))[0], v2, 2).changes).toEqual([]);
        if (!a.length && panA === 0) expect(state.changes).toEqual([]);
      },
    ),
    runs,
  );
});
