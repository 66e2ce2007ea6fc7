import type { Part } from './part.ts';

export const folder: Part = {
  id: 'folder',
  label: 'Folder',
  help: '',
  section: 'routing',
  duplicated: true,

  end: {
    kind: 'folder',
    leads: (t) => (t.folder ? [t.folder] : []),
    fits: (t) => t.role === 'folder',
    canMake: true,
    open: { label: 'No folder', score: 35 },
  },

  take(from, into, c) {
    if (from.folder) into.folder = c.tie('folder', from.folder);
  },

  put(from, into, c) {
    const around = c.place.kind === 'new' ? (c.place.folder ?? null) : null;
    into.folder = from.folder ? c.end(from.folder) : around;
  },

  report(want, found, c) {
    if (!c.has('folder') || !want.folder || !c.whole) return;
    c.tie(`${want.id}/folder`, `${want.name} · folder`, want.folder, found?.folder ?? null);
  },

  duplicate(copy, into) {
    into.folder = copy.folder;
  },
};
