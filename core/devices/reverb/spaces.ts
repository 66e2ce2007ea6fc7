import type { RoomType } from './network.ts';

/** channels of the network */
export const CHANNELS = 16;

interface Space {
  /** ms, the shortest and the longest of the lines that the tail goes round in */
  lines: [number, number];
  /** ms, the spans of the three stages that spread a sound before it enters the lines */
  spread: [number, number, number];
  /** ms, the span of the delays inside the scattering matrix */
  scatter: number;
  /** how loud what comes out of the spreading is beside the lines */
  direct: number;
  /** m, the walls that the first reflections come from; null: a plate has none */
  walls: [number, number, number] | null;
  /** the first reflections' share of what the spreading lets through */
  early: number;
}

/**
 * Found by trying some thousand sets of lengths, judged by echo density, by how much the late spectrum deviates and by
 * how little the tail repeats itself.
 */
const SPACES: Record<RoomType, Space> = {
  room: {
    lines: [6.5, 72.7],
    spread: [5, 6.5, 2.3],
    scatter: 5.5,
    direct: 0.69,
    walls: [5.6, 4.3, 2.7],
    early: 0.3,
  },
  hall: {
    lines: [27.4, 143.3],
    spread: [10.2, 35.7, 4],
    scatter: 9.6,
    direct: 0.87,
    walls: [27, 19, 11],
    early: 0.4,
  },
  plate: { lines: [8.3, 63.4], spread: [7.4, 11.5, 5.1], scatter: 4.7, direct: 0.64, walls: null, early: 0 },
  chamber: {
    lines: [10.8, 100],
    spread: [9.9, 17.3, 2.4],
    scatter: 7.1,
    direct: 0.71,
    walls: [7.4, 5.2, 3.9],
    early: 0.3,
  },
};

/** A delay in samples with its gain. */
export interface Tap {
  at: number;
  gain: number;
}

/** A space at a sample rate: all lengths in samples. */
export interface Lengths {
  spread: number[][];
  lines: number[];
  scatter: number[];
  /** first reflections of the left and the right side */
  taps: [Tap[], Tap[]];
  direct: number;
}

/** How many of the first reflections are heard one by one. */
export const TAPS = 12;
const SPEED_OF_SOUND = 343;
const GOLDEN = 0.6180339887498949;
const frac = (x: number) => x - Math.floor(x);

/** One delay of its own for each channel, spread over a span in an order that has nothing to do with theirs. */
function spreadOver(span: number, step: number, seed: number): number[] {
  return Array.from(
    { length: CHANNELS },
    (_, k) => (span * (((k * step) % CHANNELS) + frac((k + 1) * GOLDEN * seed))) / CHANNELS,
  );
}

/** Lengths in equal ratios, each at a place of its own in its step, so that no two echoes keep falling together. */
function ratios([shortest, longest]: [number, number]): number[] {
  return Array.from({ length: CHANNELS }, (_, k) => {
    const share = (k + frac((k + 1) * GOLDEN)) / CHANNELS;
    return shortest * Math.exp(Math.log(longest / shortest) * share);
  });
}

export function lengthsOf(type: RoomType, fs: number, least: number): Lengths {
  const space = SPACES[type];
  const samples = (ms: number[]) => ms.map((x) => Math.max(least, Math.round((x * fs) / 1000)));
  const [a, b, c] = space.spread;
  return {
    spread: [spreadOver(a, 5, 1.7), spreadOver(b, 11, 2.3), spreadOver(c, 3, 0.9)].map(samples),
    lines: samples(ratios(space.lines)),
    scatter: samples(spreadOver(space.scatter, 7, 3.1)),
    taps: [reflections(space, 1, fs), reflections(space, -1, fs)],
    direct: space.direct,
  };
}

/**
 * The first reflections of a room with six walls by its mirror images (J. B. Allen and D. A. Berkley, "Image method for
 * efficiently simulating small-room acoustics", JASA 65(4), 1979; from memory), for a voice a little off the middle and
 * two ears that do not stand alike; times after the direct sound, gains against each other.
 */
function reflections(space: Space, side: 1 | -1, fs: number): Tap[] {
  if (!space.walls) return [];
  const [x, y, z] = space.walls;
  const voice = [0.46 * x, 0.31 * y, 0.42 * z];
  const ear = [(0.53 + 0.07 * side) * x, (0.68 + 0.03 * side) * y, 0.47 * z];
  const gone = Math.hypot(...voice.map((v, i) => v - ear[i]));
  const found: { late: number; gain: number }[] = [];
  const image = (n: number, size: number, v: number) => (n % 2 === 0 ? n * size + v : (n + 1) * size - v);
  for (let i = -2; i <= 2; i++) {
    for (let j = -2; j <= 2; j++) {
      for (let k = -2; k <= 2; k++) {
        const bounces = Math.abs(i) + Math.abs(j) + Math.abs(k);
        if (bounces === 0 || bounces > 3) continue;
        const way = Math.hypot(
          image(i, x, voice[0]) - ear[0],
          image(j, y, voice[1]) - ear[1],
          image(k, z, voice[2]) - ear[2],
        );
        found.push({ late: (way - gone) / SPEED_OF_SOUND, gain: Math.exp(-0.25 * bounces) * (gone / way) });
      }
    }
  }
  found.sort((p, q) => p.late - q.late);
  const first = found.slice(0, TAPS);
  const power = first.reduce((sum, t) => sum + t.gain * t.gain, 0);
  // signs in turn keep low notes from piling up
  return first.map((t, i) => ({
    at: Math.max(1, Math.round(t.late * fs)),
    gain: t.gain * Math.sqrt(space.early / power) * (frac((i + 1) * GOLDEN * 1.3) < 0.5 ? -1 : 1),
  }));
}
