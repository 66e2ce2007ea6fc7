/** Makes something when it is wanted first: a page that only shows things waits for none of it. */
export function lazily<T>(make: () => T): () => T {
  let made: { value: T } | null = null;
  return () => (made ??= { value: make() }).value;
}
