/**
 * Of several answers the one that was asked for last counts.
 * @returns waits for an answer; null where another one was asked for meanwhile, whatever became of this one
 */
export function makeLatest(): <T>(answer: Promise<T>) => Promise<{ value: T } | null> {
  let asked = 0;
  return async (answer) => {
    const mine = ++asked;
    try {
      const value = await answer;
      return mine === asked ? { value } : null;
    } catch (e) {
      if (mine === asked) throw e;
      return null;
    }
  };
}

/**
 * What is asked for once: who comes while the answer is on its way waits for the same one.
 * @param ask true when it was answered; otherwise the next who comes asks again
 */
export function makeOnce(ask: () => Promise<boolean>): () => Promise<void> {
  let asked: Promise<void> | null = null;
  const begin = async () => {
    if (!(await ask())) asked = null;
  };
  return () => (asked ??= begin());
}
