import {
  applyDrop,
  capture,
  clone,
  createPreset,
  diffPresets,
  planDrop,
  requirementsOf,
  validatePreset,
  validateSession,
  verifyDrop,
  type CaptureOptions,
  type PlanOptions,
  type Preset,
  type Session,
} from '../index.ts';
import { clipOf, dev, device, mediaRef, send, sessionWith } from '../../tests/support/build.ts';

/** a line with everything that can leave it: output, two sends, a key, a folder, an input, a sound */
function home(): Session {
  const s = sessionWith(
    [
      { id: 'kick', name: 'Kick', clips: [clipOf('x')] },
      { id: 'crew', name: 'Crew', role: 'folder' },
      {
        id: 'line',
        name: 'Bass',
        colour: 'rust',
        level: -4,
        pan: 12,
        polarity: true,
        note: 'threshold first',
        folder: 'crew',
        output: { kind: 'track', track: 'low' },
        input: { kind: 'track', track: 'kick', tap: 'pre' },
        clips: [clipOf('y', 2)],
        chain: [
          device('trim', { gain: 1 }, { name: 'In' }),
          device(
            'compressor',
            { threshold: -24, attack: 2, release: 312.5, ratio: 100 },
            { name: 'Duck', key: { kind: 'track', track: 'kick', tap: 'pre' } },
          ),
        ],
      },
      { id: 'low', name: 'Low bus', role: 'bus', chain: [device('eq', { 'b1.on': true })] },
      { id: 'room', name: 'Room', role: 'return', chain: [device('reverb', { type: 'room' })] },
    ],
    { tempo: 96, media: [mediaRef('x'), mediaRef('y')] },
  );
  s.tracks[2].sends = [
    send('room', -9, { tap: 'pre' }),
    send('low', -20, { panMode: 'own', pan: -30, on: false }),
  ];
  return s;
}
const preset = (o?: CaptureOptions, over: Partial<Preset> = {}): Preset =>
  createPreset(capture(home(), ['line'], o), { id: 'duck', name: 'Ducked bass', ...over });
const drop = (s: Session, p: Preset, o: PlanOptions = {}) => {
  const plan = planDrop(s, p, o);
  return { plan, ...applyDrop(s, plan, p) };
};
const all = [
  'chain',
  'sends',
  'level',
  'pan',
  'output',
  'input',
  'keys',
  'folder',
  'name',
  'colour',
  'note',
  'clips',
] as const;

test('every way out of a line is a loose end with the far side’s name, role and width', () => {
  expect(
    preset({ parts: [...all] }).content.looseEnds.map((e) => [
      e.kind,
      e.label,
      e.role,
      e.channels,
      !!e.spare,
    ]),
  ).toEqual([
    ['key', 'Kick', 'audio', 2, false],
    ['send', 'Room', 'return', 2, true],
    ['send', 'Low bus', 'bus', 2, true],
    ['output', 'Low bus', 'bus', 2, true],
    ['input', 'Kick', 'audio', 2, false],
    ['folder', 'Crew', 'folder', 2, false],
  ]);
  // one spare for the bus that is both sent to and gone out to
  expect(preset().content.spares.map((s) => s.name)).toEqual(['Room', 'Low bus']);
  expect(validatePreset(preset({ parts: [...all] }))).toEqual([]);
});

test('home again: everything ties to what it came from, and nothing is brought along', () => {
  const r = drop(home(), preset({ parts: [...all] }));
  expect(r.plan.spares).toEqual([]);
  expect(r.report.counts).toMatchObject({ unexplained: 0, 'left out': 0 });
  const t = r.session.tracks.find((x) => x.name === 'Bass 2')!;
  expect(t).toMatchObject({
    folder: 'crew',
    output: { track: 'low' },
    input: { track: 'kick' },
    polarity: true,
    pan: 12,
    colour: 'rust',
  });
  expect(t.sends.map((x) => [x.to, x.tap, x.panMode, x.pan, x.on])).toEqual([
    ['room', 'pre', 'follow', 0, true],
    ['low', 'post', 'own', -30, false],
  ]);
  expect(dev(t.chain[1]).key).toEqual({ kind: 'track', track: 'kick', tap: 'pre' });
  expect(t.clips).toMatchObject([{ media: 'y', length: 2 }]);
});

test('into an empty session: spares come, the key listens to itself, the ducking release follows the tempo', () => {
  const r = drop(sessionWith([], { tempo: 132 }), preset());
  expect(r.plan.spares.map((t) => t.name).sort()).toEqual(['Low bus', 'Room']);
  expect(r.plan.adaptations.map((a) => [a.label, a.from, Math.round(a.to as number)])).toEqual([
    ['Bass · Duck · Release', 312.5, 227],
  ]);
  expect(r.plan.adaptations[0].reason).toMatch(/1\/8 note at 96 bpm; this session runs at 132 bpm/);
  const t = r.session.tracks.find((x) => x.name === 'Bass')!;
  expect(dev(t.chain[1]).key).toEqual({ kind: 'own' });
  expect(t.folder).toBeNull();
  expect(r.report.rows.filter((x) => x.verdict === 'left out').map((x) => x.label)).toEqual([
    'Bass · input',
    'Bass · folder',
    'Bass · Duck · key',
  ]);
});

test('sound comes along only when it was asked for, and is listed once', () => {
  expect(preset().content.media).toEqual([]);
  const r = drop(sessionWith([]), preset({ parts: [...all] }));
  expect(r.session.media.map((m) => m.id)).toEqual(['y']);
  expect(drop(r.session, preset({ parts: [...all] })).session.media).toHaveLength(1);
});

test('spares refused: nothing to bring, an empty one is offered, made and reported', () => {
  const p = preset({ spares: false });
  expect(p.content.spares).toEqual([]);
  const s = sessionWith([]);
  const ends = planDrop(s, p).ends;
  expect(ends.every((e) => !e.choices.some((c) => c.kind === 'spare'))).toBe(true);
  const room = ends.find((e) => e.end.label === 'Room')!;
  const r = drop(s, p, { ties: { [room.end.id]: 'empty' } });
  expect(r.session.tracks.find((t) => t.name === 'Room')).toMatchObject({ role: 'return', chain: [] });
  expect(r.report.rows.find((x) => x.label === 'Bass · send to Room')).toMatchObject({
    verdict: 'tied',
    reason: 'an empty one was made',
  });
});

test.each([
  ['replace', ['In', 'Duck']],
  ['append', ['Old', 'In', 'Duck']],
  ['before', ['In', 'Duck', 'Old']],
] as const)('onto a line, chain %s', (mode, names) => {
  const s = sessionWith([{ id: 'v', name: 'V', chain: [device('eq', {}, { name: 'Old' })] }]);
  const r = drop(s, preset(), { place: { kind: 'onto', track: 'v', chain: mode }, parts: ['chain'] });
  expect(r.session.tracks[0].chain.map((d) => d.name)).toEqual(names);
  expect(r.report.intact).toBe(true);
});

test('a send to a place that the line already sends to takes the preset’s values and says so', () => {
  const s = home();
  s.tracks[0].sends = [send('room', -30)];
  const r = drop(s, preset(), { place: { kind: 'onto', track: 'kick', chain: 'append' }, parts: ['sends'] });
  expect(r.session.tracks[0].sends.filter((x) => x.to === 'room').map((x) => x.level)).toEqual([-9]);
  expect(r.plan.facts.join()).toMatch(/A send of “Kick” to the same place takes the preset’s values/);
});

test('a mono preset on a stereo line, another sample rate: said as facts, nothing adapted for them', () => {
  const mono = home();
  mono.tracks[2].channels = 1;
  const p = createPreset(capture(mono, ['line']), { id: 'm', name: 'Mono' });
  const plan = planDrop({ ...sessionWith([{ id: 'v', name: 'V' }]), tempo: 96, sampleRate: 44100 }, p, {
    place: { kind: 'onto', track: 'v', chain: 'append' },
  });
  expect(plan.facts.join(' ')).toMatch(/mono track; “V” is stereo.*Saved at 48 kHz, dropped at 44\.1 kHz/);
  expect(plan.adaptations).toEqual([]);
});

test('an adaptation that is declined keeps the saved value and is intact', () => {
  const s = sessionWith([], { tempo: 132 });
  const [a] = planDrop(s, preset()).adaptations;
  const r = drop(s, preset(), { adapt: { [a.path]: false } });
  expect(dev(r.session.tracks.find((t) => t.name === 'Bass')!.chain[1]).params.release).toBe(312.5);
  expect(r.report.counts.adapted).toBe(0);
});

test('a plan that is made again with what it kept has the same ids', () => {
  const s = sessionWith([]);
  const a = planDrop(s, preset());
  const b = planDrop(s, preset(), { keep: a, ties: { [a.ends[0].end.id]: 'open' } });
  expect(b.drop).toBe(a.drop);
  expect(b.tracks[0].id).toBe(a.tracks[0].id);
  expect(b.tracks[0].chain.map((d) => d.id)).toEqual(a.tracks[0].chain.map((d) => d.id));
});

test('where a line was dropped from is written on it and on its devices', () => {
  const r = drop(sessionWith([]), preset());
  const t = r.session.tracks.find((x) => x.name === 'Bass')!;
  expect(t.origin).toMatchObject({ preset: 'duck', version: 1, local: 't1', drop: r.plan.drop });
  expect(t.chain.map((d) => d.origin?.local)).toEqual(['dev1', 'dev2']);
  // and is not part of what is saved again
  expect(capture(r.session, [t.id]).content.tracks[0]).not.toHaveProperty('origin');
});

test('a master’s chain arrives as a bus, since a session has one master', () => {
  const s = home();
  s.tracks.at(-1)!.chain = [device('compressor', { ratio: 2 })];
  const p = createPreset(capture(s, [s.tracks.at(-1)!.id]), { id: 'mc', name: 'Master chain' });
  const r = drop(sessionWith([]), p);
  expect(validateSession(r.session)).toEqual([]);
  expect(r.session.tracks.map((t) => [t.name, t.role])).toEqual([
    ['Master 2', 'bus'],
    ['Master', 'master'],
  ]);
  expect(r.report.intact).toBe(true);
});

test('verify reads the session: a renamed line or a tie that was cut afterwards is no longer explained', () => {
  const s = home();
  const p = preset();
  const r = drop(s, p);
  const cut = clone(r.session);
  const t = cut.tracks.find((x) => x.name === 'Bass 2')!;
  t.output = { kind: 'none' };
  t.name = 'Something else';
  expect(
    verifyDrop(cut, p, r.plan)
      .rows.filter((x) => x.verdict === 'unexplained')
      .map((x) => x.path),
  ).toEqual(['t1/name', 't1/output']);
});

test('what a preset needs is listed: devices, third parties, width, its highest frequency in use', () => {
  const s = home();
  s.tracks[2].chain.push(
    device('eq', { 'b8.on': true, 'b8.freq': 21000, 'b7.freq': 23000 }),
    device(
      'opaque',
      {},
      { foreign: { format: 'CLAP', identifier: 'some.thing', vendor: 'V', name: 'Thing', params: [] } },
    ),
  );
  expect(requirementsOf(capture(s, ['line']).content)).toEqual({
    devices: ['compressor', 'eq', 'opaque', 'reverb', 'trim'],
    foreign: ['some.thing'],
    channels: [2],
    topFrequency: 21000,
  });
});

test('differences: a send gone, a device moved in between, names, sides, keys', () => {
  const s = home();
  const t = s.tracks[2];
  t.sends = [{ ...t.sends[0], tap: 'post' }];
  t.chain = [
    t.chain[0],
    device('eq', {}, { name: 'New' }),
    { ...dev(t.chain[1]), key: { kind: 'own' }, state: 'bypassed' },
  ];
  t.channels = 1;
  t.output = { kind: 'track', track: s.tracks.at(-1)!.id };
  expect(
    diffPresets(preset().content, capture(s, ['line']).content).map(
      (d) => `${d.label}: ${d.from} → ${d.to} (${d.kind})`,
    ),
  ).toEqual([
    'Bass · width: stereo → mono (value)',
    'Bass · output: Low bus → Master (value)',
    'Bass · send to Room · tap: pre → post (value)',
    'Bass · send to Low bus: −20.0 dB → — (removed)',
    'Bass · New: — → New (added)',
    'Bass · Duck · state: on → bypassed (value)',
    'Bass · Duck · key: Kick → own (value)',
    'spare Low bus: Low bus → — (removed)',
  ]);
  expect(diffPresets(preset().content, preset().content)).toEqual([]);
});
