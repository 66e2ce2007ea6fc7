import {
  captureStarter,
  createPreset,
  createRack,
  createStrand,
  lineCheck,
  planPrint,
  printLines,
  readDawproject,
  renderNow,
  startSession,
  trackOf,
  unprint,
  validatePreset,
  validateSession,
  withLinePrint,
  writeDawproject,
  type MediaRef,
} from '../index.ts';
import { clipOf, db, device, noise, peak, sessionWith } from '../../tests/support/build.ts';
import { measuredAs, port, studio, unit } from '../../tests/support/studio.ts';
import { setupOf } from '../hardware/studio.ts';

const FS = 48000;
const sound = (id: string): MediaRef => ({ id, name: id, sampleRate: FS, channels: 2, frames: FS });
const session = () => ({
  ...sessionWith([
    {
      id: 'voice',
      name: 'Voice',
      channels: 1,
      level: -6,
      pan: 30,
      solo: true,
      clips: [clipOf('x', 1)],
      chain: [
        createRack('Beside itself', [], {
          id: 'rack',
          strands: [createStrand('One', [device('compressor', { threshold: -30 })])],
        }),
        device('saturator', { drive: 6 }, { id: 'sat', state: 'bypassed' }),
      ],
      sends: [],
    },
    { id: 'other', name: 'Other', clips: [clipOf('y', 1)], chain: [] },
  ]),
  media: [sound('x'), sound('y')],
});
const sounds = () =>
  new Map([
    ['x', { l: noise(1, 0.4, 3), r: noise(1, 0.4, 3) }],
    ['y', { l: noise(1, 0.4, 5), r: noise(1, 0.4, 6) }],
  ]);

test('lines printed with their chains sound as before, alone and in the mix; restored they are what they were', async () => {
  const s = session();
  const lines = await printLines(s, ['voice', 'other'], { sounds: sounds() });
  expect(lines.map((x) => x.name)).toEqual(['Voice, printed', 'Other, printed']);
  const all = sounds();
  const printed = lines.reduce((x, line) => {
    const ref = { ...sound(`print-${line.track}`), frames: line.l.length };
    all.set(ref.id, { l: line.l, r: line.r });
    return withLinePrint(x, line.track, ref);
  }, s);
  expect(validateSession(printed)).toEqual([]);
  expect(trackOf(printed, 'voice')!.chain.map((d) => d.state)).toEqual(['inactive', 'inactive']);
  for (const taps of [['voice'], ['master']]) {
    const [was, is] = [
      renderNow(s, { sounds: sounds(), to: 1.5, taps }),
      renderNow(printed, { sounds: all, to: 1.5, taps }),
    ].map((x) => x[taps[0]][0]);
    expect(db(peak(was.map((v, i) => v - is[i])))).toBeLessThan(-130);
  }
  expect(unprint(printed)).toEqual(s);
  expect(trackOf(unprint(printed, { track: 'voice' }), 'other')!.printed).toBeDefined();
  expect(() => withLinePrint(printed, 'voice', { ...s.media[0], id: 'again' })).toThrow('restore it first');
});

test('what goes out of the computer comes back from a DAWproject file, studio and all; a print is told', () => {
  const room = studio({ ports: [port('o', 'out', 1), port('i', 'in', 1)], units: [unit('gull')] });
  const use = { units: [{ id: '1', unit: room.units[0], positions: { ratio: 4 } }], measured: null };
  const s = {
    ...sessionWith([
      { id: 'v', name: 'Voice', chain: [device('outboard', {}, { id: 'loop', hardware: use })] },
    ]),
    setup: setupOf(room, ['a tick']),
    setupId: room.id,
  };
  const { bytes } = writeDawproject(s);
  const back = readDawproject(bytes).session;
  expect([back.setup, back.setupId]).toEqual([s.setup, s.setupId]);
  expect(trackOf(back, 'v')!.chain[0]).toMatchObject({ hardware: use });
  const printed = withLinePrint(s, 'v', { id: 'm', name: 'm', sampleRate: FS, channels: 1, frames: 10 });
  expect(writeDawproject(printed).notes.join()).toContain('“Voice” is printed');
});

test('a loop measured over real ports speaks up at another buffer, and counts on what was measured there', () => {
  const measured = measuredAs({ buffer: 512, delay: 4800 });
  const at = (roundTrip: number) =>
    sessionWith([
      {
        id: 'v',
        name: 'Voice',
        chain: [device('outboard', { roundTrip }, { hardware: { units: [], measured } })],
      },
    ]);
  const rules = (roundTrip: number, buffer: number | null) =>
    lineCheck(at(roundTrip), null, buffer).filter((f) => f.rule.startsWith('loop-'));
  expect(rules(100, 512)).toEqual([]);
  expect(rules(100, null)).toEqual([]);
  const [buffer] = rules(100, 256);
  expect(buffer).toMatchObject({ rule: 'loop-other-rate', safe: false });
  expect(buffer.message).toContain('a buffer of 512 frames; the interface runs at 256 frames now');
  expect(rules(90, 512)[0]).toMatchObject({ rule: 'loop-wrong', fix: 'Set 100.00 ms' });
});

test('a print plan travels with a starter: its stems name the lines of the new session', () => {
  const s = session();
  const plan = planPrint(s);
  const version = { id: 'v', name: 'Louder', muted: ['other'], levels: { voice: 1 } };
  const home = { ...s, print: { ...plan, versions: [version], off: ['sat'], range: { from: 1, to: 2 } } };
  const preset = createPreset(captureStarter(home), { id: 'p', name: 'Starter' });
  expect(validatePreset(preset)).toEqual([]);
  const { session: started } = startSession(preset);
  expect(validateSession(started)).toEqual([]);
  const id = (name: string) => started.tracks.find((t) => t.name === name)!.id;
  const { stems, versions, off, range } = started.print!;
  expect(stems.map((x) => [x.name, x.lines])).toEqual([
    ['Voice', [id('Voice')]],
    ['Other', [id('Other')]],
  ]);
  expect(versions[0]).toMatchObject({ muted: [id('Other')], levels: { [id('Voice')]: 1 } });
  expect(started.tracks[0].chain.map((d) => d.id)).toContain(off[0]);
  expect(range).toBeNull();
});
