import type { PartId, Parts, Preset, PresetKind, Track } from '../model/types.ts';

/** What capturing, dropping onto a line, duplicating and copying choose among. */
export const PARTS: { id: PartId; label: string; help: string }[] = [
  { id: 'chain', label: 'Chain', help: 'devices in order with every value and state' },
  { id: 'sends', label: 'Sends', help: 'where to, level, pre or post fader, pan' },
  { id: 'level', label: 'Level', help: 'fader and polarity' },
  { id: 'pan', label: 'Pan', help: '' },
  { id: 'output', label: 'Output', help: '' },
  { id: 'input', label: 'Input', help: '' },
  { id: 'keys', label: 'Keys', help: 'key inputs of dynamics' },
  { id: 'folder', label: 'Folder', help: '' },
  { id: 'name', label: 'Name', help: '' },
  { id: 'colour', label: 'Colour', help: '' },
  { id: 'note', label: 'Note', help: 'what to touch first' },
  { id: 'clips', label: 'Clips', help: 'the sound on the track' },
  { id: 'automation', label: 'Automation', help: 'how values move along the song' },
];

/** What belongs to one song. */
export const SONG_PARTS: Parts = ['clips', 'automation'];
/** The usual set: everything but what belongs to one song. */
export const USUAL_PARTS: Parts = PARTS.map((p) => p.id).filter((p) => !SONG_PARTS.includes(p));
/**
 * Usual for duplicating a line: what makes its sound and where it goes; level, pan, input and sound are the
 * copy's own.
 */
export const DUPLICATE_PARTS: Parts = ['chain', 'sends', 'output', 'keys', 'folder', 'colour'];

/** A device or rack: a piece of a chain, not a line of its own. */
export const isPiece = (kind: PresetKind | (string & {})): kind is 'device' | 'rack' =>
  kind === 'device' || kind === 'rack';

/** What of a preset's track is meant: its own parts where it has them, and of these what was asked for. */
export const partsOf = (preset: Preset, t: Track, parts: Parts): Parts =>
  (preset.content.trackParts?.[t.id] ?? preset.content.parts).filter((p) => parts.includes(p));

/** The parts with one of them put in or taken out, in their usual order. */
export const togglePart = (parts: readonly PartId[], id: PartId): Parts =>
  PARTS.map((p) => p.id).filter((p) => (p === id ? !parts.includes(id) : parts.includes(p)));
