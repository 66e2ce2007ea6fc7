/**
 * Our processing against independent programs from the registries, on the same sound: node-web-audio-api
 * 1.0.9 (an implementation of the W3C Web Audio API in Rust) for filters, delay and panning, and
 * sox 14.4 (SoX Resampler, Debian's package) for the resampler.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  BiquadFilterNode,
  DelayNode,
  OfflineAudioContext,
  StereoPannerNode,
  type AudioNode,
} from 'node-web-audio-api';
import { panGains, renderNow, resample, writeWav, type Device } from '../../core/index.ts';
import { both, clipOf, db, device, difference, noise, rms, sessionWith } from '../support/build.ts';

const FS = 48000;
// a copy with a buffer of its own, as the other program's types ask for
const x = new Float32Array(noise(0.5, 0.5));

async function theirs(build: (c: OfflineAudioContext) => AudioNode[]): Promise<Float32Array[]> {
  const c = new OfflineAudioContext(2, x.length, FS);
  const b = c.createBuffer(2, x.length, FS);
  b.copyToChannel(x, 0);
  b.copyToChannel(x, 1);
  const src = c.createBufferSource();
  src.buffer = b;
  build(c)
    .reduce<AudioNode>((at, n) => at.connect(n), src)
    .connect(c.destination);
  src.start();
  const out = await c.startRendering();
  return [out.getChannelData(0), out.getChannelData(1)];
}
const ours = (chain: Device[]) =>
  renderNow(sessionWith([{ id: 'a', clips: [clipOf()], chain }]), {
    sounds: new Map([['x', both(x)]]),
    to: 0.5,
  }).master;
/** The first revision of the EQ: the cookbook's sections, as other programs have them. */
const COOKBOOK = { revision: 1 };
const q = (n: number) => 20 * Math.log10(n);

test.each<[string, BiquadFilterType, Record<string, number | string>, number, number, number]>([
  ['bell', 'peaking', { 'b4.freq': 800, 'b4.gain': 9, 'b4.q': 2 }, 800, 9, 2],
  ['bell, cut', 'peaking', { 'b4.freq': 6000, 'b4.gain': -14, 'b4.q': 0.6 }, 6000, -14, 0.6],
  [
    'low shelf',
    'lowshelf',
    { 'b4.type': 'lowShelf', 'b4.freq': 150, 'b4.gain': 7, 'b4.q': Math.SQRT1_2 },
    150,
    7,
    0,
  ],
  [
    'high shelf',
    'highshelf',
    { 'b4.type': 'highShelf', 'b4.freq': 5000, 'b4.gain': -8, 'b4.q': Math.SQRT1_2 },
    5000,
    -8,
    0,
  ],
  ['notch', 'notch', { 'b4.type': 'notch', 'b4.freq': 1200, 'b4.q': 5 }, 1200, 0, 5],
  ['band-pass', 'bandpass', { 'b4.type': 'bandPass', 'b4.freq': 2400, 'b4.q': 1.5 }, 2400, 0, 1.5],
  [
    'low-pass',
    'lowpass',
    { 'b4.type': 'lowPass', 'b4.freq': 3000, 'b4.q': 1.2, 'b4.slope': '12' },
    3000,
    0,
    q(1.2),
  ],
  [
    'high-pass',
    'highpass',
    { 'b4.type': 'highPass', 'b4.freq': 200, 'b4.q': 0.9, 'b4.slope': '12' },
    200,
    0,
    q(0.9),
  ],
])('EQ %s: the sound is the other program’s within −100 dB', async (_, type, params, frequency, gain, Q) => {
  const [l] = await theirs((c) => [new BiquadFilterNode(c, { type, frequency, gain, Q })]);
  const [mine] = ours([device('eq', { 'b4.on': true, ...params }, COOKBOOK)]);
  expect(db(difference(mine, l) / rms(l))).toBeLessThan(-90);
});

test('a chain of four bands in one device is four filters in a row', async () => {
  const bands: [BiquadFilterType, string, number, number, number, number][] = [
    ['highpass', 'highPass', 90, 0, q(Math.SQRT1_2), Math.SQRT1_2],
    ['peaking', 'bell', 350, -3, 1.1, 1.1],
    ['peaking', 'bell', 3000, 2, 0.9, 0.9],
    ['highshelf', 'highShelf', 11000, 2, 0, Math.SQRT1_2],
  ];
  const [l] = await theirs((c) =>
    bands.map(([type, , frequency, gain, Q]) => new BiquadFilterNode(c, { type, frequency, gain, Q })),
  );
  const [mine] = ours([
    device(
      'eq',
      Object.fromEntries(
        bands.flatMap(([, type, f, g, , mq], i) => [
          [`b${i + 1}.on`, true],
          [`b${i + 1}.type`, type],
          [`b${i + 1}.freq`, f],
          [`b${i + 1}.gain`, g],
          [`b${i + 1}.q`, mq],
          [`b${i + 1}.slope`, '12'],
        ]),
      ),
      COOKBOOK,
    ),
  ]);
  expect(db(difference(mine, l) / rms(l))).toBeLessThan(-90);
});

test('a fully wet delay without feedback is a delay', async () => {
  const [l] = await theirs((c) => [new DelayNode(c, { delayTime: 0.125, maxDelayTime: 1 })]);
  const [mine] = ours([
    device('delay', { mode: 'ms', time: 125, feedback: 0, mix: 100, lowCut: 16, highCut: 24000 }),
  ]);
  // the gentle cuts of the loop are always in: compare where they do nothing, by level, and by place
  expect(db(rms(mine, 7000) / rms(l, 7000))).toBeCloseTo(0, 0);
  const corr = (lag: number) => {
    let s = 0;
    for (let i = 8000; i < 20000; i++) s += mine[i + lag] * l[i];
    return s;
  };
  const best = [-3, -2, -1, 0, 1, 2, 3].sort((a, b) => corr(b) - corr(a))[0];
  expect(best).toBe(0);
});

test.each([-100, -50, 0, 30, 100])(
  'the pan law of a mono source at %i is the equal-power law of the Web Audio API',
  async (pan) => {
    const c = new OfflineAudioContext(2, 128, FS);
    const b = c.createBuffer(1, 128, FS);
    b.copyToChannel(new Float32Array(128).fill(1), 0);
    const src = c.createBufferSource();
    src.buffer = b;
    src.connect(new StereoPannerNode(c, { pan: pan / 100 })).connect(c.destination);
    src.start();
    const out = await c.startRendering();
    const [l, r] = panGains(pan, 1, -3);
    expect(out.getChannelData(0)[64]).toBeCloseTo(l, 3); // theirs is a table
    expect(out.getChannelData(1)[64]).toBeCloseTo(r, 3);
  },
);

test.each([
  [44100, 48000],
  [48000, 44100],
])('resampling noise from %i to %i Hz agrees with sox in the pass band', (from, to) => {
  const dir = mkdtempSync(join(tmpdir(), 'rope-shelf-resample-'));
  // noise without its top octave, so that the two programs' different roll-offs do not count
  const s = sessionWith(
    [
      {
        id: 'a',
        clips: [clipOf()],
        chain: [device('eq', { 'b8.on': true, 'b8.freq': 9000, 'b8.slope': '48' }, COOKBOOK)],
      },
    ],
    { sampleRate: from },
  );
  const [sound] = renderNow(s, { sounds: new Map([['x', both(noise(0.5, 0.5, 3, from))]]), to: 0.5 }).master;
  writeFileSync(join(dir, 'in.wav'), writeWav([sound], from, 'float'));
  const raw = execFileSync('sox', [join(dir, 'in.wav'), '-t', 'f32', '-', 'rate', '-v', String(to)], {
    stdio: ['ignore', 'pipe', 'ignore'],
  });
  rmSync(dir, { recursive: true });
  const other = new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length));
  const mine = resample(sound, from, to);
  const [a, b] = [2000, mine.length - 2000];
  expect(db(difference(mine.slice(a, b), other.slice(a, b)) / rms(mine, a, b))).toBeLessThan(-80);
});
