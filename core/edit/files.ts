import { cutText, NAME_LENGTH } from '../model/text.ts';
import { createTrack, freeName, masterOf, placeFor } from '../session/create.ts';
import { randomIds } from '../model/ids.ts';
import type { Clip, Id, MediaRef, NoteClip, Session, Track } from '../model/types.ts';
import type { Edit } from './on.ts';

export type FileKind = 'sound' | 'notes';
/** What a file is by its name; null: nothing that a line can play. */
export function kindOfFile(name: string): FileKind | null {
  if (/\.(wav|wave|bwf)$/i.test(name)) return 'sound';
  return /\.(mid|midi|smf)$/i.test(name) ? 'notes' : null;
}

/** A file, and the line that it goes onto: one that is there, or a new one of a name. */
export interface FilePlace {
  file: string;
  kind: FileKind;
  line: Id | null;
  name: string;
}

/** A name as it is compared: small letters and digits, one space between words. */
const plain = (name: string): string =>
  name
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim();
/** Without the numbers that are counted on: “03 lead voice”, “lead voice 02”, “lead voice take 4”. */
const uncounted = (name: string): string =>
  name.replace(/^\d+ /, '').replace(/( (take|t|v|version|edit|comp))? \d+$/, '');
const stemOf = (file: string): string => file.replace(/\.[^.]+$/, '');

/** How well a file's name fits a line's: 3 the same, 2 but for counted numbers, 1 it holds the line's words; 0 not. */
function fit(file: string, line: string): number {
  const [a, b] = [plain(stemOf(file)), plain(line)];
  if (!b) return 0;
  if (a === b || a.replace(/^\d+ /, '') === b) return 3;
  if (uncounted(a) === b) return 2;
  return ` ${a} `.includes(` ${b} `) ? 1 : 0;
}

const takes = (t: Track, kind: FileKind): boolean =>
  kind === 'sound' ? t.role === 'audio' && !t.printed : t.role === 'midi';

/**
 * Where files go by their names: each onto the line whose name it carries, the best fit and the longest name first;
 * others onto new lines of their own name. “Lead voice_03.wav” goes onto “Lead voice”.
 */
export function placesForFiles(s: Session, files: readonly string[]): FilePlace[] {
  return files.flatMap((file): FilePlace[] => {
    const kind = kindOfFile(file);
    if (!kind) return [];
    const fits = s.tracks
      .filter((t) => takes(t, kind))
      .map((t) => ({ t, score: fit(file, t.name) }))
      .filter((x) => x.score > 0)
      .sort((a, b) => b.score - a.score || b.t.name.length - a.t.name.length);
    return [{ file, kind, line: fits[0]?.t.id ?? null, name: cutText(stemOf(file), NAME_LENGTH) }];
  });
}

/** What was read of a file. */
export type FileContent = { kind: 'sound'; media: MediaRef } | { kind: 'notes'; notes: NoteClip[] };

/**
 * Puts what was read where it was planned, in one step. A sound on a line that has some becomes the take that plays, from
 * the song's start; what played there stays as a take that does not. Notes take the place of notes.
 * @returns the edit, and the lines that got something
 */
export function placeFiles(list: readonly { place: FilePlace; content: FileContent }[]): {
  edit: Edit;
  ids: Id[];
} {
  const fresh = list.map(({ place }) => place.line ?? randomIds('trk'));
  const edit: Edit = (session) =>
    list.reduce((s, { place, content }, i) => {
      const known = s.tracks.some((t) => t.id === fresh[i]);
      return put(known ? s : withLine(s, fresh[i], place, content), fresh[i], content);
    }, session);
  return { edit, ids: [...new Set(fresh)] };
}

function withLine(s: Session, id: Id, { name, kind }: FilePlace, content: FileContent): Session {
  const role = kind === 'sound' ? 'audio' : 'midi';
  const names = s.tracks.map((t) => t.name);
  const line = createTrack(role, {
    id,
    name: freeName(name, names),
    channels: content.kind === 'sound' ? content.media.channels : 2,
    output: kind === 'sound' ? { kind: 'track', track: masterOf(s).id } : { kind: 'none' },
  });
  const tracks = [...s.tracks];
  tracks.splice(placeFor(s, role), 0, line);
  return { ...s, tracks };
}

function put(s: Session, id: Id, content: FileContent): Session {
  const onto = (change: (t: Track) => Partial<Track>) =>
    s.tracks.map((t) => (t.id === id ? { ...t, ...change(t) } : t));
  if (content.kind === 'notes') return { ...s, tracks: onto(() => ({ notes: content.notes })) };
  const { media } = content;
  const clip: Clip = {
    id: randomIds('clp'),
    media: media.id,
    start: 0,
    offset: 0,
    length: media.frames / media.sampleRate,
    gain: 0,
  };
  const known = s.media.some((m) => m.id === media.id);
  return {
    ...s,
    media: known ? s.media : [...s.media, media],
    tracks: onto((t) => ({ clips: [...t.clips.map((c): Clip => ({ ...c, off: true })), clip] })),
  };
}
