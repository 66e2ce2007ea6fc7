/** One unlike thing in itself, such as a device that only one of two chains has. */
export const WHOLE = 1;

/** What lies between 0 and 1 however much comes together: two small differences count for more than one. */
export const saturated = (sum: number): number => -Math.expm1(-sum);

/** What was filled up to this: the inverse. */
export const filledBy = (apart: number): number => -Math.log1p(-apart);

export const squared = (x: number): number => x * x;

/** Something that stands in an order among others of its kind: the devices of a chain, the lines of a rig. */
export interface Ordered<T> {
  /**
   * the square of how far two are apart; Infinity where they are nothing that can be compared, or where it is over a
   * limit
   */
  between(a: T, b: T, limit?: number): number;
  /** the square of how far one is from not being there */
  alone(x: T): number;
  /** less than `between` or the same, and known at once */
  atLeast?(a: T, b: T): number;
}

const leastAlone = <T>(list: readonly T[], alone: Ordered<T>['alone']): number => {
  let least = Infinity;
  for (const x of list) least = Math.min(least, alone(x));
  return least;
};

/**
 * The least sum of squares by which one list becomes another, in order: members are paired, or stand alone.
 * @param limit a sum over this may come out as Infinity: nobody asks how far it is
 */
export function aligned<T>(a: readonly T[], b: readonly T[], order: Ordered<T>, limit = Infinity): number {
  if (a.length !== b.length) return alignedFreely(a, b, order, limit);
  // any other pairing than one by one leaves at least one of each alone
  const others = leastAlone(a, order.alone) + leastAlone(b, order.alone);
  const most = Math.min(limit, others);
  let straight = 0;
  for (let i = 0; i < a.length && straight <= most; i++) {
    straight += order.between(a[i], b[i], most - straight);
  }
  if (straight <= most) return straight;
  return limit <= others ? Infinity : alignedFreely(a, b, order, limit);
}

/** The same by trying every pairing that keeps the order (Wagner & Fischer 1974, with squares for costs). */
function alignedFreely<T>(
  a: readonly T[],
  b: readonly T[],
  { between, alone, atLeast = () => 0 }: Ordered<T>,
  limit: number,
): number {
  let above = [0];
  for (const y of b) above.push(above[above.length - 1] + alone(y));
  for (const x of a) {
    const single = alone(x);
    const row = [above[0] + single];
    let least = row[0];
    for (let j = 0; j < b.length; j++) {
      const apart = Math.min(above[j + 1] + single, row[j] + alone(b[j]));
      // what is further than both alone, or than anybody asks, is not worked out
      const most = Math.min(apart, limit);
      const isPair = above[j] <= most && above[j] + atLeast(x, b[j]) <= most;
      const paired = isPair ? above[j] + between(x, b[j]) : Infinity;
      row.push(Math.min(apart, paired));
      least = Math.min(least, row[j + 1]);
    }
    if (least > limit) return Infinity;
    above = row;
  }
  return above[b.length];
}
