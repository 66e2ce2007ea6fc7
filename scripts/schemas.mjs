// npm run schemas: JSON Schemas (2020-12) of sessions, presets, setups and packs, from the model's own types; --check says
// whether those that ship are still what it says.
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { format, resolveConfig } from 'prettier';
import { createGenerator } from 'ts-json-schema-generator';
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

/** Every schema by its name. */
export function makeSchemas() {
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
    const schema = modern(generator.createSchema(type));
    return { name, schema: { ...schema, $schema: DIALECT, $id: `${name}.schema.json`, title: what } };
  });
}

if (process.argv[1] === import.meta.filename) {
  const isCheck = process.argv[2] === '--check';
  const folder = join(ROOT, 'docs/schema');
  mkdirSync(folder, { recursive: true });
  for (const { name, schema } of makeSchemas()) {
    const file = join(folder, `${name}.schema.json`);
    const text = await format(JSON.stringify(schema), { ...(await resolveConfig(file)), parser: 'json' });
    if (!isCheck) writeFileSync(file, text);
    else if (!existsSync(file) || readFileSync(file, 'utf8') !== text) {
      console.error(`docs/schema/${name}.schema.json is not what the model says: npm run schemas`);
      process.exitCode = 1;
    }
  }
}
