import { PRESET_KINDS } from '../../contract/index.ts';
import { validatePreset, type Preset, type Problem } from '../../core/index.ts';
import { ID } from './dto.ts';
import { invalid } from './problem.ts';

const isText = (v: unknown, most: number): v is string => typeof v === 'string' && v.length <= most;

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

/** What the shelf itself asks of a preset, beside the core's rules. */
function shelfProblems(p: Preset): Problem[] {
  const out: Problem[] = [];
  if (!isText(p.name, 200) || !p.name.trim()) {
    out.push({ path: '/name', rule: 'text', message: 'A preset’s name has 1 to 200 characters.' });
  }
  if (!isText(p.category, 200)) {
    out.push({ path: '/category', rule: 'text', message: 'A category has at most 200 characters.' });
  }
  if (!Array.isArray(p.tags) || p.tags.length > 30 || p.tags.some((t) => !isText(t, 60))) {
    const message = 'A preset has at most 30 tags of at most 60 characters.';
    out.push({ path: '/tags', rule: 'tags', message });
  }
  if (!isText(p.colour, 32) || !p.colour) {
    out.push({ path: '/colour', rule: 'text', message: 'A colour is the name of one.' });
  }
  if (!PRESET_KINDS.includes(p.kind)) {
    out.push({ path: '/kind', rule: 'kind', message: `A preset is one of: ${PRESET_KINDS.join(', ')}.` });
  }
  if (!isText(p.id, 64) || !ID.test(p.id)) {
    out.push({ path: '/id', rule: 'id', message: 'An id has 1 to 64 letters, digits, points and dashes.' });
  }
  if (!isText(p.note, 20000)) out.push({ path: '/note', rule: 'text', message: 'A note is a text.' });
  return out.reverse();
}

/** @throws HttpProblem with everything that is wrong with a preset */
export function checkPreset(p: Preset): void {
  const content = typeof p.content === 'object' && p.content !== null ? p.content : {};
  const unknown = [...unknownIn(p, FIELDS, ''), ...unknownIn(content, CONTENT_FIELDS, '/content')];
  const wrong = [...unknown, ...shelfProblems(p), ...validatePreset(p)];
  if (wrong.length) throw invalid('This preset', wrong);
}
