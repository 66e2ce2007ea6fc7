import { placeFiles, placesForFiles, validateSession, type FilePlace, type Session } from '../index.ts';
import { clipOf, mediaRef, sessionWith } from '../../tests/support/build.ts';

const room = (): Session =>
  sessionWith([
    { id: 'lead', name: 'Lead voice', clips: [clipOf('x')] },
    { id: 'v', name: 'Voice' },
    { id: 'v3', name: 'Voice 3' },
    { id: 'oh', name: 'OH-L' },
    { id: 'bus', name: 'Bass', role: 'bus' },
    { id: 'n', name: 'Kit notes', role: 'midi' },
  ]);

test.each([
  ['Lead voice_03.wav', 'lead'],
  ['01 lead_VOICE.WAV', 'lead'],
  ['Kelp and Copper - Lead voice.wav', 'lead'],
  ['Voice 3.wav', 'v3'],
  ['voice_take 2.wav', 'v'],
  ['Voices.wav', null],
  ['oh l.wav', 'oh'],
  // a bus plays no sound of its own
  ['Bass.wav', null],
  ['Kit notes.mid', 'n'],
  ['Lead voice.mid', null],
])('%s goes onto %s', (file, line) => {
  expect(placesForFiles(room(), [file])).toMatchObject([{ line }]);
});

test('what no line can play is left out', () => {
  expect(placesForFiles(room(), ['cover.png', 'read me'])).toEqual([]);
});

test('sounds become takes: the last one plays, what was there stays; new lines are as wide as their sound', () => {
  const s = { ...room(), media: [mediaRef('x')] };
  const files = ['Lead voice_01.wav', 'Lead voice_02.wav', 'Fiddle.wav'];
  const list = placesForFiles(s, files).map((place: FilePlace, i) => ({
    place,
    content: { kind: 'sound' as const, media: { ...mediaRef(`m${i}`), channels: 1 as const } },
  }));
  const { edit, ids } = placeFiles(list);
  const next = edit(s);
  expect(validateSession(next)).toEqual([]);
  const clips = next.tracks.find((t) => t.id === 'lead')!.clips;
  expect(clips.map((c) => [c.media, c.off ?? false])).toEqual([
    ['x', true],
    ['m0', true],
    ['m1', false],
  ]);
  expect(ids).toHaveLength(2);
  expect(next.tracks.find((t) => t.id === ids[1])).toMatchObject({
    name: 'Fiddle',
    channels: 1,
    role: 'audio',
  });
});
