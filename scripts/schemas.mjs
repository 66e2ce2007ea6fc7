// npm run schemas: JSON Schemas (2020-12) of sessions, presets, setups and packs, from the model's own types; --check says
// whether those that ship are still what it says.
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { format, resolveConfig } from 'prettier';
import { createGenerator } from 'ts-json-schema-generator';
import { build } from './build.mjs';
import { ROOT } from './lib.mjs';

/** What each file describes, and where its type is. */
const SCHEMAS = {
  session: { type: 'Session', path: 'core/model/types.ts', what: 'A session' },
  preset: { type: 'Preset', path: 'core/model/types.ts', what: 'A version of a preset' },
  setup: { type: 'Studio', path: 'core/model/hardware.ts', what: 'A version of a studio' },
  pack: { type: 'PackAbout', path: 'core/formats/pack.ts', what: 'pack.json of a pack' },
};
const DIALECT = 'https://json-schema.org/draft/2020-12/schema';

/** The generator writes draft-07; 2020-12 calls its definitions otherwise (JSON Schema 2020-12, appendix of changes). */
export function modern(value) {
  if (Array.isArray(value)) return value.map(modern);
  if (typeof value !== 'object' || value === null) return value;
  const out = {};
  for (const [key, inner] of Object.entries(value)) {
    if (key === '$ref') out.$ref = String(inner).replace('#/definitions/', '#/$defs/');
    else if (key === 'definitions') out.$defs = modern(inner);
    else if (key === 'items' && Array.isArray(inner)) out.prefixItems = modern(inner);
    else if (key === 'additionalItems' && 'items' in value && Array.isArray(value.items)) {
      out.items = modern(inner);
    } else out[key] = modern(inner);
  }
  return out;
}

/** Does something to the field of a definition: its own, or wherever in its parts one of that name stands. */
function atField(definition, field, change) {
  if (typeof definition !== 'object' || definition === null) return;
  const found = definition.properties?.[field];
  if (found) change(found);
  else for (const inner of Object.values(definition)) atField(inner, field, change);
}
/** Does something to every field that a table names, by type and field. */
function atFields($defs, table, change) {
  for (const [type, fields] of Object.entries(table)) {
    for (const [field, of] of Object.entries(fields)) {
      atField($defs[type], field, (found) => change(found, of));
    }
  }
}

/** What a limit is of: the field, or each member of a list. */
const eachOf = (found) => (found.type === 'array' ? found.items : found);
const asNumber = (found, [minimum, maximum]) => Object.assign(eachOf(found), { minimum, maximum });
const asList = (found, [minItems, maxItems]) => Object.assign(found, { minItems, maxItems });
/** A text of at least one letter is not only spaces. */
function asText(found, [minLength, maxLength]) {
  const letters = minLength > 0 ? { maxLength, pattern: '\\S' } : { maxLength };
  Object.assign(eachOf(found), letters);
}
function asWhole(found) {
  const one = eachOf(found);
  one.type = Array.isArray(one.type) ? ['integer', 'null'] : 'integer';
}

/** What a device's own table says of a value. */
function valueSchema(spec) {
  if (spec.kind === 'switch') return { type: 'boolean' };
  if (spec.kind === 'text') return { type: 'string', minLength: 1, maxLength: 80 };
  if (spec.kind === 'choice') return { enum: spec.choices.map(({ id }) => id) };
  return { type: 'number', minimum: spec.min, maximum: spec.max };
}
/** The values of a device, by its type, and what else depends on that. */
const deviceSchema = (type, { params, loop, foreign }) => ({
  if: { properties: { type: { const: type } } },
  then: {
    properties: {
      params: {
        properties: Object.fromEntries(params.map((spec) => [spec.id, valueSchema(spec)])),
        required: params.filter((spec) => !spec.isLater).map(({ id }) => id),
        additionalProperties: false,
      },
      // only what leaves the computer goes through hardware
      ...(loop ? {} : { hardware: false }),
    },
    ...(foreign ? { required: ['foreign'] } : {}),
  },
});

/** Which words a field may be: colours, and the types of devices. */
function withChoices($defs, { COLOURS, DEVICE_TYPES }) {
  const colours = COLOURS.map(({ id }) => id);
  for (const type of ['Track', 'Handle', 'Heading']) {
    atField($defs[type], 'colour', (found) => Object.assign(found, { enum: colours }));
  }
  if (!$defs.Device) return;
  $defs.Device.properties.type.enum = Object.keys(DEVICE_TYPES);
  $defs.Device.allOf = Object.entries(DEVICE_TYPES).map(([type, device]) => deviceSchema(type, device));
}

const MASTER = { type: 'object', properties: { role: { const: 'master' } }, required: ['role'] };
const LOG = { properties: { taper: { const: 'log' } } };
const FLAC = { properties: { format: { const: 'flac' } } };
/** What a session, its print and a panel say that no table has a form for. */
function withRules($defs, { METER, PRINT_RATES }) {
  for (const type of ['Session', 'StarterSettings']) {
    atField($defs[type], 'meter', ({ items }) => {
      asNumber(items, METER);
      asWhole(items);
    });
  }
  if ($defs.Session) {
    Object.assign($defs.Session.properties.tracks, { contains: MASTER, minContains: 1, maxContains: 1 });
  }
  if ($defs.Control) {
    Object.assign($defs.Control, { if: LOG, then: { properties: { min: { exclusiveMinimum: 0 } } } });
  }
  if (!$defs.PrintFile) return;
  $defs.PrintFile.properties.rate.enum = [...PRINT_RATES, null];
  Object.assign($defs.PrintFile, { if: FLAC, then: { properties: { bits: { enum: [16, 24] } } } });
}

/** What the types don't say: how far numbers go, how long texts and lists are, what values each device has. */
function withLimits(schema, core, limits) {
  const { $defs } = schema;
  const { RANGES, TEXTS, LISTS, WHOLE, IDS, ID, SHELF_ID, STUDIO_ID } = limits;
  atFields($defs, RANGES, asNumber);
  atFields($defs, TEXTS, asText);
  atFields($defs, LISTS, asList);
  for (const [type, fields] of Object.entries(WHOLE)) {
    for (const field of fields) atField($defs[type], field, asWhole);
  }
  for (const [types, { source }] of [
    [IDS.session, ID],
    [IDS.shelf, SHELF_ID],
    [IDS.studio, STUDIO_ID],
  ]) {
    for (const type of types) {
      atField($defs[type], 'id', (found) => Object.assign(found, { pattern: source }));
    }
  }
  withChoices($defs, core);
  withRules($defs, limits);
  return schema;
}

/** Every schema by its name. */
async function makeSchemas() {
  await build({ parts: ['node'], quiet: true });
  const core = await import(join(ROOT, 'dist/node/core/index.js'));
  const limits = await import(join(ROOT, 'dist/node/core/model/limits.js'));
  return Object.entries(SCHEMAS).map(([name, { type, path, what }]) => {
    const generator = createGenerator({
      path: join(ROOT, path),
      tsconfig: join(ROOT, 'tsconfig.server.json'),
      type,
      skipTypeCheck: true,
      // what this program does not know of, a later one may: readers let it pass
      additionalProperties: true,
      encodeRefs: true,
    });
    const schema = withLimits(modern(generator.createSchema(type)), core, limits);
    return { name, schema: { ...schema, $schema: DIALECT, $id: `${name}.schema.json`, title: what } };
  });
}

if (process.argv[1] === import.meta.filename) {
  const isCheck = process.argv[2] === '--check';
  const folder = join(ROOT, 'docs/schema');
  mkdirSync(folder, { recursive: true });
  for (const { name, schema } of await makeSchemas()) {
    const file = join(folder, `${name}.schema.json`);
    const text = await format(JSON.stringify(schema), { ...(await resolveConfig(file)), parser: 'json' });
    if (!isCheck) writeFileSync(file, text);
    else if (!existsSync(file) || readFileSync(file, 'utf8') !== text) {
      console.error(`docs/schema/${name}.schema.json is not what the model says: npm run schemas`);
      process.exitCode = 1;
    }
  }
}
