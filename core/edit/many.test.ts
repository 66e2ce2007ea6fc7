import fc from 'fast-check';
import {
  addHeading,
  addLines,
  captureStarter,
  createPreset,
  dissolve,
  duplicateTracks,
  inside,
  intoFolder,
  moveTracks,
  namesFrom,
  newFolder,
  onSendsTo,
  portsFrom,
  removeTrack,
  removeTracks,
  startSession,
  stateOfChains,
  stepTracks,
  validateSession,
  withContent,
  type Id,
  type Params,
  type Session,
} from '../index.ts';
import { device, send, sessionWith } from '../../tests/support/build.ts';
import { anySession } from '../../tests/support/generate.ts';

const to = (track: string) => ({ kind: 'track' as const, track });
/** a, b in a folder, c in a folder within it, d and e beside; a return */
const house = (): Session =>
  sessionWith([
    { id: 'f', name: 'Deck', role: 'folder' },
    { id: 'a', name: 'A', folder: 'f', sends: [send('p', -12)], chain: [device('eq'), device('gate')] },
    { id: 'b', name: 'B', folder: 'f', output: to('f') },
    { id: 'g', name: 'Below', role: 'folder', folder: 'f' },
    { id: 'c', name: 'C', folder: 'g', output: to('g') },
    { id: 'd', name: 'D' },
    { id: 'e', name: 'E' },
    { id: 'p', name: 'Plate', role: 'return' },
  ]);
const order = (s: Session) => s.tracks.map((t) => t.name).join(' ');
const at = (s: Session, id: Id) => s.tracks.find((t) => t.id === id)!;
const named = (s: Session, name: string) => s.tracks.find((t) => t.name === name)!;

test.each([
  ['Voice 1–3', ['Voice 1', 'Voice 2', 'Voice 3']],
  ['Kick, Snare; OH L\nOH R,,', ['Kick', 'Snare', 'OH L', 'OH R']],
  ['Tom 01..03 low', ['Tom 01 low', 'Tom 02 low', 'Tom 03 low']],
  ['Mic 3-1', ['Mic 3', 'Mic 2', 'Mic 1']],
  ['4-part choir', ['4-part choir']],
  [' , ', []],
])('names from “%s”', (text, names) => {
  expect(namesFrom(text)).toEqual(names);
});

test('names are never more than can be made, whatever is typed', () => {
  expect(namesFrom('V 1–9999')).toHaveLength(128);
  fc.assert(
    fc.property(fc.string(), (text) => {
      const names = namesFrom(text);
      expect(names.length).toBeLessThanOrEqual(128);
      expect(names.every((n) => n.trim() === n && n !== '')).toBe(true);
    }),
  );
});

test('inputs are counted up: by the number, or along the studio’s ports to their end', () => {
  expect(portsFrom('Mic 09', 3, 1, [])).toEqual(['Mic 09', 'Mic 10', 'Mic 11']);
  expect(portsFrom('Line', 2, 1, [])).toEqual(['Line', null]);
  expect(portsFrom('Red', 3, 2, ['Dry', 'Red', 'Blue', 'Green'])).toEqual(['Red', 'Green', null]);
});

test('fifteen lines alike in one step, at the end of their folder, none called like another', () => {
  const s = { ...house(), tracks: house().tracks.map((t) => (t.id === 'd' ? { ...t, name: 'Voice 2' } : t)) };
  const asked = {
    names: namesFrom('Voice 1–15'),
    role: 'audio' as const,
    channels: 1 as const,
    inputs: portsFrom('Mic 1', 15, 1, []),
    output: null,
    folder: 'f',
    colour: 'kelp',
    devices: ['gate', 'compressor'],
    sends: ['p'],
  };
  const { edit, ids } = addLines(asked, (type): Params => (type === 'gate' ? { threshold: -50 } : {}));
  const next = edit(s);
  expect(validateSession(next)).toEqual([]);
  const made = ids.map((id) => at(next, id));
  expect(made.map((t) => t.name).slice(0, 3)).toEqual(['Voice 1', 'Voice 3', 'Voice 4']);
  expect(made.at(-1)).toMatchObject({ channels: 1, folder: 'f', input: { port: 'Mic 15' }, colour: 'kelp' });
  expect(made.every((t) => t.chain.length === 2 && t.sends[0].to === 'p')).toBe(true);
  expect(made[4].chain[0]).toMatchObject({ type: 'gate', params: { threshold: -50 } });
  expect(next.tracks.indexOf(made[0])).toBe(5);
});

test('into a folder and out of it: lines move there, folders with what is in them', () => {
  const s = house();
  const into = intoFolder(['d', 'e'], 'g')(s);
  expect(order(into)).toBe('Deck A B Below C D E Plate Master');
  expect([at(into, 'd').folder, inside(into, 'f').length]).toEqual(['g', 6]);
  expect(order(intoFolder(['g'], null)(s))).toBe('Deck A B Below C D E Plate Master');
  expect(order(intoFolder(['a'], null)(s))).toBe('Deck B Below C A D E Plate Master');
  // a folder is not put into itself
  expect(validateSession(intoFolder(['f', 'd'], 'g')(s))).toEqual([]);
  const { edit, id } = newFolder(['b', 'd'], 'Crew');
  const crew = edit(s);
  expect(order(crew)).toBe('Deck A Crew B D Below C E Plate Master');
  expect([at(crew, id).folder, at(crew, 'd').folder]).toEqual(['f', id]);
  expect(order(dissolve('f')(s))).toBe('A B Below C D E Plate Master');
  expect(order(removeTracks(['f'])(s))).toBe('D E Plate Master');
});

test('several lines step together, over a folder’s edge as it comes', () => {
  const s = house();
  expect(order(stepTracks(['d', 'e'], -1)(s))).toBe('Deck A B Below D E C Plate Master');
  expect(order(stepTracks(['f'], 1)(s))).toBe('D Deck A B Below C E Plate Master');
  expect(stepTracks(['p'], 1)(s)).toBe(s);
});

test('states, sends and taps of all that is chosen', () => {
  const s = house();
  const asleep = stateOfChains(['a', 'b'], 'inactive')(s);
  expect(at(asleep, 'a').chain.map((x) => x.state)).toEqual(['inactive', 'inactive']);
  const one = stateOfChains(['a'], 'bypassed', [at(s, 'a').chain[1].id])(s);
  expect(at(one, 'a').chain.map((x) => x.state)).toEqual(['on', 'bypassed']);
  const sent = onSendsTo(['a', 'b', 'p'], 'p', { tap: 'pre', level: -6 }, true)(s);
  expect(validateSession(sent)).toEqual([]);
  expect(['a', 'b', 'p'].map((id) => at(sent, id).sends.map((x) => [x.level, x.tap]))).toEqual([
    [[-6, 'pre']],
    [[-6, 'pre']],
    [],
  ]);
});

test('copies of several lines keep to themselves what went on among them', () => {
  const s = house();
  const { edit, ids } = duplicateTracks(s, ['f', 'd'], ['chain', 'sends', 'output', 'folder', 'level']);
  const next = edit(s);
  expect(validateSession(next)).toEqual([]);
  expect(order(next)).toBe('Deck A B Below C D Deck 2 A 2 B 2 Below 2 C 2 D 2 E Plate Master');
  const folder = named(next, 'Deck 2').id;
  expect(named(next, 'B 2')).toMatchObject({ folder, output: to(folder) });
  expect(named(next, 'C 2').folder).toBe(named(next, 'Below 2').id);
  expect(named(next, 'A 2').sends[0].to).toBe('p');
  expect(ids).toHaveLength(6);
});

test('the trim before a chain belongs to the sound: copies with it and starters keep it', () => {
  const s = house();
  const trimmed = { ...s, tracks: s.tracks.map((t) => (t.id === 'a' ? { ...t, inputTrim: 4.5 } : t)) };
  const copied = duplicateTracks(trimmed, ['a'], ['chain', 'clips']).edit(trimmed);
  expect(named(copied, 'A 2').inputTrim).toBe(4.5);
  expect(named(duplicateTracks(trimmed, ['a'], ['chain']).edit(trimmed), 'A 2').inputTrim).toBeUndefined();
  const starter = createPreset(captureStarter(trimmed), { id: 'st', name: 'Deck' });
  expect(named(startSession(starter).session, 'A').inputTrim).toBe(4.5);
});

test('headings stay where they stand when their line goes or moves, and travel with a starter', () => {
  const s = addHeading('b', { name: 'Low' }).edit(house());
  const above = (x: Session) => x.headings!.map((h) => `${h.name} above ${at(x, h.before).name}`);
  expect(above(s)).toEqual(['Low above B']);
  expect(above(removeTrack('b')(s))).toEqual(['Low above Below']);
  expect(above(moveTracks(['b'], 'p')(s))).toEqual(['Low above Below']);
  expect(above(removeTracks(['f'])(s))).toEqual(['Low above D']);
  const starter = createPreset(captureStarter(s), { id: 'st', name: 'Deck' });
  expect(above(startSession(starter).session)).toEqual(['Low above B']);
  expect(validateSession({ ...s, headings: [{ ...s.headings![0], colour: 'sky' }] })).toHaveLength(1);
});

test('any lines of any session: moved, put into folders, copied and removed, it stays sound and whole', () => {
  const action = fc.constantFrom('move', 'folder', 'in', 'out', 'copy', 'remove', 'up', 'down');
  const step = fc.tuple(action, fc.array(fc.nat(9), { minLength: 1, maxLength: 4 }), fc.nat(9));
  fc.assert(
    fc.property(anySession(), fc.array(step, { maxLength: 6 }), (session, steps) => {
      let s = session;
      for (const [what, picks, where] of steps) {
        const ids = picks.map((n) => s.tracks[n % s.tracks.length].id);
        const place = s.tracks[where % s.tracks.length];
        const folder = s.tracks.find((t) => t.role === 'folder')?.id ?? null;
        const lines = withContent(s, ids).length;
        const count = s.tracks.length;
        const edits = {
          move: () => moveTracks(ids, place.id),
          folder: () => newFolder(ids, 'New').edit,
          in: () => intoFolder(ids, folder),
          out: () => intoFolder(ids, null),
          copy: () => duplicateTracks(s, ids).edit,
          remove: () => removeTracks(ids),
          up: () => stepTracks(ids, -1),
          down: () => stepTracks(ids, 1),
        };
        s = edits[what as keyof typeof edits]()(s);
        expect(validateSession(s)).toEqual([]);
        expect(s.tracks.at(-1)!.role).toBe('master');
        if (what === 'copy') expect(s.tracks.length).toBe(count + lines);
        if (what === 'remove') expect(s.tracks.length).toBe(count - lines);
        if (!['copy', 'remove', 'folder'].includes(what)) expect(s.tracks.length).toBe(count);
      }
    }),
  );
});
