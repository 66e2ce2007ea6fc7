const NOISE_WORDS = new Set(['bus', 'return', 'the', 'a', 'fx', 'group']);

/** The telling words of a name, small: "Voice bus" → voice; all of them when none is telling. */
export function words(name: string): string[] {
  const all = name
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);
  const telling = all.filter((w) => !NOISE_WORDS.has(w));
  return telling.length ? telling : all;
}
