/** A file that cannot be read: says which file, where in it, what is wrong and what to do. */
export class FormatError extends Error {
  constructor(
    readonly file: string,
    readonly place: string,
    readonly what: string,
  ) {
    super(`${file}: ${place ? place + ': ' : ''}${what}`);
    this.name = 'FormatError';
  }
}
