import { clone } from '../../model/json.ts';
import type { Clip, NoteClip, Track } from '../../model/types.ts';
import type { Part, Putting } from './part.ts';

/** The sounds and notes of a preset's track, ready for this session. */
function arriving(from: Track, c: Putting): { clips: Clip[]; notes: NoteClip[] } {
  const notes = (from.notes && c.adapted.notes(from)) ?? [];
  return {
    clips: from.clips.map((x) => ({ ...clone(x), id: c.fresh(x.id, 'clp') })),
    notes: notes.map((x) => ({ ...clone(x), id: c.fresh(x.id, 'nts') })),
  };
}

/** The sounds and the written notes on a track. */
export const clips: Part = {
  id: 'clips',
  label: 'Clips',
  help: 'the sound on the track',
  section: 'song',
  song: true,

  take(from, into, c) {
    into.clips = from.clips.map((x) => ({ ...clone(x), id: c.named(x.id, 'clp') }));
    if (from.notes?.length) into.notes = from.notes.map((x) => ({ ...clone(x), id: c.named(x.id, 'nts') }));
  },

  put(from, into, c) {
    delete into.notes;
    into.clips = [];
    if (!c.has('clips')) return;
    const { clips, notes } = arriving(from, c);
    into.clips = clips;
    if (from.notes) into.notes = notes;
  },

  /** What is on the line already stays: sounds and notes come beside it. */
  putOnto(from, into, c) {
    const { clips, notes } = arriving(from, c);
    into.clips = [...c.before.clips, ...clips];
    if (notes.length) into.notes = [...(c.before.notes ?? []), ...notes];
  },

  report(want, found, c) {
    if (!c.has('clips')) return;
    const compare = (word: 'clip' | 'notes', x: Clip | NoteClip, i: number) => {
      const there: (Clip | NoteClip)[] = (word === 'clip' ? found?.clips : found?.notes) ?? [];
      const y = there.find((z) => z.id === c.plan.ids[x.id]);
      const [path, label] = [`${want.id}/${word}/${i}`, `${want.name} · ${word} ${i + 1}`];
      c.row(path, label, { ...x, id: '' }, y && { ...y, id: '' }, () => word);
    };
    want.clips.forEach((x, i) => compare('clip', x, i));
    const notes = want.notes && c.adapted.notes(want);
    notes?.forEach((x, i) => compare('notes', x, i));
  },

  duplicate(copy, into) {
    into.clips = copy.clips;
    if (copy.notes) into.notes = copy.notes;
  },
};
