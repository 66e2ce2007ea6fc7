/** A moment in the reader's own way of writing it. */
export const when = (t: string): string =>
  new Date(t).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });
