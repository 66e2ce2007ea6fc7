import { validatePreset, type Preset, type Problem } from '../../core/index.ts';
import { invalid } from './problem.ts';

/** All that a preset can have: a field that the model gains is asked for here by the type check. */
const FIELDS = Object.keys({
  format: true,
  id: true,
  kind: true,
  name: true,
  category: true,
  tags: true,
  colour: true,
  note: true,
  version: true,
  parent: true,
  content: true,
  reference: true,
  requirements: true,
  hash: true,
} satisfies Record<keyof Preset, true>);
const CONTENT_FIELDS = Object.keys({
  tracks: true,
  parts: true,
  looseEnds: true,
  spares: true,
  media: true,
  trackParts: true,
  session: true,
  print: true,
} satisfies Record<keyof Preset['content'], true>);

/** Fields that nothing here reads: the shelf would carry them along for ever. */
const unknownIn = (of: object, known: readonly string[], path: string): Problem[] =>
  Object.keys(of)
    .filter((field) => !known.includes(field))
    .slice(0, 10)
    .map((field) => {
      const name = field.slice(0, 60);
      return { path: `${path}/${name}`, rule: 'unknown', message: `A preset has no field “${name}”.` };
    });

/** @throws HttpProblem with everything that is wrong with a preset */
export function checkPreset(p: Preset): void {
  const content = typeof p.content === 'object' && p.content !== null ? p.content : {};
  const unknown = [...unknownIn(p, FIELDS, ''), ...unknownIn(content, CONTENT_FIELDS, '/content')];
  const wrong = [...unknown, ...validatePreset(p)];
  if (wrong.length) throw invalid('This preset', wrong);
}
