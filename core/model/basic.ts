/** What every other file of the model speaks with. */
export type Id = string;

/** Sixteen channels each. */
export type MidiPort = 'A' | 'B' | 'C' | 'D';
