import { clone } from '../../model/json.ts';
import type { Part } from './part.ts';

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
    const notes = from.notes && c.adapted.notes(from);
    if (notes) into.notes = notes.map((x) => ({ ...clone(x), id: c.fresh(x.id, 'nts') }));
    into.clips = from.clips.map((x) => ({ ...clone(x), id: c.fresh(x.id, 'clp') }));
  },

  report(want, found, c) {
    if (!c.has('clips')) return;
    const compare = (what: 'clips' | 'notes', word: string, i: number, x: object, y: object | undefined) =>
      c.row(
        `${want.id}/${what}/${i}`,
        `${want.name} · ${word} ${i + 1}`,
        { ...x, id: '' },
        y && { ...y, id: '' },
        () => (what === 'clips' ? 'clip' : 'notes'),
      );
    want.clips.forEach((x, i) => compare('clips', 'clip', i, x, found?.clips[i]));
    const notes = want.notes && c.adapted.notes(want);
    notes?.forEach((x, i) => compare('notes', 'notes', i, x, found?.notes?.[i]));
  },

  duplicate(copy, into) {
    into.clips = copy.clips;
  },
};
