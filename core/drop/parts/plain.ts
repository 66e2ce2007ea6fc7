import type { Track } from '../../model/types.ts';
import type { Form } from '../types.ts';
import type { Part } from './part.ts';

type FormField = Exclude<keyof Form, 'chain' | 'sends'>;

/** One value of a track that is the same in every session. */
type Field = { [K in FormField]: { key: K; label: string; text: (v: Track[K]) => string } }[FormField];

/** A part that is nothing but values of the track itself. */
export function plainPart(
  head: Pick<Part, 'id' | 'label' | 'help' | 'section' | 'duplicated'>,
  fields: readonly Field[],
): Part {
  const pick = (t: Partial<Track>): Partial<Track> =>
    Object.fromEntries(fields.flatMap(({ key }) => (t[key] === undefined ? [] : [[key, t[key]]])));
  const set = (from: Partial<Track>, into: Track) => {
    Object.assign(into, pick(from));
  };
  const text = (f: Field) => f.text as (v: unknown) => string;
  return {
    ...head,
    take: set,
    putOnto: set,
    report: (_want, _found, c) => fields.forEach((f) => c.field(head.id, f.key, f.label, text(f))),
    differ: (a, b, c) => fields.forEach((f) => c.value<unknown>(f.label, a[f.key], b[f.key], text(f))),
    merge: {
      keys: fields.map((f) => f.key),
      form: (t) => pick(t) as Partial<Form>,
      write: (form, out) => set(form, out),
    },
    duplicate: set,
    copyTo: pick,
  };
}
