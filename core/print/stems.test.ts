import fc from 'fast-check';
import { makeDemo } from '../../demo/index.ts';
import {
  DEVICE_TYPES,
  inVersion,
  planPrint,
  printOutlook,
  printStems,
  readWav,
  resample,
  sources,
  stemsBy,
  walkSlots,
  type Depth,
  type Params,
  type PrintPlan,
  type Session,
  type Sound,
} from '../index.ts';
import { clipOf, db, dev, device, noise, peak, send, sessionWith } from '../../tests/support/build.ts';
import { anySession } from '../../tests/support/generate.ts';

const FS = 48000;
const BLOCK = 256;

/** Values of a device by chance. */
const anyParams = (type: string): fc.Arbitrary<Params> =>
  fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 12, maxLength: 12 }).map((at) => {
    const params: Params = { ...DEVICE_TYPES[type].defaults };
    DEVICE_TYPES[type].params.forEach((p, i) => {
      const share = at[i % at.length];
      if (i % 3 === 0 || p.kind === 'text') return;
      if (p.kind === 'switch') params[p.id] = share > 0.5;
      else if (p.kind === 'choice') {
        params[p.id] = p.choices![Math.floor(share * 0.999 * p.choices!.length)].id;
      } else params[p.id] = p.min! + share * (p.max! - p.min!);
    });
    return params;
  });

/** Both sides through a device, block by block, with what it hears as its key. */
function through(type: string, params: Params, sides: Float64Array[], key: Float64Array[]): Float64Array[] {
  const proc = DEVICE_TYPES[type].create(params, { sampleRate: FS, tempo: 120, maxBlock: BLOCK });
  const out = sides.map((x) => x.slice());
  for (let at = 0; at < out[0].length; at += BLOCK) {
    const part = (x: Float64Array) => x.subarray(at, at + BLOCK);
    const heard = key.map((x) => part(x).slice());
    proc.process(part(out[0]), part(out[1]), BLOCK, heard[0], heard[1]);
  }
  return out;
}

const SHARING = Object.values(DEVICE_TYPES).filter((d) => d.shares);
test.each(SHARING.map((d) => [d.type]))('shares of what goes through “%s” add up to the whole', (type) => {
  const wide = (seed: number) =>
    [0, 1].map((k) => Float64Array.from(noise(0.2, 0.3, seed + k)).subarray(0, 32 * BLOCK));
  const [a, b] = [wide(1), wide(11)];
  const whole = a.map((x, side) => x.map((v, i) => v + b[side][i]));
  fc.assert(
    fc.property(anyParams(type), (params) => {
      const { shares, sharesWith } = DEVICE_TYPES[type];
      fc.pre(sharesWith?.(params) ?? true);
      const hears = (own: Float64Array[]) => (shares === 'gain' ? whole : own);
      const all = through(type, params, whole, hears(whole));
      const parts = [a, b].map((x) => through(type, params, x, hears(x)));
      const rest = all.map((x, side) => x.map((v, i) => v - parts[0][side][i] - parts[1][side][i]));
      const loudest = Math.max(1, ...all.map((x) => peak(x)));
      expect(Math.max(...rest.map((x) => peak(x))) / loudest).toBeLessThan(1e-8);
    }),
    { numRuns: 25 },
  );
});

const soundsOf = (s: Session): Map<string, Sound> =>
  new Map(
    s.tracks
      .flatMap((t) => t.clips)
      .map((c, i) => [c.media, { l: noise(0.5, 0.3, i + 1), r: noise(0.5, 0.3, i + 50) }]),
  );
/** A plan of all stems at a depth, on a short stretch. */
const planOf = (s: Session, depth: Depth, over: Partial<PrintPlan> = {}): PrintPlan => ({
  ...planPrint(s),
  stems: stemsBy(s, 'line', depth),
  versions: [],
  range: { from: 0, to: 0.15 },
  tail: 0,
  ...over,
});
/** By an independent subtraction: the mix less all stems, dBFS of its peak. */
const subtracted = ({ mix, stems }: Awaited<ReturnType<typeof printStems>>) => {
  const rest = (side: 'l' | 'r') => mix![side].map((v, i) => stems.reduce((x, s) => x - s[side][i], v));
  return db(Math.max(peak(rest('l')), peak(rest('r'))));
};

test('stems of generated sessions add up: exactly where all is linear, under −120 dB with gains, and told where neither', async () => {
  const cases = fc.sample(anySession(), { numRuns: 200, seed: 77 });
  let [exact, close, told] = [0, 0, 0];
  for (const bare of cases) {
    const tracks = bare.tracks.map((t, i) =>
      t.role === 'audio' ? { ...t, clips: [clipOf(`m${i}`, 0.5)] } : t,
    );
    const s: Session = { ...bare, tracks };
    const plan = planOf(s, 'master');
    if (!plan.stems.length) continue;
    const outlook = printOutlook(s, plan);
    const printed = await printStems(s, plan, { sounds: soundsOf(s) });
    const { residual } = printed.proof!;
    const loudest = Math.max(1e-9, peak(printed.mix!.l), peak(printed.mix!.r));
    const loud = Math.max(0, db(loudest));
    // settings by chance can run over what a float of 32 bit holds
    if (!Number.isFinite(loud)) continue;
    if (outlook.undivided.length) {
      told++;
      // what is told is what an independent subtraction finds, as far as floats of 32 bit show it
      if (residual > loud - 90) expect(Math.abs(subtracted(printed) - residual)).toBeLessThan(6);
      continue;
    }
    const shared = s.tracks.filter((t) => t.role !== 'audio');
    const types = shared.flatMap((t) =>
      [...walkSlots(t.chain)].map((d) => (d.kind === 'rack' ? '' : d.type)),
    );
    const isLinear = types.every((type) => !type || DEVICE_TYPES[type].shares === 'linear');
    if (isLinear) exact++;
    else close++;
    expect(residual).toBeLessThan(loud - (isLinear ? 200 : 120));
    expect(subtracted(printed)).toBeLessThan(loud - 110);
  }
  // each kind was among them
  expect(Math.min(exact, close, told)).toBeGreaterThan(3);
}, 240000);

test('stems of the demo sessions add up, by bus and by line; what cannot be divided is told', async () => {
  for (const { session: s, media } of makeDemo().sessions) {
    const sounds = new Map<string, Sound>(
      [...media].map(([id, bytes]) => {
        const { channels, sampleRate } = readWav(bytes);
        const [l, r] = channels.map((c) => resample(c, sampleRate, s.sampleRate));
        return [id, { l, r: r ?? l }];
      }),
    );
    for (const stems of [planPrint(s).stems, stemsBy(s, 'line', 'buses')]) {
      const plan = planOf(s, 'buses', { stems, range: { from: 2, to: 3 } });
      const outlook = printOutlook(s, plan);
      expect([outlook.left, outlook.twice, outlook.problems, outlook.addsUp]).toEqual([
        [],
        [],
        [],
        'before the master',
      ]);
      const { proof } = await printStems(s, plan, { sounds });
      if (!outlook.undivided.length) expect(proof!.residual).toBeLessThan(-120);
    }
  }
}, 240000);

const voices = () =>
  sessionWith([
    {
      id: 'lead',
      name: 'Lead voice',
      clips: [clipOf('a', 0.5)],
      output: { kind: 'track', track: 'bus' },
      sends: [send('room', -6)],
    },
    {
      id: 'choir',
      name: 'Choir',
      clips: [clipOf('b', 0.5)],
      output: { kind: 'track', track: 'bus' },
      sends: [send('room', -9)],
      chain: [device('trim', { gain: -6 })],
    },
    { id: 'bass', name: 'Bass', clips: [clipOf('c', 0.5)], chain: [] },
    { id: 'off', name: 'Off', clips: [clipOf('d', 0.5)], mute: true },
    { id: 'bus', name: 'Voices', role: 'bus', chain: [device('compressor', { threshold: -30, ratio: 8 })] },
    // named like a value of its reverb: only what names something is another one in its double
    {
      id: 'room',
      name: 'Room',
      role: 'return',
      chain: [device('reverb', { type: 'room', decay: 0.4, mix: 100 })],
    },
  ]);

test.each([
  ['multiband', { bands: '4', 'b1.threshold': -40, 'b2.threshold': -40, 'b4.threshold': -50, mix: 80 }],
  ['limiter', { threshold: -24, lookahead: 3 }],
] as [string, Params][])(
  '%s on a bus: every stem gets the gain of the whole, so that they add up',
  async (type, params) => {
    const s = voices();
    const tracks = s.tracks.map((t) => (t.id === 'bus' ? { ...t, chain: [device(type, params)] } : t));
    const plan = planOf({ ...s, tracks }, 'buses', { stems: stemsBy(s, 'line', 'buses') });
    expect(printOutlook({ ...s, tracks }, plan).undivided).toEqual([]);
    const printed = await printStems({ ...s, tracks }, plan, { sounds: soundsOf(s) });
    expect(printed.proof!.residual).toBeLessThan(-200);
    // it works: without it the sum is another one
    const bare = await printStems(
      { ...s, tracks },
      { ...plan, off: [dev(tracks.find((t) => t.id === 'bus')!.chain[0]).id] },
      { sounds: soundsOf(s) },
    );
    expect(db(peak(printed.mix!.l.map((v, i) => v - bare.mix!.l[i])))).toBeGreaterThan(-40);
  },
);

test('a first plan: a stem for each bus, an instrumental where somebody sings; what is not printed is named with the reason', () => {
  const s = voices();
  const plan = planPrint(s);
  expect(plan.stems.map((x) => [x.name, x.lines])).toEqual([
    ['Voices', ['lead', 'choir']],
    ['Bass', ['bass']],
    ['Off', ['off']],
  ]);
  expect(plan.versions[0]).toMatchObject({ name: 'Instrumental', muted: ['lead', 'choir'] });
  const few = { ...plan, stems: [plan.stems[0], { ...plan.stems[0], id: 'again', lines: ['lead'] }] };
  const outlook = printOutlook(s, few);
  expect(outlook.left.map((x) => [x.name, x.why])).toEqual([
    ['Bass', 'in no stem'],
    ['Off', 'muted'],
  ]);
  expect([outlook.twice, outlook.hidden]).toEqual([['Lead voice'], []]);
  const unseen = { ...s, tracks: s.tracks.map((t) => ({ ...t, hidden: t.id === 'lead' || t.id === 'off' })) };
  expect(printOutlook(unseen, plan).hidden).toEqual(['Lead voice']);
  expect(
    printOutlook({ ...s, tracks: s.tracks.map((t) => ({ ...t, solo: t.id === 'bass' })) }, plan).left,
  ).toHaveLength(3);
});

test('how far a stem goes: source, chain, fader, returns, buses, master; a return can be a stem of its own', async () => {
  const s = voices();
  const sounds = soundsOf(s);
  const choir = async (depth: Depth, lines = ['choir']) => {
    const stems = [{ id: 's', name: 'S', lines, depth }];
    return (await printStems(s, planOf(s, depth, { stems }), { sounds })).stems[0].l;
  };
  const [source, chain, fader] = [await choir('source'), await choir('chain'), await choir('fader')];
  const own = sounds.get('b')!.l;
  expect(db(peak(source.map((v, i) => v - own[i])))).toBeLessThan(-120);
  expect(db(peak(chain.map((v, i) => v - own[i] * 10 ** (-6 / 20))))).toBeLessThan(-120);
  const same = (a: Float32Array, b: Float32Array) => db(peak(a.map((v, i) => v - b[i])));
  expect(same(fader, chain)).toBeLessThan(-120);
  // the room rings, the compressor works: each is heard from its depth on
  expect(same(await choir('returns'), fader)).toBeGreaterThan(-40);
  expect(same(await choir('buses'), await choir('returns'))).toBeGreaterThan(-40);
  // the room as a stem of its own: the others come without it, and all still adds up
  const stems = [
    ...stemsBy(s, 'line', 'buses'),
    { id: 'room', name: 'Room', lines: ['room'], depth: 'buses' as const },
  ];
  const apart = await printStems(s, planOf(s, 'buses', { stems }), { sounds });
  expect(apart.proof!.residual).toBeLessThan(-200);
  expect(db(peak(apart.stems.at(-1)!.l))).toBeGreaterThan(-40);
});

test('all files are equally long, end when everything is silent, and a version is the mix with other lines', async () => {
  const s = voices();
  const plan = { ...planPrint(s), tail: 30 };
  const out = await printStems(s, plan, { sounds: soundsOf(s) });
  const lengths = [out.mix!, ...out.versions, ...out.stems].map((x) => x.l.length);
  expect(new Set(lengths).size).toBe(1);
  // the song, what the room rings on (0.4 s to −60 dB), and the silence by which the end is known
  expect(lengths[0] / FS).toBeGreaterThan(0.9);
  expect(lengths[0] / FS).toBeLessThan(2.5);
  const bass = out.stems.find((x) => x.name === 'Bass')!;
  expect(db(peak(out.versions[0].l.map((v, i) => v - bass.l[i])))).toBeLessThan(-120);
  expect(out.proof!.bands).toHaveLength(10);
  expect(sources(s)).toHaveLength(4);
});

test('a version moves faders within their way; one that is wholly down stays silent', () => {
  const s = sessionWith(
    [-144, -144, 6, -140, -3].map((level, i) => ({ id: `l${i}`, name: `Line ${i}`, level })),
  );
  const levels = { l0: 20, l1: -3, l2: 20, l3: -20 };
  const version = inVersion(s, { id: 'v', name: 'Up', muted: ['l4'], levels });
  const lines = version.tracks.filter((t) => t.role !== 'master');
  expect(lines.map((t) => t.level)).toEqual([-144, -144, 12, -144, -3]);
  expect(lines.map((t) => t.mute)).toEqual([false, false, false, false, true]);
  expect(s.tracks[2].level).toBe(6);
});
