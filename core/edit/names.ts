/** lines that are made in one step at most */
export const MOST_LINES = 128;

/**
 * Names from what a person writes: a list with commas, semicolons or line breaks, in which “Voice 1–15” (or 1-15,
 * 1..15, 01–15) stands for each of its numbers, down as well as up.
 * @returns at most MOST_LINES names, none of them empty
 */
export function namesFrom(text: string): string[] {
  const listed = text.split(/[,;\n]+/).map((part) => part.trim());
  return listed
    .filter((part) => part !== '')
    .flatMap(counted)
    .slice(0, MOST_LINES);
}

function counted(part: string): string[] {
  const found = /^(.*?)(\d{1,4})\s*(?:[-–—]|\.\.+)\s*(\d{1,4})(.*)$/.exec(part);
  if (!found) return [part];
  const [, before, first, last, behind] = found;
  const [a, b] = [Number(first), Number(last)];
  const count = Math.min(Math.abs(b - a) + 1, MOST_LINES);
  const width = first.startsWith('0') ? first.length : 0;
  const step = Math.sign(b - a);
  return Array.from({ length: count }, (_, i) => {
    const number = String(a + i * step).padStart(width, '0');
    return `${before}${number}${behind}`.trim();
  });
}

/**
 * Ports counted up from one: along the list of known ports where it is in it, otherwise by the number at its end.
 * @param step ports that each takes: 1, or 2 for two sides
 * @returns null where the known ports are at an end
 */
export function portsFrom(
  first: string,
  count: number,
  step: number,
  known: readonly string[],
): (string | null)[] {
  const at = known.indexOf(first);
  const numbered = /^(.*?)(\d+)(\D*)$/.exec(first);
  return Array.from({ length: count }, (_, i) => {
    if (at >= 0) return known[at + i * step] ?? null;
    if (!numbered) return i === 0 ? first : null;
    const [, before, number, behind] = numbered;
    return `${before}${String(Number(number) + i * step).padStart(number.length, '0')}${behind}`;
  });
}
