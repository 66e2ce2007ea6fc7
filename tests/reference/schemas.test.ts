/**
 * The JSON Schemas that ship, by an independent validator (ajv, JSON Schema 2020-12): they are what the model says, they
 * accept all that this program makes, and refuse what has another shape, and numbers and values of devices that are
 * out of range. References and bounds between the parts of a document are the core's own rules and stand in no schema.
 */
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import Ajv, { type ValidateFunction } from 'ajv/dist/2020.js';
import fc from 'fast-check';
import {
  readPack,
  validatePreset,
  validateSession,
  writePack,
  type Preset,
  type Session,
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

/** Another kind of value. */
const other = (value: unknown): unknown => (typeof value === 'number' ? 'no number' : 4711.5);
/** Every place of a document that its core looks at as something with a kind of its own. */
function* places(value: object): Generator<[object, string]> {
  for (const [key, inner] of Object.entries(value)) {
    yield [value, key];
    if (typeof inner === 'object' && inner !== null) yield* places(inner as object);
  }
}
test('they refuse whatever has another kind of value or lacks a part, where the core refuses it', () => {
  const like = demo.presets[0];
  let refused = 0;
  fc.assert(
    fc.property(fc.nat(1e6), fc.boolean(), (n, isTaken) => {
      const copy = JSON.parse(JSON.stringify(like)) as Preset;
      const all = [...places(copy)].filter(([of]) => !Array.isArray(of));
      const [of, key] = all[n % all.length] as [Record<string, unknown>, string];
      if (isTaken) delete of[key];
      else of[key] = other(of[key]);
      const [wrong] = validatePreset(copy);
      // the sum of the content is another, whatever was changed
      const isShape = wrong && wrong.rule !== 'hash';
      if (isShape && !preset(copy)) {
        refused++;
        return;
      }
      expect([isShape ? key : '', wrong?.message ?? '']).toEqual(['', wrong?.message ?? '']);
    }),
    { numRuns: 400 },
  );
  expect(refused).toBeGreaterThan(20);
  const broken = { ...demo.sessions[0].session, tracks: 'none' };
  expect(validateSession(broken as never).length).toBeGreaterThan(0);
  expect(session(broken)).toBe(false);
});

/** Bounded by another part of the document: positions by a panel, ends of a tie by its value. */
const DEPENDS = /\/(positions\/|panel\/.*\/default$|ties\/\d+\/(from|to)$)/;

/** Every number of a document, with the object that holds it. */
const numbersIn = (document: object) =>
  [...places(document)].filter(([of, key]) => typeof (of as Record<string, unknown>)[key] === 'number');

test('they refuse every number that the core finds out of range', () => {
  const documents = [...demo.sessions.map((s) => s.session), ...demo.presets];
  let refused = 0;
  fc.assert(
    fc.property(fc.nat(1e6), fc.nat(1e6), fc.constantFrom(-1e9, 1e9), (which, n, value) => {
      const copy = JSON.parse(JSON.stringify(documents[which % documents.length])) as Preset & Session;
      const all = numbersIn(copy);
      const [of, key] = all[n % all.length] as [Record<string, unknown>, string];
      of[key] = value;
      const isSession = 'tracks' in copy;
      const found = isSession ? validateSession(copy) : validatePreset(copy);
      if (!found.some(({ rule, path }) => rule === 'range' && !DEPENDS.test(path))) return;
      refused++;
      expect([key, isSession ? session(copy) : preset(copy)]).toEqual([key, false]);
    }),
    { numRuns: 400 },
  );
  expect(refused).toBeGreaterThan(100);
});
