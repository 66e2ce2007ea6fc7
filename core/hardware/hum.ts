/** Harmonics that are looked for; the two mains share none of these. */
const HARMONICS = [1, 2, 3, 4];
const MAINS = [50, 60] as const;

const TONES = MAINS.flatMap((f) => HARMONICS.map((k) => f * k));

/** dBFS of each mains frequency with its harmonics (a full-scale sine is 0), and the cosine and sine of each tone. */
export interface Hum {
  levels: { 50: number; 60: number };
  parts: number[];
}

/**
 * The sines of both mains frequencies and their harmonics in a signal, by least squares all at once, on means of
 * half a millisecond.
 * @param listen which samples count
 */
export function humOf(x: ArrayLike<number>, sampleRate: number, listen: (i: number) => boolean): Hum {
  const step = Math.max(1, Math.round(sampleRate / 2000));
  const count = 2 * TONES.length;
  const matrix = Array.from({ length: count }, () => new Float64Array(count + 1));
  const row = new Float64Array(count);
  for (let at = 0; at + step <= x.length; at += step) {
    if (!listen(at) || !listen(at + step - 1)) continue;
    let mean = 0;
    for (let i = at; i < at + step; i++) mean += x[i] / step;
    TONES.forEach((f, k) => {
      const turn = (2 * Math.PI * f) / sampleRate;
      const droop = Math.sin((turn * step) / 2) / (step * Math.sin(turn / 2));
      const angle = turn * (at + (step - 1) / 2);
      row[2 * k] = droop * Math.cos(angle);
      row[2 * k + 1] = droop * Math.sin(angle);
    });
    for (let a = 0; a < count; a++) {
      for (let b = a; b < count; b++) matrix[a][b] += row[a] * row[b];
      matrix[a][count] += row[a] * mean;
    }
  }
  for (let a = 0; a < count; a++) for (let b = 0; b < a; b++) matrix[a][b] = matrix[b][a];
  const parts = solved(matrix);
  const level = (from: number) => {
    const power = HARMONICS.reduce((sum, _, k) => {
      const at = 2 * (from + k);
      return sum + parts[at] ** 2 + parts[at + 1] ** 2;
    }, 0);
    return 10 * Math.log10(power + 1e-20);
  };
  return { levels: { 50: level(0), 60: level(HARMONICS.length) }, parts };
}

/** The hum over so many samples, each tone as a turning pointer. */
export function humSignal({ parts }: Hum, length: number, sampleRate: number): Float64Array {
  const out = new Float64Array(length);
  TONES.forEach((f, k) => {
    const turn = (2 * Math.PI * f) / sampleRate;
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    let [x, y] = [parts[2 * k], parts[2 * k + 1]];
    for (let i = 0; i < length; i++) {
      out[i] += x;
      [x, y] = [x * c + y * s, y * c - x * s];
    }
  });
  return out;
}

/** Gauss with pivots on a symmetric system, its right side in the last column. */
function solved(m: Float64Array[]): number[] {
  const n = m.length;
  for (let c = 0; c < n; c++) {
    let best = c;
    for (let r = c + 1; r < n; r++) if (Math.abs(m[r][c]) > Math.abs(m[best][c])) best = r;
    [m[c], m[best]] = [m[best], m[c]];
    if (Math.abs(m[c][c]) < 1e-9) continue;
    for (let r = c + 1; r < n; r++) {
      const share = m[r][c] / m[c][c];
      if (share === 0) continue;
      for (let k = c; k <= n; k++) m[r][k] -= share * m[c][k];
    }
  }
  const out = new Array<number>(n).fill(0);
  for (let r = n - 1; r >= 0; r--) {
    let sum = m[r][n];
    for (let k = r + 1; k < n; k++) sum -= m[r][k] * out[k];
    out[r] = Math.abs(m[r][r]) < 1e-9 ? 0 : sum / m[r][r];
  }
  return out;
}
