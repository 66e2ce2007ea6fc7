import {
  randomIds,
  readMidi,
  NAME_LENGTH,
  cutText,
  safeName,
  writeMidi,
  type Id,
  type MidiTrack,
  type NoteClip,
  type Track,
  onTrack,
} from '../../../core/index.ts';
import { save } from '../../ui/save.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { askForFile } from '../../ui/save.ts';

/**
 * Asks for a Standard MIDI File and puts its notes on a MIDI line from the start; a file's tracks become
 * clips beside each other.
 */
export const chooseNotes = (track: Id): void =>
  askForFile('.mid,.midi,audio/midi,audio/x-midi', (f) => putNotes(track, f));

/**
 * The notes of a Standard MIDI File as clips, and what is to be told of them.
 * @throws when it is none, or has no notes in it
 */
export async function readNotes(file: File): Promise<{ notes: NoteClip[]; told: string }> {
  const { tempo: own } = useSession().doc!;
  const data = readMidi(new Uint8Array(await file.arrayBuffer()), file.name);
  const name = file.name.replace(/\.midi?$/i, '');
  const notes = data.tracks
    .filter((t) => t.notes.length || t.controllers.length)
    .map((t): NoteClip => ({
      id: randomIds('nts'),
      name: cutText(t.name || name, NAME_LENGTH),
      start: 0,
      length: lengthOf(t),
      notes: t.notes,
      controllers: t.controllers,
    }));
  if (!notes.length) throw new Error(`“${file.name}” has no notes in it.`);
  const channels = [...new Set(notes.flatMap((c) => c.notes.map((n) => n.channel)))].sort((a, b) => a - b);
  const count = notes.reduce((n, c) => n + c.notes.length, 0);
  const where = channels.length === 1 ? `channel ${channels[0]}` : `channels ${channels.join(', ')}`;
  const isOther = Math.abs(data.tempo - own) > 0.01;
  const tempo = `The file runs at ${data.tempo} bpm, this session at ${own}.`;
  const told = [`${count} notes on ${where}.`, ...(isOther ? [tempo] : []), ...data.notes].join(' ');
  return { notes, told };
}

export async function putNotes(track: Id, file: File): Promise<void> {
  const session = useSession();
  const ui = useUi();
  try {
    const edit = session.editLater();
    const { notes, told } = await readNotes(file);
    if (!edit(`Notes “${file.name}”`, onTrack(track, { notes }))) return;
    ui.say(told, 'done', [session.undoing()]);
  } catch (e) {
    ui.fail(e);
  }
}

/** Quarters until the last note or controller of a file's track has ended. */
function lengthOf(t: MidiTrack): number {
  const ends = [...t.notes.map((n) => n.at + n.length), ...t.controllers.map((c) => c.at + 0.25)];
  return ends.reduce((a, b) => Math.max(a, b), 1);
}

/** Saves a line's notes as a Standard MIDI File. */
export function saveNotes(t: Track): void {
  const s = useSession().doc!;
  const bytes = writeMidi({
    tempo: s.tempo,
    meter: s.meter,
    tracks: (t.notes ?? []).map((c) => ({
      name: c.name,
      notes: c.notes.map((n) => ({ ...n, at: n.at + c.start })),
      controllers: c.controllers.map((x) => ({ ...x, at: x.at + c.start })),
    })),
  });
  const blob = new Blob([bytes as Uint8Array<ArrayBuffer>], { type: 'audio/midi' });
  save(blob, `${safeName(t.name)}.mid`);
}
