const { floor, log10, max, round, sqrt } = Math;

/**
 * How loud a take is where it sounds, and what is left of it in its pauses, in dBFS RMS; no floor where it
 * has none.
 */
export interface TakeLevel {
  level: number;
  floor: number | null;
}

/**
 * Level and noise floor of a stretch of sound, from blocks of 100 ms: the level is the mean of what lies
 * within 20 dB of the loudest block; pauses are blocks 20 dB and more under that, at least a twentieth of
 * the take, and the floor is what the quietest tenth of them reaches: breaths and tails are no noise (common
 * practice).
 */
export function measureTake(
  l: Float32Array,
  r: Float32Array,
  from: number,
  frames: number,
  sampleRate: number,
): TakeLevel {
  const size = round(sampleRate / 10);
  const blocks: number[] = [];
  for (let at = from; at + size <= from + frames && at + size <= l.length; at += size) {
    let sum = 0;
    for (let i = at; i < at + size; i++) sum += l[i] * l[i] + r[i] * r[i];
    blocks.push(sum / (2 * size));
  }
  const top = max(0, ...blocks);
  if (top < 1e-12) return { level: -200, floor: null };
  const loud = blocks.filter((b) => b > top / 100);
  const mean = loud.reduce((a, b) => a + b, 0) / loud.length;
  // digital silence is no noise
  const pauses = blocks.filter((b) => b < mean / 100 && b > 1e-12).sort((a, b) => a - b);
  const db = (power: number) => 20 * log10(sqrt(power));
  return {
    level: db(mean),
    floor: pauses.length >= max(2, blocks.length / 20) ? db(pauses[floor(pauses.length / 10)]) : null,
  };
}
