/** A moment in the reader's own way of writing it. */
export const when = (t: string): string =>
  new Date(t).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });

/** The name of one of several sessions; two of one name are told apart by when they were changed, and how long they are. */
export function toldApart(
  one: { id: string; name: string; updatedAt: string; trackCount: number },
  all: readonly { id: string; name: string }[],
): string {
  const isTwin = all.some((x) => x.id !== one.id && x.name === one.name);
  return isTwin ? `${one.name} (${when(one.updatedAt)}, ${one.trackCount} lines)` : one.name;
}

/** What is typed as a list with commas. */
export const listed = (text: string): string[] =>
  text
    .split(',')
    .map((word) => word.trim())
    .filter(Boolean);
