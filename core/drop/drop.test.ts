import {
  DropRefused,
  applyDrop,
  canonicalJson,
  capture,
  clone,
  countedIds,
  createPreset,
  diffPresets,
  merge3,
  noteMs,
  nullTest,
  planDrop,
  validatePreset,
  validateSession,
  verifyDrop,
  type Preset,
  type Session,
} from '../index.ts';
import { makeDemo } from '../../demo/index.ts';
import { dev, device, send, sessionWith } from '../../tests/support/build.ts';

const demo = makeDemo();
const [kelp, ninth] = demo.sessions.map((s) => s.session);
const lead = demo.presets[0];
const drop = (s: Session, p: Preset, o: Parameters<typeof planDrop>[2] = {}) => {
  const plan = planDrop(s, p, o);
  return { plan, ...applyDrop(s, plan, p) };
};

describe('capture', () => {
  test('what leaves the line becomes a loose end, its returns and buses travel as spares', () => {
    expect(lead.content.looseEnds.map((e) => [e.kind, e.label, e.role, !!e.spare])).toEqual([
      ['send', 'Plate', 'return', true],
      ['send', 'Slap', 'return', true],
      ['output', 'Voice bus', 'bus', true],
    ]);
    expect(lead.content.spares.map((s) => [s.name, s.sends.length, s.clips.length])).toEqual([
      ['Plate', 0, 0],
      ['Slap', 0, 0],
      ['Voice bus', 0, 0],
    ]);
    expect(validatePreset(lead)).toEqual([]);
  });
  test('only the chosen parts are kept', () => {
    const d = capture(kelp, ['kc-lead'], { parts: ['chain', 'colour'], spares: false });
    expect(d.content.tracks[0]).toMatchObject({ sends: [], level: 0, colour: 'lantern', note: '' });
    expect(d.content.looseEnds).toEqual([]);
  });
  test('the same settings give the same hash, whatever their ids; another value gives another', () => {
    const copy = clone(kelp);
    copy.tracks[0].chain.forEach((d, i) => {
      d.id = 'other' + i;
    });
    expect(capture(copy, ['kc-lead']).hash).toBe(lead.hash);
    dev(copy.tracks[0].chain[2]).params.threshold = -23;
    expect(capture(copy, ['kc-lead']).hash).not.toBe(lead.hash);
  });
});

describe('plan', () => {
  const plan = planDrop(ninth, lead);
  const end = (label: string) => plan.ends.find((e) => e.end.label === label)!;
  test('a plate under another name is proposed, a missing slap comes along, a taken name is changed', () => {
    expect(end('Plate').chosen).toBe('track:nw-verb');
    expect(end('Slap').chosen).toBe('spare');
    expect(plan.renames).toEqual([{ local: 't1', from: 'Lead voice', to: 'Lead voice 2' }]);
    expect(plan.spares.map((t) => t.name)).toContain('Slap');
  });
  test('a delay in ms that stood for a note is adapted to the tempo, one that did not is left', () => {
    const a = plan.adaptations.find((x) => x.label.includes('Slap'))!;
    expect(a.from).toBe(156.25);
    expect(a.to).toBeCloseTo(noteMs('1/16', 132), 2);
    expect(a.reason).toMatch(/1\/16.*96.*132/);
    const odd = clone(lead);
    dev(odd.content.spares.find((s) => s.name === 'Slap')!.chain[0]).params.time = 149;
    expect(planDrop(ninth, odd).adaptations).toEqual([]);
  });
  test('a frequency over half the sample rate is adapted, and only where it is used', () => {
    const s = sessionWith(
      [{ id: 'a', chain: [device('eq', { 'b8.on': true, 'b8.freq': 22000, 'b7.freq': 23000 })] }],
      { sampleRate: 96000 },
    );
    const p = createPreset(capture(s, ['a']), { id: 'p', name: 'High' });
    expect(
      planDrop({ ...sessionWith([]), sampleRate: 32000 }, p).adaptations.map((a) => [a.path, a.to]),
    ).toEqual([['t1/dev1/b8.freq', 15680]]);
  });
  test('ranks: same sound, last choice, same name, similar name', () => {
    const s = clone(ninth);
    expect(drop(s, lead).session.lastTies).toMatchObject({ 'demo-strip-1/send/Plate': 'nw-verb' });
    const again = planDrop({ ...s, lastTies: { 'demo-strip-1/send/Slap': 'nw-verb' } }, lead);
    expect(again.ends.find((e) => e.end.label === 'Slap')!.choices[0].reason).toMatch(/last time/);
    const home = planDrop(kelp, lead);
    expect(home.ends.map((e) => e.choices[0].reason)).toEqual(
      Array(3).fill('has exactly the same devices and values'),
    );
  });
  test('planning changes nothing and is repeatable', () => {
    const before = canonicalJson(ninth);
    const [a, b] = [
      planDrop(ninth, lead, { ids: countedIds('x') }),
      planDrop(ninth, lead, { ids: countedIds('x') }),
    ];
    expect(a).toEqual(b);
    expect(canonicalJson(ninth)).toBe(before);
  });
  test('a drop that would make a loop is a problem and is refused', () => {
    const s = sessionWith([
      { id: 'bus', name: 'Plate', role: 'return' },
      { id: 'v', sends: [send('bus')] },
    ]);
    const p = createPreset(capture(s, ['v'], { spares: false }), { id: 'p', name: 'Line' });
    s.tracks[0].output = { kind: 'track', track: 'v2' };
    const looped = sessionWith([
      { id: 'r', name: 'Plate', role: 'return' },
      { id: 'q', name: 'Q', role: 'bus' },
    ]);
    looped.tracks[0].output = { kind: 'track', track: 'q' };
    const pl = planDrop(looped, p, {
      place: { kind: 'onto', track: 'q', chain: 'append' },
      parts: ['sends'],
      ties: { end1: 'track:r' },
    });
    expect(pl.problems[0].message).toMatch(/loop/);
    expect(() => applyDrop(looped, pl, p)).toThrow(DropRefused);
  });
});

describe('apply, verify, undo', () => {
  test('every value arrives, the report says so, and what was tied or adapted is listed with its reason', () => {
    const r = drop(ninth, lead);
    expect(validateSession(r.session)).toEqual([]);
    expect(r.report.counts).toMatchObject({ unexplained: 0, 'left out': 0, adapted: 2, tied: 3 });
    expect(r.report.total).toBeGreaterThan(200);
    const line = r.session.tracks.find((t) => t.name === 'Lead voice 2')!;
    expect(line.chain.map(dev).map((d) => [d.type, d.state])).toEqual(
      lead.content.tracks[0].chain.map(dev).map((d) => [d.type, d.state]),
    );
    expect(line.sends.map((s) => s.level)).toEqual([-14, -20]);
    expect(new Set(r.session.tracks.flatMap((t) => [t.id, ...t.chain.map((d) => d.id)])).size).toBe(
      r.session.tracks.reduce((n, t) => n + 1 + t.chain.length, 0),
    );
  });
  test.each<[string, (s: Session) => void]>([
    [
      'a value changed',
      (s) => {
        dev(s.tracks.find((t) => t.name === 'Lead voice 2')!.chain[1]).params['b1.freq'] = 96;
      },
    ],
    [
      'a device lost',
      (s) => {
        s.tracks.find((t) => t.name === 'Lead voice 2')!.chain.splice(2, 1);
      },
    ],
    [
      'devices swapped',
      (s) => {
        s.tracks.find((t) => t.name === 'Lead voice 2')!.chain.reverse();
      },
    ],
    [
      'a send led elsewhere',
      (s) => {
        s.tracks.find((t) => t.name === 'Lead voice 2')!.sends[0].to = 'nw-singers';
      },
    ],
    [
      'the line lost',
      (s) => {
        s.tracks = s.tracks.filter((t) => t.name !== 'Lead voice 2');
      },
    ],
  ])('the report finds %s', (_, harm) => {
    const r = drop(ninth, lead);
    const broken = clone(r.session);
    harm(broken);
    expect(verifyDrop(broken, lead, r.plan).counts.unexplained).toBeGreaterThan(0);
    expect(verifyDrop(broken, lead, r.plan).intact).toBe(false);
  });
  test('onto a line: chosen parts only, the rest of the line is as it was', () => {
    const r = drop(ninth, lead, {
      place: { kind: 'onto', track: 'nw-crew', chain: 'append' },
      parts: ['chain', 'level'],
    });
    const [was, is] = [ninth, r.session].map((s) => s.tracks.find((t) => t.id === 'nw-crew')!);
    expect(is.chain).toHaveLength(was.chain.length + 6);
    expect(is.level).toBe(-3);
    expect({ ...is, chain: [], level: 0 }).toEqual({ ...was, chain: [], level: 0 });
    expect(r.session.tracks.filter((t) => t.id !== 'nw-crew')).toEqual(
      ninth.tracks.filter((t) => t.id !== 'nw-crew'),
    );
    expect(r.report.intact).toBe(true);
    expect(r.report.counts['left out']).toBeGreaterThan(0);
  });
  test('loose ends left open are left out and reported', () => {
    const ends = planDrop(ninth, lead).ends;
    const r = drop(ninth, lead, { ties: Object.fromEntries(ends.map((e) => [e.end.id, 'open'])) });
    const line = r.session.tracks.find((t) => t.name === 'Lead voice 2')!;
    expect(line.sends).toEqual([]);
    expect(line.output).toEqual({ kind: 'none' });
    expect(r.report.counts['left out']).toBe(3);
    expect(r.report.intact).toBe(true);
  });
  test('null test: exactly zero without adaptation for every shipped preset, rigs and starters as a whole, and a figure in dB with one', async () => {
    for (const p of demo.presets) {
      const r = drop({ ...ninth, tempo: p.reference.tempo }, p);
      expect([
        p.name,
        r.plan.adaptations.filter((a) => !a.path.endsWith('/cc')),
        (await nullTest(r.session, p, r.plan, { seconds: 1 })).residual,
      ]).toEqual([p.name, [], -Infinity]);
    }
    const phone = demo.presets[7];
    const r = drop(ninth, phone);
    const n = await nullTest(r.session, phone, r.plan, { seconds: 1 });
    expect(n.residual).toBeGreaterThan(-60);
    expect(n.reference).toBeGreaterThan(-50);
  });
  test('differences between versions name the value, with units', () => {
    const s = clone(kelp);
    dev(s.tracks[0].chain[2]).params.threshold = -20;
    s.tracks[0].chain.splice(4, 1);
    s.tracks[0].sends[0].level = -11;
    expect(
      diffPresets(lead.content, capture(s, ['kc-lead']).content).map((d) => [d.label, d.from, d.to]),
    ).toEqual([
      ['Lead voice · send to Plate · level', '−14.0 dB', '−11.0 dB'],
      ['Lead voice · Close and warm · Threshold', '−24.0 dB', '−20.0 dB'],
      ['Lead voice · Catch peaks', 'Catch peaks', '—'],
    ]);
  });
});

test('merge3: both changed one value → a conflict that names the place; added and deleted members of lists', () => {
  const s = sessionWith([{ id: 'a' }, { id: 'b' }, { id: 'c' }]);
  const level = (v: number) => ({
    ...s,
    tracks: s.tracks.map((t) => (t.id === 'b' ? { ...t, level: v } : t)),
  });
  const { value, conflicts } = merge3(s, level(-1), level(-2));
  expect(conflicts).toEqual([{ path: '/tracks/b/level', base: 0, mine: -1, theirs: -2 }]);
  expect(value.tracks[1].level).toBe(-1);
  const without = { ...s, tracks: s.tracks.filter((t) => t.id !== 'a') };
  const added = {
    ...s,
    tracks: [...s.tracks.slice(0, 2), { ...s.tracks[0], id: 'n' }, ...s.tracks.slice(2)],
  };
  expect(merge3(s, without, added).value.tracks.map((t) => t.id)).toEqual(['b', 'n', 'c', s.tracks[3].id]);
  expect(merge3(s, without, level(-5)).value.tracks.map((t) => t.id)).toEqual(['b', 'c', s.tracks[3].id]);
  expect(merge3(s, { ...s, tracks: s.tracks.filter((t) => t.id !== 'b') }, level(-5)).conflicts).toHaveLength(
    1,
  );
  const moved = { ...s, tracks: [s.tracks[1], s.tracks[0], ...s.tracks.slice(2)] };
  expect(merge3(s, moved, added).value.tracks.map((t) => t.id)).toEqual(['b', 'n', 'a', 'c', s.tracks[3].id]);
});
