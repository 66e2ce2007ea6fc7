/** Names of files: whatever a song or a line is called, every usual file system takes what comes out. */
import fc from 'fast-check';
import { cutText, nameBy, namesBy, safeName, type NameFields } from '../index.ts';

/** ext4, APFS and NTFS: 255 bytes, or units, of a name (their documentation; from memory) */
const LONGEST = 255;
const bytesOf = (text: string) => Buffer.byteLength(text, 'utf8');
/** a name is one whole text: no half of a character is in it */
const isWhole = (text: string) => Buffer.from(text, 'utf8').toString('utf8') === text;
/** What people write, and what files stumble over. */
const written = fc.oneof(
  fc.string({ unit: 'grapheme', maxLength: 300 }),
  fc.string({
    unit: fc.constantFrom('🎤', '歌', 'é', '.', ' ', '/', '\\', ':', '\n', '\u0007'),
    maxLength: 300,
  }),
  fc.constantFrom('', '.', '..', 'con', 'COM1.take', 'nul ', '  Lead  ', 'Verse / Chorus?', '歌'.repeat(200)),
);

test('a name is never empty, has nothing that a system keeps for itself, and is short enough with its ending', () => {
  fc.assert(
    fc.property(written, (text) => {
      const name = safeName(text);
      expect(name).not.toBe('');
      expect(name).not.toMatch(/[<>:"/\\|?*]|[. ]$|^\s/);
      expect([...name].every((letter) => letter.codePointAt(0)! >= 32)).toBe(true);
      expect(name).not.toMatch(/^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/i);
      expect(bytesOf(`${name} (100).flac`)).toBeLessThanOrEqual(LONGEST);
      expect([isWhole(name), safeName(name)]).toEqual([true, name]);
    }),
    { numRuns: 2000 },
  );
});

test('what is plain stays as it is', () => {
  for (const name of ['01 Kelp and Copper Mix', 'Concertina, reeds tamed', '歌 é 🎤', 'take 1.5']) {
    expect(safeName(name)).toBe(name);
  }
});

const fields = (o: Partial<NameFields>): NameFields => ({
  nn: 1,
  song: 'Kelp and Copper',
  stem: 'Voice bus',
  bpm: 96,
  key: '',
  date: '2026-11-28',
  ...o,
});

test('names by a pattern: what is empty leaves no gap, what is no field stays', () => {
  expect(nameBy('{nn} {song} {key} {stem}', fields({}))).toBe('01 Kelp and Copper Voice bus');
  expect(nameBy('{stem} {bpm} {mood}', fields({ bpm: 96.504 }))).toBe('Voice bus 96.5 {mood}');
});

test('of several files no two have one name, capitals or not, and those that would have are told', () => {
  fc.assert(
    fc.property(fc.array(written, { minLength: 1, maxLength: 12 }), (stems) => {
      const { names, collided } = namesBy(
        '{stem}',
        stems.map((stem) => fields({ stem })),
      );
      expect(new Set(names.map((name) => name.toLowerCase())).size).toBe(stems.length);
      for (const name of names) {
        expect([isWhole(name), bytesOf(`${name}.flac`) <= LONGEST]).toEqual([true, true]);
      }
      const wanted = stems.map((stem) => safeName(stem).toLowerCase());
      expect(collided.length > 0).toBe(new Set(wanted).size < wanted.length);
    }),
    { numRuns: 500 },
  );
});

test('a text is cut to so many units, and never through a character', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary', maxLength: 60 }), fc.nat(40), (text, most) => {
      const short = cutText(text, most);
      expect(text.startsWith(short)).toBe(true);
      expect([isWhole(short), short.length <= most]).toEqual([true, true]);
      expect(short.length).toBeGreaterThanOrEqual(Math.min(text.length, most - 1));
      // a step's label goes into a header like this, and a half would not
      expect(() => encodeURIComponent(short)).not.toThrow();
    }),
    { numRuns: 1000 },
  );
});
