/**
 * The JSON Schemas that ship, by an independent validator (ajv, JSON Schema 2020-12): they are what the model says, they
 * accept all that this program makes, and judge as the core does, except for what depends on another part of a
 * document: references, sums, ids used twice, bounds that a panel or a device sets.
 */
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import Ajv, { type ValidateFunction } from 'ajv/dist/2020.js';
import fc from 'fast-check';
import {
  hashOf,
  readPack,
  validatePreset,
  validateSession,
  validateStudio,
  writePack,
  type Preset,
  type Problem,
  type Session,
  type Studio,
} from '../../core/index.ts';
import { makeDemo } from '../../demo/index.ts';
import { anyKind, anySession } from '../support/generate.ts';
import { furnished, spoil } from '../support/spoil.ts';

const ajv = new Ajv({ allErrors: false, strict: false });
const schema = (name: string): ValidateFunction =>
  ajv.compile(JSON.parse(readFileSync(`docs/schema/${name}.schema.json`, 'utf8')) as object);
const [session, preset, setup, pack] = ['session', 'preset', 'setup', 'pack'].map(schema);
const said = (of: ValidateFunction, value: unknown) => {
  // as a file holds it: what is undefined is not there
  const ok = of(JSON.parse(JSON.stringify(value)));
  return ok ? '' : ajv.errorsText(of.errors);
};
const demo = makeDemo();

test('they are what the model says', () => {
  execFileSync('node', ['scripts/schemas.mjs', '--check']);
});

test('they accept every document of the demo, and what is generated', () => {
  for (const s of [...demo.sessions, demo.faulty]) expect(said(session, s.session)).toBe('');
  for (const p of demo.presets) expect([p.name, said(preset, p)]).toEqual([p.name, '']);
  for (const s of demo.studios) expect(said(setup, s)).toBe('');
  expect(said(pack, readPack(writePack({ presets: demo.presets })).about)).toBe('');
  fc.assert(
    fc.property(anySession(), anyKind(), (s, p) => {
      expect(said(session, s)).toBe('');
      expect(said(preset, p)).toBe('');
    }),
    { numRuns: 30 },
  );
});

/** What depends on another part of the document: no schema can ask for it. */
const RELATIONS = new Set([
  ...['exists', 'folder', 'folder-loop', 'self', 'output-target', 'send-target', 'tie', 'unknown-param'],
  ...['unique-id', 'unique', 'order', 'point', 'hash'],
]);
/** bounded by another part: positions and rest by a panel, ends of a tie by its value */
const BOUNDED = /\/(positions\/.*|panel\/\d+\/(default|min|max)|ties\/\d+\/(from|to))$/;
const isRelation = ({ rule, path }: Problem): boolean =>
  RELATIONS.has(rule) || (rule === 'range' && BOUNDED.test(path));

const documents = [
  { document: furnished(demo.sessions[0].session, demo.presets), core: validateSession, schema: session },
  ...demo.sessions.map((s) => ({ document: s.session, core: validateSession, schema: session })),
  ...demo.presets.map((p) => ({ document: p, core: validatePreset, schema: preset })),
  ...demo.studios.map((s) => ({ document: s, core: validateStudio, schema: setup })),
];

test('they refuse whatever the core refuses by its shape, its words, its numbers and its sizes, and nothing else', () => {
  const seen = { refused: 0, sound: 0 };
  fc.assert(
    fc.property(fc.nat(1e6), fc.nat(1e9), fc.nat(1e6), (which, where, what) => {
      const { document, core, schema: of } = documents[which % documents.length];
      const copy = JSON.parse(JSON.stringify(document)) as Session | Preset | Studio;
      const key = spoil(copy, where, what);
      // the sum of a content would be another, whatever was changed in it
      if ('content' in copy && key !== 'hash') copy.hash = hashOf(copy.content ?? null);
      const wrong = core(copy);
      if (wrong.some(isRelation)) return;
      seen[wrong.length ? 'refused' : 'sound']++;
      const judged = of(JSON.parse(JSON.stringify(copy)));
      expect([key, wrong[0]?.message ?? '', judged]).toEqual([key, wrong[0]?.message ?? '', !wrong.length]);
    }),
    { numRuns: 3000 },
  );
  expect(seen.refused).toBeGreaterThan(1000);
  expect(seen.sound).toBeGreaterThan(100);
});
