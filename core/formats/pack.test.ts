/** Packs: out and in again by hash; damage of every kind told; what becomes of each thing a pack brings. */
import fc from 'fast-check';
import {
  FormatError,
  fateOf,
  hashOf,
  nameFromPack,
  readPack,
  readZip,
  sha256Hex,
  validatePreset,
  writePack,
  writeWav,
  writeZip,
  type PackAbout,
  type PackFate,
  type Preset,
} from '../index.ts';
import { makeDemo } from '../../demo/index.ts';
import { noise } from '../../tests/support/build.ts';
import { anyPreset } from '../../tests/support/generate.ts';

const demo = makeDemo();
const at = '2026-05-01T06:00:00.000Z';
const sound = writeWav([noise(0.2)], 48000, 24);
const state = new Uint8Array([1, 2, 3]);
const contents = {
  presets: demo.presets,
  setups: demo.studios,
  sessions: demo.sessions.map((s, i) => ({ id: `s${i}`, session: s.session })),
  media: new Map([[sha256Hex(sound), sound]]),
  states: new Map([[sha256Hex(state), state]]),
};
const pack = writePack(contents, { madeAt: at });
const text = (bytes: Uint8Array) => new TextDecoder().decode(bytes);
const bytesOf = (value: unknown) => new TextEncoder().encode(JSON.stringify(value));

test('everything goes out and comes in again as it was; the same in, the same bytes', () => {
  const read = readPack(pack, 'all.zip');
  const byName = (list: readonly { id: string; version: number }[]) =>
    new Map(list.map((x) => [`${x.id}/${x.version}`, hashOf(x)]));
  expect(byName(read.presets)).toEqual(byName(contents.presets));
  expect(byName(read.setups)).toEqual(byName(contents.setups));
  expect(read.sessions.map((s) => [s.id, hashOf(s.session)])).toEqual(
    contents.sessions.map((s) => [s.id, hashOf(s.session)]),
  );
  expect([...read.media.keys(), ...read.states.keys()]).toEqual([
    ...contents.media.keys(),
    ...contents.states.keys(),
  ]);
  expect(sha256Hex([...read.media.values()][0])).toBe(sha256Hex(sound));
  expect(sha256Hex(writePack(contents, { madeAt: at }))).toBe(sha256Hex(pack));
  expect(read.about.presets.map((p) => p.hashes.length).every((n) => n > 0)).toBe(true);
  // the sounds of the demo's sessions stayed at home
  expect(read.notes.join()).toMatch(/sounds are not in the pack/);
});

test('one preset by itself is a pack; generated presets come back with their hash', () => {
  fc.assert(
    fc.property(anyPreset(), (preset) => {
      const named: Preset = { ...preset, id: 'one', version: 3 };
      fc.pre(validatePreset(named).length === 0);
      for (const bytes of [bytesOf(named), writePack({ presets: [named] })]) {
        const { presets, about } = readPack(bytes, 'one');
        expect(presets.map((p) => p.hash)).toEqual([preset.hash]);
        expect(about.presets[0]).toMatchObject({ id: 'one', hashes: [preset.hash] });
      }
    }),
    { numRuns: 25 },
  );
});

/** What is changed in the files of a pack, and what is said then. */
const DAMAGE: [string, (files: Record<string, Uint8Array>) => void, RegExp][] = [
  ['no pack.json', (f) => delete f['pack.json'], /not a pack of this program/],
  ['another format', (f) => (f['pack.json'] = bytesOf({ format: 'x' })), /not a pack of this program/],
  [
    'a later version',
    (f) => (f['pack.json'] = bytesOf({ ...JSON.parse(text(f['pack.json'])), version: 9 })),
    /newer version.*Update/,
  ],
  ['a file beside the list', (f) => (f['presets/x/1.json'] = state), /not in the list/],
  ['a sound cut short', (f) => (f[soundPath] = sound.slice(0, 100)), /not what the list says/],
  ['a file that is missing', (f) => delete f[soundPath], /is missing/],
  ['a document changed', (f) => (f[presetPath] = bytesOf({ ...first, name: 'other' })), /SHA-256/],
  ['a preset that cannot be', (f) => relisted(f, presetPath, { ...first, hash: 'x' }), /content hash/],
  [
    'a preset in another’s place',
    (f) => relisted(f, presetPath, { ...first, id: 'another' }),
    /not that of what it holds/,
  ],
  [
    'a preset that is said and not there',
    (f) => saidMore(f, (a) => a.presets.push({ ...a.presets[0], id: 'no' })),
    /holds “.*missing/,
  ],
  ['a history that ends elsewhere', (f) => saidMore(f, (a) => a.presets[0].hashes.push('x')), /is another/],
  [
    'a session that is said and not there',
    (f) => saidMore(f, (a) => a.sessions.push({ id: 'no', name: 'No', folder: '' })),
    /“No”/,
  ],
  ['no JSON', (f) => relisted(f, presetPath, undefined), /not readable JSON/],
];
const [first] = demo.presets;
const presetPath = `presets/${first.id}/${first.version}.json`;
const soundPath = `media/${sha256Hex(sound)}.wav`;
/** Says something else of itself. */
function saidMore(files: Record<string, Uint8Array>, change: (about: PackAbout) => void): void {
  const about = JSON.parse(text(files['pack.json'])) as PackAbout;
  change(about);
  files['pack.json'] = bytesOf(about);
}
/** Puts another document in, with its sum in the list. */
function relisted(files: Record<string, Uint8Array>, path: string, value: unknown): void {
  files[path] = value === undefined ? new Uint8Array([123, 34]) : bytesOf(value);
  const about = JSON.parse(text(files['pack.json'])) as { files: Record<string, string> };
  about.files[path] = sha256Hex(files[path]);
  files['pack.json'] = bytesOf(about);
}
test.each(DAMAGE)('%s is told', (_, damage, said) => {
  const files = { ...readZip(pack, 'x', { entries: 1e5, entryBytes: 1e9, totalBytes: 1e9 }) };
  damage(files);
  expect(() => readPack(writeZip(files), 'damaged.zip')).toThrow(FormatError);
  expect(() => readPack(writeZip(files), 'damaged.zip')).toThrow(said);
});

test('3,000 packs with bytes changed, cut or doubled: each is read right or ends in a clear error', () => {
  const small = writePack({ presets: [first], media: contents.media }, { madeAt: at });
  const whole = hashOf(readPack(small).presets);
  fc.assert(
    fc.property(
      fc.nat(small.length - 1),
      fc.integer({ min: 1, max: 255 }),
      fc.constantFrom('flip', 'cut', 'twice'),
      (place, by, how) => {
        let bytes = small.slice();
        if (how === 'flip') bytes[place] ^= by;
        else if (how === 'cut') bytes = bytes.slice(0, place);
        else bytes = new Uint8Array([...bytes.slice(0, place), ...small.slice(Math.max(0, place - by))]);
        try {
          // a date or a comment of the archive may be another: what it holds is not
          expect(hashOf(readPack(bytes, 'broken.zip').presets)).toBe(whole);
        } catch (e) {
          if (!(e instanceof FormatError)) throw e;
          expect(e.message).toMatch(/broken\.zip/);
        }
      },
    ),
    { numRuns: 3000 },
  );
});

const FATES: [PackFate, string, string | null, boolean, boolean, number][] = [
  // fate, theirs, mine, in the trash, name taken, versions known
  ['new', 'a', null, false, false, 0],
  ['name', 'a', null, false, true, 0],
  ['same', 'abc', 'abc', false, true, 3],
  ['newer', 'abcd', 'ab', false, false, 2],
  ['older', 'ab', 'abcd', false, false, 2],
  ['both', 'abx', 'aby', false, false, 2],
  ['both', 'x', 'y', false, false, 0],
  ['newer', 'xbc', 'ab', false, false, 2],
  ['older', 'xb', 'abc', false, false, 2],
  ['trash', 'ab', 'ab', true, false, 2],
  ['newer', 'abc', 'ab', true, false, 2],
  ['both', 'abx', 'aby', true, false, 2],
  // back to how it was: the same content twice
  ['newer', 'aba', 'ab', false, false, 2],
  ['older', 'ab', 'aba', false, false, 2],
];
test.each(FATES)(
  '%s: theirs %s, mine %s, in the trash %s, name taken %s',
  (fate, theirs, mine, trash, taken, known) => {
    const here = mine === null ? null : { hashes: [...mine], isDeleted: trash };
    expect(fateOf([...theirs], here, taken)).toEqual({ fate, known });
  },
);

test('a name that is taken gets the next one, within 200 characters', () => {
  expect(nameFromPack('Close', new Set())).toBe('Close');
  expect(nameFromPack('Close', new Set(['Close']))).toBe('Close, from a pack');
  const long = 'x'.repeat(200);
  const next = nameFromPack(long, new Set([long]));
  expect(next).toHaveLength(200);
  expect(nameFromPack(long, new Set([long, next]))).toMatch(/pack 2$/);
});
