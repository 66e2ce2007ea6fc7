/** What every other file of the model speaks with. */
export type Id = string;

/** Sixteen channels each. */
export const MIDI_PORTS = ['A', 'B', 'C', 'D'] as const;
export type MidiPort = (typeof MIDI_PORTS)[number];
