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

/** Puts how far a number goes wherever a field of that name stands in a definition. */
function bound(definition, field, [minimum, maximum]) {
  if (typeof definition !== 'object' || definition === null) return;
  const found = definition.properties?.[field];
  if (found?.type === 'number') Object.assign(found, { minimum, maximum });
  for (const inner of Object.values(definition)) bound(inner, field, [minimum, maximum]);
}

/** What a device's own table says of a value. */
function valueSchema(spec) {
  if (spec.kind === 'switch') return { type: 'boolean' };
  if (spec.kind === 'text') return { type: 'string', minLength: 1, maxLength: 80 };
  if (spec.kind === 'choice') return { enum: spec.choices.map(({ id }) => id) };
  return { type: 'number', minimum: spec.min, maximum: spec.max };
}
/** The values of a device, by its type. */
const deviceSchema = (type, { params }) => ({
  if: { properties: { type: { const: type } } },
  then: {
    properties: {
      params: {
        properties: Object.fromEntries(params.map((spec) => [spec.id, valueSchema(spec)])),
        required: params.filter((spec) => !spec.isLater).map(({ id }) => id),
        additionalProperties: false,
      },
    },
  },
});

/** What the types don't say: how far numbers go, and what values each device has. */
function withRanges(schema, { RANGES, DEVICE_TYPES }) {
  const { $defs } = schema;
  for (const [type, fields] of Object.entries(RANGES)) {
    for (const [field, range] of Object.entries(fields)) bound($defs[type], field, range);
  }
  if ($defs.Device) {
    $defs.Device.allOf = Object.entries(DEVICE_TYPES).map(([type, device]) => deviceSchema(type, device));
  }
  return schema;
}

/** Every schema by its name. */
async function makeSchemas() {
  await build({ parts: ['node'], quiet: true });
  const core = await import(join(ROOT, 'dist/node/core/index.js'));
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
    const schema = withRanges(modern(generator.createSchema(type)), core);
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
