/** A moment in the reader's own way of writing it. */
export const when = (t: string): string =>
  new Date(t).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });

/** What is typed as a list with commas. */
export const listed = (text: string): string[] =>
  text
    .split(',')
    .map((word) => word.trim())
    .filter(Boolean);
