/** Letters that a name holds at most. */
export const NAME_LENGTH = 200;

/**
 * The beginning of a text, never with half a character at its end: that could be neither sent nor kept.
 * @param most UTF-16 units
 */
export const cutText = (text: string, most: number): string =>
  text.length > most ? text.slice(0, most).replace(/[\uD800-\uDBFF]$/, '') : text;

/** A name made out of another one, with an ending that is there whole however long that one is. */
export const nameWith = (name: string, ending: string): string =>
  cutText(name, NAME_LENGTH - ending.length) + ending;

/** Bytes of a character as UTF-8 (RFC 3629, 3). */
function bytesOf(letter: string): number {
  const code = letter.codePointAt(0)!;
  if (code < 0x80) return 1;
  if (code < 0x800) return 2;
  return code < 0x10000 ? 3 : 4;
}

/**
 * The same by what a text takes as UTF-8: a file's name has 255 bytes on most systems.
 * @param most bytes
 */
export function cutBytes(text: string, most: number): string {
  let bytes = 0;
  let end = 0;
  for (const letter of text) {
    bytes += bytesOf(letter);
    if (bytes > most) return text.slice(0, end);
    end += letter.length;
  }
  return text;
}
