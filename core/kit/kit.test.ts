/**
 * Laying out, trying, levelling and printing instruments with several outputs, each checked by what is heard.
 */
import fc from 'fast-check';
import {
  applyLayout,
  applyPlayer,
  createDevice,
  devicesIn,
  instrumentAt,
  lineCheck,
  listenersIn,
  measureOutputs,
  planLayout,
  planPlayer,
  playerRows,
  printInstrument,
  renderNow,
  sameAddress,
  setTrims,
  takersOf,
  tapTest,
  unprint,
  validateSession,
  withPrint,
  type PlayerRow,
  type Session,
  type TapVerdict,
  type Track,
} from '../index.ts';
import { db, device, difference, kitSession, peak } from '../../tests/support/build.ts';

const sounds = new Map();
const names = (s: Session) =>
  takersOf(s, 'k').map(
    (t) => `${t.name}: ${t.input.kind === 'deviceOutput' ? `${t.input.output} ${t.input.take}` : ''}`,
  );
const outs = (s: Session) => Object.fromEntries(instrumentAt(s, 'k').parts.map((p) => [p.name, p.out]));
const track = (s: Session, name: string): Track => s.tracks.find((t) => t.name === name)!;

describe('laying out', () => {
  test('a kit in one step: drums that belong together share a line, mono parts take their half, everything goes to the bus and only there, nothing stays on the main output', async () => {
    const s = kitSession();
    const plan = planLayout(s, 'k');
    expect(plan.problems).toEqual([]);
    const x = applyLayout(s, plan);
    expect(validateSession(x)).toEqual([]);
    expect(names(x)).toEqual([
      'Kick: 1 left',
      'Snare: 2 left',
      'Clap: 3 left',
      'Hats: 4 left',
      'Low tom: 5 left',
      'Mid tom: 6 left',
      'High tom: 7 left',
      'Crash: 8 stereo',
      'Ride: 9 left',
      'Percussion: 10 stereo',
      'Overheads: 11 stereo',
      'Room: 12 stereo',
    ]);
    expect(Object.values(outs(x))).not.toContain('main');
    const bus = track(x, 'Deck kit bus');
    const toms = track(x, 'Toms');
    for (const t of [...takersOf(x, 'k'), track(x, 'Deck kit')]) {
      expect(t.output).toEqual({ kind: 'track', track: /tom$/.test(t.name) ? toms.id : bus.id });
    }
    expect(toms.output).toEqual({ kind: 'track', track: bus.id });
    const r = await tapTest(x, 'k');
    expect(
      r.rows.filter((y) => !['right', 'low'].includes(y.verdict)).map((y) => [y.name, y.verdict, y.text]),
    ).toEqual([]);
    expect(s).toEqual(kitSession());
  });

  test('a second run changes nothing; adding, joining and leaving touch only what was asked; lines keep their devices', () => {
    const first = applyLayout(kitSession(), planLayout(kitSession(), 'k'));
    const eq = createDevice('eq', {}, { id: 'eq' });
    const s = { ...first, tracks: first.tracks.map((t) => (t.name === 'Clap' ? { ...t, chain: [eq] } : t)) };
    const again = planLayout(s, 'k');
    expect(again.rows.map((r) => r.change).filter(Boolean)).toEqual([]);
    expect(applyLayout(s, again)).toEqual(s);
    // the clap joins the snare, the side stick gets a line of its own, toms stay where they are
    const plan = planLayout(s, 'k', {
      rows: { p4: { mode: 'with', with: 'p2' }, p3: { mode: 'own', with: '', name: 'Stick', width: 1 } },
    });
    expect(plan.rows.filter((r) => r.change).map((r) => [r.part.name, r.change])).toEqual([
      ['Side stick', '2 left → 3 left, new line “Stick”'],
      ['Clap', '3 left → 2 left'],
    ]);
    const x = applyLayout(s, plan);
    expect(validateSession(x)).toEqual([]);
    // the line of the clap had a device: it stays, asleep; nothing else moved
    expect(track(x, 'Clap')).toMatchObject({ state: 'inactive', input: { kind: 'none' }, chain: [eq] });
    for (const n of ['Kick', 'Hats', 'Room', 'Deck kit bus']) expect(track(x, n)).toBe(track(s, n));
    const anew = planLayout(x, 'k', { renumber: true, skip: [1] });
    expect(anew.rows.map((r) => r.out)).not.toContain('1L');
    expect(new Set(takersOf(applyLayout(x, anew), 'k').map((t) => t.id))).toEqual(
      new Set(takersOf(x, 'k').map((t) => t.id)),
    );
  });

  test('another name renames the bus; a bus between that would close a loop is refused by name', () => {
    const first = applyLayout(kitSession(), planLayout(kitSession(), 'k'));
    const renamed = applyLayout(first, planLayout(first, 'k', { bus: 'Drums' }));
    expect(track(renamed, 'Drums').id).toBe(track(first, 'Deck kit bus').id);
    expect(renamed.tracks).toHaveLength(first.tracks.length);
    const above = {
      ...track(first, 'Toms'),
      id: 'above',
      name: 'Band',
      output: { kind: 'track' as const, track: 'master' },
    };
    const under = {
      ...first,
      tracks: [
        ...first.tracks
          .slice(0, -1)
          .map((t) =>
            t.name === 'Deck kit bus' ? { ...t, output: { kind: 'track' as const, track: 'above' } } : t,
          ),
        above,
        first.tracks.at(-1)!,
      ],
    };
    expect(() => applyLayout(under, planLayout(under, 'k', { rows: { p1: { sub: 'Band' } } }))).toThrow(
      /loop.*“Band”/,
    );
  });

  test('sixteen mono outputs are eight stereo ones: halves share a pair, and what does not fit is refused with the count', () => {
    const all = Object.fromEntries(
      instrumentAt(kitSession(), 'k').parts.map((p) => [
        p.id,
        { mode: 'own' as const, with: '', width: 1 as const, name: p.name, sub: '' },
      ]),
    );
    const tight = planLayout(kitSession(), 'k', { rows: all, halves: true });
    expect([tight.used, tight.problems]).toEqual([9, []]);
    expect(tight.rows.slice(0, 4).map((r) => r.out)).toEqual(['1L', '1R', '2L', '2R']);
    const x = applyLayout(kitSession(), tight);
    const taps = takersOf(x, 'k').map((t) => `${t.id}:in`);
    expect(new Set(takersOf(x, 'k').map((t) => t.channels))).toEqual(new Set([1]));
    expect(renderNow(x, { sounds, to: 0.1, taps })[taps[0]][0].length).toBe(4800);
    const wide = planLayout(kitSession(), 'k', {
      rows: Object.fromEntries(Object.entries(all).map(([id, c]) => [id, { ...c, width: 2 as const }])),
      bus: null,
    });
    expect(wide.problems[0]).toContain('18 stereo and 0 mono lines need 18 stereo outputs; “Kit” has 16');
    expect(() => applyLayout(kitSession(), wide)).toThrow('18 stereo');
    expect(() => planLayout(kitSession(), 'nobody')).toThrow('not in this session');
  });

  test('a parts player by a table: free channels, a second player on the next port when there are more than sixteen parts, inserts, MIDI lines; run again it keeps values and lines', () => {
    const rows = (n: number): PlayerRow[] =>
      Array.from({ length: n }, (_, i) => ({
        name: `Voice ${i + 1}`,
        sound: i % 2 ? 'choir' : 'strings',
        port: '',
        channel: 0,
        width: 2,
        colour: 'heather',
        insert: i ? '' : 'eq',
      }));
    const s = kitSession();
    const plan = planPlayer(s, rows(18), { name: 'Shanty choir', midi: true });
    expect(plan.players.map((p) => [p.name, p.port])).toEqual([
      ['Shanty choir', 'B'],
      ['Shanty choir 2', 'A'],
    ]);
    expect(plan.rows.slice(14).map((r) => `${r.player}${r.part}${r.port}${r.channel}`)).toEqual([
      '0p15B15',
      '0p16B16',
      '1p1A1',
      '1p2A2',
    ]);
    const x = applyPlayer(s, plan);
    expect(validateSession(x)).toEqual([]);
    const heard = listenersIn(x.tracks);
    expect(heard.filter((a, i) => heard.findIndex((b) => sameAddress(a, b)) !== i)).toEqual([]);
    expect(track(x, 'Voice 1').chain.map((d) => d.name)).toEqual(['EQ']);
    expect(x.tracks.filter((t) => t.role === 'midi' && /notes$/.test(t.name))).toHaveLength(18);
    const players = plan.players.map((p) => track(x, p.name).id);
    const back = playerRows(x, players);
    expect(back.map((r) => r.name)).toEqual(rows(18).map((r) => r.name));
    expect(applyPlayer(x, planPlayer(x, back, { at: players, midi: true }))).toEqual(x);
    expect(planPlayer(s, rows(64)).problems[0]).toContain('free channels');
    expect(planPlayer(s, [{ ...rows(1)[0], port: 'A', channel: 10 }]).rows[0].channel).not.toBe(10);
  });
});

type Fault = 'swap' | 'shift' | 'main' | 'silent' | 'double' | 'hot' | 'soft';
/** Sixteen parts on sixteen lines of their names, on outputs by chance; then one fault. */
function laid(order: number[], fault: Fault, n: number): { s: Session; wanted: Map<string, TapVerdict> } {
  const s = kitSession();
  const kit = devicesIn(track(s, 'Deck kit').chain)[0];
  const parts = instrumentAt(s, 'k').parts.filter((p) => p.kind === 'part');
  Object.assign(
    kit.params,
    Object.fromEntries(parts.map((p, i) => [p.outParam, String(order[i] + 1)])),
    { 'oh.level': -60, 'room.level': -60 },
    Object.fromEntries(parts.map((p) => [`${p.id}.level`, 0])),
    Object.fromEntries(parts.map((p) => [`${p.id}.pan`, 0])),
  );
  const lines = parts.map((p, i): Track => ({
    ...track(s, 'Deck kit'),
    id: `line-${p.id}`,
    name: p.name,
    role: 'audio',
    chain: [],
    input: { kind: 'deviceOutput', track: 'kit', slot: 'k', output: order[i] + 1, take: 'stereo' },
  }));
  s.tracks.splice(2, 0, ...lines);
  const a = parts[n % 16];
  const at = (pair: number) => parts[order.indexOf(pair)];
  const wanted = new Map<string, TapVerdict>(parts.map((p) => [p.name, 'right']));
  const out = (p: typeof a) => kit.params[p.outParam];
  if (fault === 'swap') {
    const b = parts[(n + 5) % 16];
    [kit.params[a.outParam], kit.params[b.outParam]] = [out(b), out(a)];
    wanted.set(a.name, 'swapped').set(b.name, 'swapped');
  }
  // every part from one output on comes out one further, the last one falls off the end
  if (fault === 'shift') {
    const from = order[n % 16] % 15;
    for (let pair = 15; pair >= from; pair--) {
      const p = at(pair);
      kit.params[p.outParam] = pair === 15 ? 'main' : String(pair + 2);
      wanted.set(p.name, pair === 15 ? 'main' : 'shifted');
    }
  }
  if (fault === 'main') {
    kit.params[a.outParam] = 'main';
    wanted.set(a.name, 'main');
  }
  if (fault === 'silent') {
    kit.params[`${a.id}.level`] = -60;
    kit.params[`t${order[n % 16] + 1}`] = -36;
    wanted.set(a.name, 'silent');
  }
  if (fault === 'double') {
    const b = parts[(n + 3) % 16];
    const line = s.tracks.find((t) => t.id === `line-${b.id}`)!;
    line.input = { ...line.input, output: order[n % 16] + 1 } as Track['input'];
    wanted.set(a.name, 'doubled').set(b.name, 'silent');
  }
  if (fault === 'hot') {
    kit.params[`t${order[n % 16] + 1}`] = 18;
    wanted.set(a.name, 'clips');
  }
  if (fault === 'soft') {
    kit.params[`t${order[n % 16] + 1}`] = -24;
    wanted.set(a.name, 'low');
  }
  return { s, wanted };
}

test.each<Fault>(['swap', 'shift', 'main', 'silent', 'double', 'hot', 'soft'])(
  'tap test against ground truth: sixteen parts on random outputs, %s: every verdict right',
  async (fault) => {
    await fc.assert(
      fc.asyncProperty(
        fc.shuffledSubarray(
          Array.from({ length: 16 }, (_, i) => i),
          { minLength: 16 },
        ),
        fc.nat(15),
        async (order, n) => {
          const { s, wanted } = laid(order, fault, n);
          const r = await tapTest(s, 'k');
          expect(r.lines).toHaveLength(17);
          expect(r.rows.map((x) => [x.name, x.verdict])).toEqual([...wanted]);
          // what is heard at the master is what landed, wherever that is
          for (const x of r.rows) {
            if (x.verdict === 'right') {
              expect(Math.abs(x.cells[r.master].peak - x.cells[x.landed!].peak)).toBeLessThan(0.1);
            }
          }
        },
      ),
      { numRuns: 2 },
    );
  },
  60000,
);

test('a mono line that takes the wrong half of a pair hears nothing; overheads and room are expected to hear everything', async () => {
  const s = applyLayout(kitSession(), planLayout(kitSession(), 'k'));
  const kick = track(s, 'Kick');
  kick.input = { ...kick.input, take: 'right' } as Track['input'];
  const r = await tapTest(s, 'k');
  expect(r.rows.find((x) => x.name === 'Kick')).toMatchObject({ verdict: 'silent' });
  expect(r.lines.filter((l) => l.bleed).map((l) => l.name)).toEqual(['Overheads', 'Room']);
  expect(r.rows.find((x) => x.name === 'Crash')!.cells[track(s, 'Overheads').id].peak).toBeGreaterThan(-40);
});

test('the tap test says what its names and halves say: no tick for another part’s line, half a pair, or bleed alone', async () => {
  const laidOut = () => structuredClone(applyLayout(kitSession(), planLayout(kitSession(), 'k')));
  const verdict = async (change: (s: Session) => void, part: string) => {
    const s = laidOut();
    change(s);
    return (await tapTest(s, 'k')).rows.find((r) => r.name === part)!;
  };
  const kitOf = (s: Session) => devicesIn(track(s, 'Deck kit').chain)[0];
  const outOf = (s: Session, part: string) => {
    const p = instrumentAt(s, 'k').parts.find((x) => x.name === part)!;
    return p.outParam;
  };
  const strange = await verdict((s) => {
    kitOf(s).params[outOf(s, 'Shaker')] = kitOf(s).params[outOf(s, 'Kick')];
    s.tracks = s.tracks.filter((t) => t.name !== 'Percussion');
  }, 'Shaker');
  expect([strange.verdict, strange.text]).toEqual(['wrong', 'on “Kick”, which has another part’s name']);
  const unnamed = await verdict((s) => void (track(s, 'Kick').name = 'Somebody'), 'Kick');
  expect([unnamed.verdict, unnamed.text]).toEqual([
    'unnamed',
    expect.stringMatching(/^on “Somebody”, .* its name says nothing of it$/),
  ]);
  const half = await verdict((s) => {
    const crash = track(s, 'Crash');
    crash.input = { ...crash.input, take: 'left' } as Track['input'];
  }, 'Crash');
  expect([half.verdict, half.text]).toEqual(['half', 'only its left half, on “Crash”']);
  const bleed = await verdict((s) => {
    const kick = track(s, 'Kick');
    kick.input = { ...kick.input, take: 'right' } as Track['input'];
  }, 'Kick');
  expect(bleed.text).toMatch(/^nothing arrives on “Kick”; only its bleed on “Overheads” \(−\d/);
});

test('outputs are brought to a working level before the faders, and the way back is one step', () => {
  const s = applyLayout(kitSession(), planLayout(kitSession(), 'k'));
  const rows = measureOutputs(s, 'k');
  expect(rows.find((r) => r.parts.includes('Kick'))!.pair).toBe(1);
  const x = setTrims(s, 'k', rows);
  for (const r of measureOutputs(x, 'k')) expect(r.peak).toBeCloseTo(-12, 0);
  expect(setTrims(x, 'k', null)).toEqual(s);
});

test('a print sounds as the instrument did, line by line; restored, the session is what it was and later changes stay', async () => {
  const s = applyLayout(kitSession(), planLayout(kitSession(), 'k', { rows: { p16: { mode: 'main' } } }));
  s.tracks = s.tracks.map((t) =>
    t.name === 'Snare'
      ? { ...t, level: -3, chain: [device('compressor', { threshold: -30 }, { id: 'c' })] }
      : t,
  );
  const shares: number[] = [];
  const lines = await printInstrument(s, 'k', {
    sounds,
    onProgress: (share) => shares.push(share),
  });
  expect(lines.map((l) => l.name)[0]).toBe('Deck kit, printed');
  expect(lines).toHaveLength(takersOf(s, 'k').length + 1);
  // told ten times a second at most, so that a quick print may say nothing; what it says only grows
  expect(shares.every((v, i) => v >= (shares[i - 1] ?? 0) && v <= 1)).toBe(true);
  const media = lines.map((l, i) => ({
    track: l.track,
    ref: {
      id: i.toString(16).padStart(64, '0'),
      name: l.name,
      sampleRate: 48000,
      channels: 2 as const,
      frames: l.l.length,
    },
  }));
  const printed = withPrint(s, 'k', media);
  expect(validateSession(printed)).toEqual([]);
  // the notes wait for the way back: nothing is wrong with them
  expect(lineCheck(printed).map((f) => f.rule)).not.toContain('midi-unheard');
  const loaded = new Map(lines.map((l, i) => [media[i].ref.id, { l: l.l, r: l.r }]));
  const [a, b] = [renderNow(s, { sounds, to: 3 }), renderNow(printed, { sounds: loaded, to: 3 })].map(
    (r) => r.master,
  );
  expect(peak(a[0])).toBeGreaterThan(0.05);
  expect(db(Math.max(difference(a[0], b[0]), difference(a[1], b[1])) / peak(a[0]))).toBeLessThan(-120);
  expect(unprint(printed)).toEqual(s);
  const later = {
    ...printed,
    tracks: printed.tracks.map((t) => (t.name === 'Kick' ? { ...t, level: -7 } : t)),
  };
  expect(track(unprint(later), 'Kick')).toEqual({ ...track(s, 'Kick'), level: -7 });
  const silent = { ...s, tracks: s.tracks.filter((t) => t.role !== 'midi') };
  await expect(printInstrument(silent, 'k', { sounds })).rejects.toThrow('Nothing plays “Kit”');
});
