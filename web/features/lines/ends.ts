import { addressText, type Id, type Take, type Track } from '../../../core/index.ts';

/** How the name of another line is looked up. */
type NameOf = (id: Id) => string;

const HALVES: Partial<Record<Take, string>> = { left: ' L', right: ' R' };
const SUMS = ['bus', 'return', 'folder', 'master'];

/** Where a line takes its sound or notes from, as short as it stands on the line. */
export function inputText(track: Track, nameOf: NameOf): string {
  const input = track.input;
  switch (input.kind) {
    case 'hardware':
      return input.port;
    case 'midi':
      return `${input.port} ${input.channel || 'all'}`;
    case 'deviceOutput':
      return `${input.output}${HALVES[input.take] ?? ''}`;
    case 'none':
      if (track.clips.length) return 'sound';
      return SUMS.includes(track.role) ? 'sum' : '—';
    default:
      return nameOf(input.track);
  }
}

/** The same, said in full. */
export function inputTitle(track: Track, nameOf: NameOf): string {
  const input = track.input;
  if (input.kind === 'midi') return addressText(input);
  if (input.kind === 'deviceOutput') return `output ${input.output} ${input.take} of ${nameOf(input.track)}`;
  return inputText(track, nameOf);
}

/** Where a line goes, as short as it stands on the line. */
export function outputText(track: Track, nameOf: NameOf): string {
  const output = track.output;
  if (track.role === 'master') return 'speakers';
  switch (output.kind) {
    case 'track':
      return nameOf(output.track);
    case 'hardware':
      return output.port;
    case 'midi':
      return `${output.port} ${output.channel || 'own'}`;
    default:
      return 'nowhere';
  }
}

/** What a MIDI line's row says in the place of its level. */
export function notesText(track: Track): string {
  if (track.notes?.length) return `${track.notes.reduce((sum, clip) => sum + clip.notes.length, 0)} notes`;
  return track.chain.length ? 'pattern' : 'no notes yet';
}
