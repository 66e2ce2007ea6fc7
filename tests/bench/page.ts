import { backend, useBackend } from '../../core/devices/kernels/index.ts';
import { shareable } from '../../web/audio/shared.ts';
import type { Ask } from './worker.ts';
import {
  createDevice,
  createSend,
  createSession,
  createTrack,
  masterOf,
  renderNow,
  type Session,
} from '../../core/index.ts';

const NATIVE: Record<string, BiquadFilterType> = { highPass: 'highpass', bell: 'peaking' };

/**
 * The 32-track session of the bench, for this program's engine and, node for node, for the browser's native
 * ones.
 */
const SECONDS = 10;
const FS = 48000;
const EQ = [
  ['highPass', 90, 0, 0.71],
  ['bell', 350, -3, 1.1],
  ['bell', 3000, 2, 0.9],
  ['highShelf', 11000, 2, 0.71],
] as const;

function noise(seed: number, seconds = SECONDS): Float32Array<ArrayBuffer> {
  let s = seed;
  return Float32Array.from({ length: seconds * FS }, () => {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0;
    return 0.25 * (s / 2147483648 - 1);
  });
}
const [L, R] = [noise(1), noise(2)];

export function benchSession(seconds = SECONDS): Session {
  const s = createSession({ sampleRate: FS });
  const m = masterOf(s);
  const out = { kind: 'track' as const, track: m.id };
  const eq = () =>
    createDevice(
      'eq',
      Object.fromEntries(
        EQ.flatMap(([type, f, g, q], i) => [
          [`b${i + 1}.on`, true],
          [`b${i + 1}.type`, type],
          [`b${i + 1}.freq`, f],
          [`b${i + 1}.gain`, g],
          [`b${i + 1}.q`, q],
        ]),
      ),
    );
  const buses = [0, 1, 2, 3].map((i) => createTrack('bus', { name: `Bus ${i}`, output: out }));
  const returns = [
    createTrack('return', { output: out, chain: [createDevice('delay', { note: '1/4' })] }),
    createTrack('return', { output: out, chain: [createDevice('reverb', { decay: 1.8 })] }),
  ];
  m.chain = [eq(), createDevice('compressor', { threshold: -12, ratio: 2 })];
  const tracks = Array.from({ length: 32 }, (_, i) =>
    createTrack('audio', {
      name: `Line ${i}`,
      pan: (i % 9) * 10 - 40,
      level: -6,
      output: { kind: 'track', track: buses[i % 4].id },
      clips: [{ id: `c${i}`, media: 'x', start: 0, offset: 0, length: seconds, gain: 0 }],
      chain: [eq(), createDevice('compressor', { threshold: -28, ratio: 3, attack: 8, release: 120 })],
      sends: [createSend(returns[0].id, { level: -16 }), createSend(returns[1].id, { level: -12 })],
    }),
  );
  s.tracks = [...tracks, ...buses, ...returns, m];
  return s;
}

async function native(): Promise<number> {
  const c = new OfflineAudioContext(2, SECONDS * FS, FS);
  const buffer = c.createBuffer(2, SECONDS * FS, FS);
  buffer.copyToChannel(L, 0);
  buffer.copyToChannel(R, 1);
  const gain = (g: number) => new GainNode(c, { gain: g });
  const eq = (from: AudioNode) =>
    EQ.reduce<AudioNode>(
      (at, [type, f, g, q]) =>
        at.connect(
          new BiquadFilterNode(c, {
            type: NATIVE[type] ?? 'highshelf',
            frequency: f,
            gain: g,
            Q: q,
          }),
        ),
      from,
    );
  const comp = (threshold: number, ratio: number) =>
    new DynamicsCompressorNode(c, { threshold, ratio, attack: 0.008, release: 0.12, knee: 6 });
  const master = gain(1);
  eq(master).connect(comp(-12, 2)).connect(c.destination);
  const buses = [0, 1, 2, 3].map(() => {
    const g = gain(1);
    g.connect(master);
    return g;
  });
  const echo = new DelayNode(c, { delayTime: 0.5, maxDelayTime: 1 });
  const back = gain(0.25);
  const cut = new BiquadFilterNode(c, { type: 'lowpass', frequency: 6000 });
  echo.connect(cut).connect(back).connect(echo);
  cut.connect(master);
  const ir = c.createBuffer(2, Math.round(1.8 * FS), FS);
  for (const ch of [0, 1]) {
    ir.copyToChannel(
      noise(ch + 5)
        .slice(0, ir.length)
        .map((v, i) => v * Math.pow(10, (-3 * i) / ir.length)),
      ch,
    );
  }
  const room = new ConvolverNode(c, { buffer: ir });
  room.connect(master);
  for (let i = 0; i < 32; i++) {
    const src = new AudioBufferSourceNode(c, { buffer });
    const fader = gain(0.5);
    eq(src)
      .connect(comp(-28, 3))
      .connect(fader)
      .connect(new StereoPannerNode(c, { pan: ((i % 9) * 10 - 40) / 100 }))
      .connect(buses[i % 4]);
    fader.connect(gain(0.16)).connect(echo);
    fader.connect(gain(0.25)).connect(room);
    src.start();
  }
  const t = performance.now();
  await c.startRendering();
  return performance.now() - t;
}

function ours(which: 'simd' | 'plain'): number {
  useBackend(which);
  const sounds = new Map([['x', { l: L, r: R }]]);
  const s = benchSession();
  const t = performance.now();
  renderNow(s, { sounds, to: SECONDS });
  const ms = performance.now() - t;
  useBackend('simd');
  return ms;
}

/**
 * A minute and a half of the same in workers, as the application renders: songs are longer, but here every
 * round counts.
 */
const LONG = 90;
const longSound = { l: shareable(noise(3, LONG)), r: shareable(noise(4, LONG)) };
const startWorker = () => new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' });
const [first, second] = [startWorker(), startWorker()];
const ask = (w: Worker, what: 'alone' | 'shared', seconds: number) =>
  new Promise<number>((r) => {
    w.onmessage = (m: MessageEvent<number>) => r(m.data);
    w.postMessage({
      [what]: benchSession(seconds),
      options: { sounds: new Map([['x', longSound]]), to: seconds },
    } as unknown as Ask);
  });
/**
 * Half of it in one and half of it in another, with nothing to share: what two workers can reach on this
 * machine now.
 */
async function sideBySide(): Promise<number> {
  const t = performance.now();
  await Promise.all([first, second].map((w) => ask(w, 'alone', LONG / 2)));
  return performance.now() - t;
}

/** The same session with 64 more lines and devices that are inactive: they must cost nothing. */
function asleep(): number {
  const s = benchSession();
  const more = s.tracks
    .slice(0, 32)
    .flatMap((t) =>
      [0, 1].map((k) => ({ ...t, id: `${t.id}-${k}`, state: 'inactive' as const, clips: [], sends: [] })),
    );
  const lines = s.tracks.map((t) => ({
    ...t,
    chain: [
      ...t.chain,
      { ...createDevice('reverb'), state: 'inactive' as const },
      { ...createDevice('multiband'), state: 'inactive' as const },
    ],
  }));
  const t = performance.now();
  renderNow({ ...s, tracks: [...more, ...lines] }, { sounds: new Map([['x', { l: L, r: R }]]), to: SECONDS });
  return performance.now() - t;
}

/** One second of sound, then silence, against sound all along: denormals would show here. */
function silence(): [number, number] {
  const run = (l: Float32Array) => {
    const t = performance.now();
    renderNow(benchSession(1), { sounds: new Map([['x', { l, r: l }]]), to: SECONDS });
    return performance.now() - t;
  };
  const full = () => {
    const t = performance.now();
    renderNow(benchSession(), { sounds: new Map([['x', { l: L, r: R }]]), to: SECONDS });
    return performance.now() - t;
  };
  return [run(L), full()];
}

/** renders of ours in the time of one native one */
const SEVERAL = 8;
const idle = () => new Promise((r) => setTimeout(r, 50));
(window as unknown as Record<string, unknown>).bench = async (rounds: number) => {
  const out = {
    backend: backend(),
    plain: [] as number[],
    alone: [] as number[],
    two: [] as number[],
    beside: [] as number[],
    awake: [] as number[],
    asleep: [] as number[],
    ours: [] as number[],
    native: [] as number[],
    silent: [] as number[],
    sounding: [] as number[],
    seconds: SECONDS,
  };
  ours('plain');
  ours('simd');
  await ask(first, 'alone', LONG);
  await ask(first, 'shared', LONG);
  await sideBySide();
  for (let i = 0; i < rounds; i++) {
    // about as long as the native ones take, and right before them: what disturbs the one disturbs the other
    const several = Array.from({ length: SEVERAL }, () => ours('simd'));
    out.ours.push(several.reduce((sum, ms) => sum + ms, 0) / SEVERAL);
    out.native.push(await native());
    await idle();
    if (i % 2 === 0) {
      out.alone.push(await ask(first, 'alone', LONG));
      await idle();
      out.two.push(await ask(first, 'shared', LONG));
      await idle();
      out.beside.push(await sideBySide());
    }
    await idle();
    out.plain.push(ours('plain'));
    await idle();
    out.awake.push(ours('simd'));
    out.asleep.push(asleep());
    await idle();
    const [a, b] = silence();
    out.silent.push(a);
    out.sounding.push(b);
    await idle();
  }
  return out;
};
