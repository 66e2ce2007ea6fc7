/** dips that are looked at in one estimate, the deepest of more */
const MOST = 10;
/** How likely a voice is whose deepest dip is so deep, in hundredths: the thresholds over it, by Beta(2, 18). */
const VOICED = ((): Float64Array => {
  const p = Float64Array.from({ length: 101 }, (_, i) => {
    const x = i / 100;
    let rest = x;
    for (let k = 0; k < 17; k++) rest *= 1 - x;
    return rest;
  });
  const sum = p.reduce((x, y) => x + y, 0);
  let under = 0;
  return p.map((v) => {
    under += v / sum;
    return 1 - under;
  });
})();
/**
 * How far over the deepest dip one is still a period: at the period itself and at twice it the difference is the same
 * but for noise, at half of it the harmonics between are missing.
 */
const spread = (least: number): number => 0.008 + 0.12 * least;
/** log-likelihoods: of a step of one octave while a note is held, of the most that a leap costs, of a voice that begins or ends */
const PER_OCTAVE = 60;
const LEAP = -6;
const TURN = -3;
/** what a score has lost after so many estimates counts no more */
const FLOOR = -60;

/**
 * Chooses among the dips of a normalised difference function the one on the likeliest path of pitches: each dip is as
 * likely as the thresholds over the deepest one that it would be the first under, and a path that leaps is less likely
 * than one that does not. So the first formant at twice the note, which makes a dip at half the period now and then, does not carry the
 * pitch up an octave. Nothing is waited for: the path that is best by now is followed.
 * Source: M. Mauch, S. Dixon, "pYIN: a fundamental frequency estimator using probabilistic threshold distributions",
 * ICASSP 2014 (from memory).
 */
export class PitchPath {
  private lags = new Float64Array(MOST);
  private scores = new Float64Array(MOST);
  private count = 0;
  private silent = 0;
  private before = new Float64Array(MOST);
  private beforeScores = new Float64Array(MOST);
  private readonly likely = new Float64Array(MOST);

  forget(): void {
    this.count = 0;
    this.silent = 0;
  }

  /** The lag of the pitch, 0 while there is none; d: from minLag to maxLag. */
  choose(d: Float64Array, minLag: number, maxLag: number): number {
    const held = this.count;
    [this.before, this.lags] = [this.lags, this.before];
    [this.beforeScores, this.scores] = [this.scores, this.beforeScores];
    this.find(d, minLag, maxLag);
    let sum = 0;
    for (let k = 0; k < this.count; k++) sum += this.likely[k];
    const quiet = Math.log(Math.max(1e-6, 1 - sum));
    let best = -1;
    let top = -Infinity;
    let silent = this.silent;
    for (let j = 0; j < held; j++) silent = Math.max(silent, this.beforeScores[j] + TURN);
    for (let k = 0; k < this.count; k++) {
      let from = this.silent + TURN;
      for (let j = 0; j < held; j++) {
        const octaves = Math.abs(Math.log2(this.lags[k] / this.before[j]));
        from = Math.max(from, this.beforeScores[j] + Math.max(LEAP, -PER_OCTAVE * octaves * octaves));
      }
      this.scores[k] = from + Math.log(this.likely[k] + 1e-6);
      if (this.scores[k] > top) {
        top = this.scores[k];
        best = k;
      }
    }
    this.silent = silent + quiet;
    const most = Math.max(top, this.silent);
    for (let k = 0; k < this.count; k++) this.scores[k] = Math.max(FLOOR, this.scores[k] - most);
    this.silent = Math.max(FLOOR, this.silent - most);
    return best >= 0 && this.scores[best] >= this.silent ? this.lags[best] : 0;
  }

  /** The dips, each deeper than those before it, and how likely each is to be the first that is deep enough. */
  private find(d: Float64Array, minLag: number, maxLag: number): void {
    this.count = 0;
    let lowest = 1;
    for (let lag = Math.max(2, minLag); lag < maxLag; lag++) {
      if (d[lag] > d[lag - 1] || d[lag] >= d[lag + 1]) continue;
      const v = depth(d, lag);
      if (v >= lowest) continue;
      const k = Math.min(this.count, MOST - 1);
      this.lags[k] = lag;
      this.likely[k] = v;
      this.count = k + 1;
      lowest = v;
    }
    if (!this.count) return;
    const voiced = VOICED[Math.min(100, Math.floor(lowest * 100))];
    const wide = spread(lowest);
    let above = 1;
    for (let k = 0; k < this.count; k++) {
      const o = (this.likely[k] - lowest) / wide;
      const here = 1 - (1 + o) * Math.exp(-o);
      this.likely[k] = voiced * Math.max(0, above - here);
      above = here;
    }
  }
}

/** How deep a dip is between its lags, by a parabola: a period that falls between two lags is as good as any other. */
function depth(d: Float64Array, lag: number): number {
  const slope = d[lag + 1] - d[lag - 1];
  const bend = d[lag - 1] - 2 * d[lag] + d[lag + 1];
  return bend > 0 ? Math.max(0, d[lag] - (slope * slope) / (8 * bend)) : d[lag];
}
