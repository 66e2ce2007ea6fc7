import { plainPart } from './plain.ts';
import type { Part } from './part.ts';

const plain = plainPart({ id: 'note', label: 'Note', help: 'what to touch first', section: 'face' }, [
  { key: 'note', label: 'note', text: (v) => v || '—' },
]);

export const note: Part = { ...plain, differ: (a, b, c) => c.value('note', a.note, b.note, String) };
