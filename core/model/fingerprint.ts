/** What a preset sounded like when it was saved; see core/shelf/fingerprint.ts. */
export interface Fingerprint {
  /** number of the test sound that it was made with */
  sound: number;
  /** Hz */
  sampleRate: number;
  frames: number;
  /** LUFS and dBFS; −120 where it is silent */
  loudness: number;
  peak: number;
  /** third-octave levels of frames of time, two digits each */
  bands: string;
  /** signed sums of its samples, stretch by stretch */
  sums: number[];
  /** device type → the revision of its sound that played */
  sounds: Record<string, number>;
}

/** How a preset sounds now beside what it sounded like when it was saved. */
export interface Likeness {
  verdict: 'equal' | 'different' | 'unknown';
  /** dB of the difference against the sound itself; −∞ is kept as −300 */
  difference: number;
  /** dB by which it is louder now, by loudness and by peak */
  louder: number;
  higher: number;
  /** bands that are louder or softer by half a dB or more, the largest change first: Hz and dB */
  bands: { band: number; by: number }[];
  /** s: where in the test sound the difference is largest */
  at: number;
  /** device types whose sound has another revision now: then and now */
  sounds: { type: string; then: number; now: number }[];
  /** why nothing can be said */
  why?: string;
}
