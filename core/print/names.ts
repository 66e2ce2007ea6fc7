import { cutBytes, cutText } from '../model/text.ts';

/** Fields of a pattern for the names of files. */
export interface NameFields {
  /** place in the list, from 1 */
  nn: number;
  song: string;
  stem: string;
  bpm: number;
  /** the song's key in words; '' where it is not known */
  key: string;
  /** yyyy-mm-dd */
  date: string;
}

/** Names that some system keeps for itself, whatever ending they have (Windows; common practice). */
const RESERVED = /^(con|prn|aux|nul|com\d|lpt\d)(?=\.|$)/i;
/** letters, and bytes as UTF-8: with its number and ending a name stays under the 255 bytes of most systems */
const LONGEST = 120;
const LONGEST_BYTES = 200;

/** A name that every usual file system takes. */
export function safeName(text: string): string {
  const plain = [...text.normalize('NFC')]
    .map((c) => (c.codePointAt(0)! < 32 || '<>:"/\\|?*'.includes(c) ? ' ' : c))
    .join('')
    .replace(/\s+/g, ' ')
    .trim();
  const short = cutBytes(cutText(plain, LONGEST), LONGEST_BYTES).replace(/[. ]+$/, '');
  const name = short || 'untitled';
  return name.replace(RESERVED, '$1_');
}

/** A name by its pattern, without the ending; fields that are empty leave no gap. */
export function nameBy(pattern: string, f: NameFields): string {
  const values: Record<string, string> = {
    nn: String(f.nn).padStart(2, '0'),
    song: f.song,
    stem: f.stem,
    bpm: String(Math.round(f.bpm * 100) / 100),
    key: f.key,
    date: f.date,
  };
  return safeName(pattern.replace(/\{(\w+)\}/g, (all, field: string) => values[field] ?? all));
}

/**
 * Names of several files, none twice on a system that does not tell capitals apart.
 * @returns the names, and those that had to be told apart by a number
 */
export function namesBy(
  pattern: string,
  all: readonly NameFields[],
): { names: string[]; collided: string[] } {
  const used = new Set<string>();
  const collided = new Set<string>();
  const names = all.map((fields) => {
    const wanted = nameBy(pattern, fields);
    let name = wanted;
    for (let n = 2; used.has(name.toLowerCase()); n++) {
      collided.add(wanted);
      name = `${cutText(wanted, LONGEST - 5)} (${n})`;
    }
    used.add(name.toLowerCase());
    return name;
  });
  return { names, collided: [...collided] };
}
