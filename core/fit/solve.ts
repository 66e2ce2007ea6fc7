/** passes over a device until its value is given up */
const PASSES = 12;
/** dB that a mean gain reduction may lie beside the one that is wanted */
const CLOSE = 0.05;

/** parts of a dB that thresholds are told in: what is measured is what is proposed */
const PARTS = 100;

/** What a search came to: the values, and what they give. */
export interface Solved {
  values: number[];
  given: number[];
  /** whether all of them give what is wanted, within a tenth of a dB */
  isMet: boolean;
}

/**
 * Thresholds that give the mean reductions that are wanted, one or several that hardly touch each other (bands), by
 * secants that stay between the last value that took too much and the last that took too little. A higher threshold
 * takes less.
 * @param first values to begin with, and what they give
 * @param guess where each is thought to lie
 * @param measure what values give; each call is a pass over the sound
 */
export function solveThresholds(
  first: { values: readonly number[]; given: readonly number[] },
  wanted: readonly number[],
  guess: readonly number[],
  [low, high]: readonly [number, number],
  measure: (values: readonly number[]) => readonly number[],
): Solved {
  const clamp = (v: number) => Math.min(high, Math.max(low, Math.round(v * PARTS) / PARTS));
  const search = wanted.map((goal, i) => new Search(goal, first.values[i], first.given[i], [low, high]));
  let values = guess.map((v, i) => (search[i].isClose() ? first.values[i] : clamp(v)));
  let given = [...first.given];
  for (let pass = 0; pass < PASSES && search.some((s) => !s.isDone()); pass++) {
    given = [...measure(values)];
    search.forEach((s, i) => s.heard(values[i], given[i]));
    if (search.every((s) => s.isClose())) break;
    values = search.map((s, i) => (s.isDone() ? values[i] : clamp(s.next())));
  }
  const met = search.map((s) => s.best());
  return {
    values: met.map((m) => m.value),
    given: met.map((m) => m.given),
    isMet: met.every((m, i) => Math.abs(m.given - wanted[i]) <= 2 * CLOSE),
  };
}

class Search {
  /** the highest value that takes too much, and the lowest that takes too little */
  private under: { value: number; given: number } | null = null;
  private over: { value: number; given: number } | null = null;
  private last: { value: number; given: number };
  private before: { value: number; given: number } | null = null;
  constructor(
    private readonly goal: number,
    value: number,
    given: number,
    private readonly range: readonly [number, number],
  ) {
    this.last = { value, given };
    this.keep(value, given);
  }
  private keep(value: number, given: number): void {
    if (given > this.goal) this.under = { value, given };
    else this.over = { value, given };
  }
  heard(value: number, given: number): void {
    if (this.isDone()) return;
    this.before = this.last;
    this.last = { value, given };
    this.keep(value, given);
  }
  isClose = (): boolean => Math.abs(this.last.given - this.goal) <= CLOSE;
  /** close, or at an end of the range that does not give it */
  isDone(): boolean {
    const [low, high] = this.range;
    const isStuck =
      (this.last.value <= low && this.last.given < this.goal) ||
      (this.last.value >= high && this.last.given > this.goal);
    return this.isClose() || isStuck;
  }
  next(): number {
    const { last, before } = this;
    const slope =
      before && last.value !== before.value ? (last.given - before.given) / (last.value - before.value) : 0;
    // where nothing is taken yet the way down is the level that is missing, and a little more
    const step = slope < -0.02 ? (this.goal - last.given) / slope : 2 * (last.given - this.goal);
    const to = last.value + Math.max(-12, Math.min(12, step));
    const [a, b] = [this.under?.value ?? -Infinity, this.over?.value ?? Infinity];
    if (to > a && to < b) return to;
    return Number.isFinite(a) && Number.isFinite(b) ? (a + b) / 2 : to;
  }
  best(): { value: number; given: number } {
    const all = [this.last, this.under, this.over].filter((x) => x !== null);
    return all.reduce((a, b) => (Math.abs(b.given - this.goal) < Math.abs(a.given - this.goal) ? b : a));
  }
}
