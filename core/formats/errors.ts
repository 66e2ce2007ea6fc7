/** A file that cannot be read: says which file, where in it, what is wrong and what to do. */
export class FormatError extends Error {
  constructor(
    readonly file: string,
    readonly place: string,
    readonly what: string,
  ) {
    super(inWords(file, place, what));
    this.name = 'FormatError';
  }
}

/** For a person: a place in bytes says nothing, one in words does. “take.wav” is not a WAV file. */
function inWords(file: string, place: string, what: string): string {
  const isInBytes = /^(offset|byte) \d+$/.test(place);
  if (what.startsWith('this is ')) return `“${file}” is ${what.slice('this is '.length)}`;
  return `“${file}”: ${place && !isInBytes ? `${place}: ` : ''}${what}`;
}
