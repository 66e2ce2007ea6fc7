/** Canonical JSON: what hashes are made of. */
import fc from 'fast-check';
import { canonicalJson, same } from './json.ts';

/** The definition: JSON of the value with the keys of every object in the order of their code units. */
const sorted = (value: unknown): unknown => {
  if (Array.isArray(value)) return value.map(sorted);
  if (typeof value !== 'object' || value === null) return value;
  const entries = Object.entries(value).sort(([a], [b]) => Number(a > b) - Number(a < b));
  return new Map(entries.map(([k, v]) => [k, sorted(v)]));
};
const written = (value: unknown): string => {
  if (Array.isArray(value)) return `[${value.map(written).join()}]`;
  if (!(value instanceof Map)) return JSON.stringify(value) ?? 'null';
  const entries = [...(value as Map<string, unknown>)].filter(([, v]) => v !== undefined);
  return `{${entries.map(([k, v]) => `${JSON.stringify(k)}:${written(v)}`).join()}}`;
};
const anyJson = fc.jsonValue({ maxDepth: 4, stringUnit: 'binary' });

test('the keys stand in the order of their code units, at any depth; what is undefined is left out', () => {
  fc.assert(
    fc.property(anyJson, (value) => {
      expect(canonicalJson(value)).toBe(written(sorted(value)));
      expect(JSON.parse(canonicalJson(value))).toEqual(JSON.parse(JSON.stringify(value)));
    }),
    { numRuns: 500 },
  );
  expect(canonicalJson({ b: undefined, a: [undefined, '', -0, null], é: 1, z: { '': 2 } })).toBe(
    '{"a":[null,"",0,null],"z":{"":2},"é":1}',
  );
  expect(canonicalJson([[], '', []])).toBe('[[],"",[]]');
});

test('the order in which keys were written makes no difference', () => {
  fc.assert(
    fc.property(fc.dictionary(fc.string(), anyJson), (value) => {
      const turned = Object.fromEntries(Object.entries(value).reverse());
      expect(same(value, turned)).toBe(true);
    }),
  );
});
