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

/** Every place of a document. */
function* places(value: object): Generator<[of: Record<string, unknown>, key: string]> {
  for (const [key, inner] of Object.entries(value)) {
    yield [value as Record<string, unknown>, key];
    if (typeof inner === 'object' && inner !== null) yield* places(inner as object);
  }
}
/** What no document holds anywhere: nothing, other kinds of value, texts and numbers that go too far. */
const ODD: readonly unknown[] = [
  ...[undefined, null, true, [], {}, [1], [{}]],
  ...[0, -1, 0.5, -1e9, 1e9],
  ...['', ' ', 'x', 'x y!', 'x'.repeat(65), 'x'.repeat(81), 'x'.repeat(201), 'x'.repeat(20001)],
];
/** Lists of so many of what they hold first. */
const MANY = [65, 300, 501, 2001];

function spoil(of: Record<string, unknown>, key: string, what: number): void {
  const value = of[key];
  if (Array.isArray(value) && value.length > 0 && what % 2) {
    of[key] = Array.from({ length: MANY[what % MANY.length] }, () => value[0] as unknown);
    return;
  }
  const odd = ODD[what % ODD.length];
  if (odd !== undefined) of[key] = odd;
  else if (Array.isArray(of)) of.splice(Number(key), 1);
  else delete of[key];
}

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
  ...demo.sessions.map((s) => ({ document: s.session, core: validateSession, schema: session })),
  ...demo.presets.map((p) => ({ document: p, core: validatePreset, schema: preset })),
  ...demo.studios.map((s) => ({ document: s, core: validateStudio, schema: setup })),
];

test('they refuse whatever the core refuses by its shape, its words, its numbers and its sizes, and nothing else', () => {
  const seen = { refused: 0, sound: 0 };
  fc.assert(
    fc.property(fc.nat(1e6), fc.nat(1e6), fc.nat(1e6), (which, where, what) => {
      const { document, core, schema: of } = documents[which % documents.length];
      const copy = JSON.parse(JSON.stringify(document)) as Session | Preset | Studio;
      const all = [...places(copy)];
      const [holder, key] = all[where % all.length];
      spoil(holder, key, what);
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
