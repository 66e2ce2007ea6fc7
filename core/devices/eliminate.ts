/** Solves a symmetric system (rows with their right side behind) that is scaled by its diagonal; null when it is singular. */
export function eliminated(m: Float64Array[]): number[] | null {
  const n = m.length;
  const scale = m.map((row, i) => 1 / Math.sqrt(row[i] || 1));
  for (let a = 0; a < n; a++) for (let b = 0; b <= n; b++) m[a][b] *= scale[a] * (scale[b] ?? 1);
  for (let i = 0; i < n; i++) {
    let p = i;
    for (let j = i + 1; j < n; j++) if (Math.abs(m[j][i]) > Math.abs(m[p][i])) p = j;
    [m[i], m[p]] = [m[p], m[i]];
    if (!(Math.abs(m[i][i]) > 1e-300)) return null;
    for (let j = i + 1; j < n; j++) {
      const f = m[j][i] / m[i][i];
      for (let k = i; k <= n; k++) m[j][k] -= f * m[i][k];
    }
  }
  const out = new Array<number>(n).fill(0);
  for (let i = n - 1; i >= 0; i--) {
    let sum = m[i][n];
    for (let k = i + 1; k < n; k++) sum -= m[i][k] * out[k];
    out[i] = sum / m[i][i];
  }
  return out.map((v, i) => v * scale[i]);
}
