import { validateSession, compile, type Session } from '../../core/index.ts';
import { clipOf, device, mediaRef, send, sessionWith } from '../../tests/support/build.ts';
import {
  addDevice, addSend, addTrack, destinations, duplicateDevice, duplicateTrack, moveDevice, moveTrack, onDevice, onSend, onTrack, removeDevice, removeSend, removeTrack, setClips, setParam, setParams, setState, type Edit,
} from './edits.ts';

/** two lines into a bus, a return, and a line whose compressor listens to the first */
function start(): Session {
  const s = sessionWith([
    { id: 'a', name: 'Lead', chain: [device('trim', {}, { id: 'd1' }), device('eq', {}, { id: 'd2' }), device('delay', {}, { id: 'd3' })], clips: [clipOf('x')], output: { kind: 'track', track: 'bus' } },
    { id: 'b', name: 'Choir', chain: [device('compressor', {}, { id: 'd4', key: { kind: 'track', track: 'a', tap: 'pre' } })] },
    { id: 'f', name: 'Crew', role: 'folder' }, { id: 'bus', name: 'Voice bus', role: 'bus' }, { id: 'r', name: 'Plate', role: 'return' },
  ], { media: [mediaRef('x')] });
  s.tracks[0].sends = [send('r', -12, { id: 's1' })];
  s.tracks[1].folder = 'f';
  return s;
}
const ids = (s: Session) => s.tracks.map((t) => t.id);
const chain = (s: Session, id: string) => s.tracks.find((t) => t.id === id)!.chain.map((d) => d.id);
const track = (s: Session, id: string) => s.tracks.find((t) => t.id === id)!;

/** every edit: a sound session comes out, the one that went in is as it was, and what it does not touch is the same object */
function check(edit: Edit, touched: string[]): Session {
  const s = start();
  const before = JSON.stringify(s);
  const out = edit(s);
  expect(JSON.stringify(s)).toBe(before);
  expect(validateSession(out)).toEqual([]);
  expect(() => compile(out)).not.toThrow();
  for (const t of s.tracks) if (!touched.includes(t.id)) expect(out.tracks.find((x) => x.id === t.id)).toBe(t);
  return out;
}

describe('lines', () => {
  test('a new line goes with its kind, under a free name, to the master', () => {
    const bus = addTrack('bus', { name: 'Voice bus' });
    const s = check(bus.edit, []);
    expect(track(s, bus.id)).toMatchObject({ name: 'Voice bus 2', role: 'bus', output: { kind: 'track', track: ids(s).at(-1) } });
    expect(ids(s).indexOf(bus.id)).toBe(ids(s).indexOf('r') - 1);
    const audio = addTrack('audio', {}, 99);
    expect(ids(check(audio.edit, [])).at(-2)).toBe(audio.id);
  });
  test('a copy has ids of its own, the same settings, and stands beside the original', () => {
    const d = duplicateTrack('a', true);
    const s = check(d.edit, []);
    expect(ids(s).indexOf(d.id)).toBe(1);
    const [was, is] = [track(s, 'a'), track(s, d.id)];
    expect(is.name).toBe('Lead 2');
    expect(is.chain.map((x) => [x.type, x.params])).toEqual(was.chain.map((x) => [x.type, x.params]));
    expect(is.sends.map((x) => [x.to, x.level])).toEqual([['r', -12]]);
    expect(is.chain.some((x) => chain(s, 'a').includes(x.id))).toBe(false);
    expect(track(check(duplicateTrack('a', false).edit, []), 'a').clips).toHaveLength(1);
  });
  test('a deleted bus hands its feeders on to where it went; sends, keys and folders that pointed to the line go', () => {
    expect(track(check(removeTrack('bus'), ['a', 'bus']), 'a').output).toEqual({ kind: 'track', track: ids(start()).length ? expect.stringMatching(/^trk/) : '' });
    expect(track(check(removeTrack('r'), ['a', 'r']), 'a').sends).toEqual([]);
    expect(track(check(removeTrack('a'), ['a', 'b']), 'b').chain[0].key).toEqual({ kind: 'own' });
    expect(track(check(removeTrack('f'), ['f', 'b']), 'b').folder).toBeNull();
    const s = start();
    expect(removeTrack(ids(s).at(-1)!)(s)).toBe(s);
  });
  test('what was remembered for a deleted line is forgotten', () => {
    const s = { ...start(), lastTies: { 'p/send/Plate': 'r', 'p/output/Voice bus': 'bus' } };
    expect(removeTrack('r')(s).lastTies).toEqual({ 'p/output/Voice bus': 'bus' });
  });
  test('moved before another, to the end, never under the master', () => {
    expect(ids(check(moveTrack('b', 'a'), [])).slice(0, 2)).toEqual(['b', 'a']);
    expect(ids(check(moveTrack('a', null), [])).at(-2)).toBe('a');
    const s = start();
    expect(moveTrack('a', 'a')(s)).toBe(s);
    expect(moveTrack(ids(s).at(-1)!, 'a')(s)).toBe(s);
  });
  test('values of one line', () => {
    expect(track(check(onTrack('a', { level: -7, pan: 20 }), ['a']), 'a')).toMatchObject({ level: -7, pan: 20, name: 'Lead' });
    expect(track(check(onTrack('a', (t) => ({ mute: !t.mute })), ['a']), 'a').mute).toBe(true);
  });
});

describe('devices', () => {
  test('added at the end or at a spot, removed, copied beside the original', () => {
    const end = addDevice('a', 'reverb'), mid = addDevice('a', 'reverb', 1);
    expect(chain(check(end.edit, ['a']), 'a').at(-1)).toBe(end.id);
    expect(chain(check(mid.edit, ['a']), 'a')[1]).toBe(mid.id);
    expect(chain(check(removeDevice('a', 'd2'), ['a']), 'a')).toEqual(['d1', 'd3']);
    const copy = duplicateDevice('a', 'd2');
    expect(chain(check(copy.edit, ['a']), 'a')).toEqual(['d1', 'd2', copy.id, 'd3']);
  });
  test.each<[string, string, number, string[], string[]]>([
    ['d1', 'a', 3, ['d2', 'd3', 'd1'], ['d4']], ['d1', 'a', 2, ['d2', 'd1', 'd3'], ['d4']], ['d3', 'a', 0, ['d3', 'd1', 'd2'], ['d4']], ['d2', 'a', 1, ['d1', 'd2', 'd3'], ['d4']], ['d2', 'b', 0, ['d1', 'd3'], ['d2', 'd4']], ['d2', 'b', 1, ['d1', 'd3'], ['d4', 'd2']],
  ])('%s dragged to spot %s:%i', (d, to, at, a, b) => {
    const s = check(moveDevice('a', d, to, at), ['a', 'b']);
    expect([chain(s, 'a'), chain(s, 'b')]).toEqual([a, b]);
  });
  test('values and states of one device', () => {
    expect(track(check(setParam('a', 'd1', 'gain', -6), ['a']), 'a').chain[0].params).toMatchObject({ gain: -6, mono: false });
    expect(track(check(setParams('a', 'd2', { 'b1.on': true, 'b1.freq': 99 }), ['a']), 'a').chain[1].params).toMatchObject({ 'b1.on': true, 'b1.freq': 99 });
    expect(track(check(setState('a', 'd2', 'inactive'), ['a']), 'a').chain.map((d) => d.state)).toEqual(['on', 'inactive', 'on']);
    expect(track(check(onDevice('b', 'd4', (d) => ({ name: d.name + ', hard' })), ['b']), 'b').chain[0].name).toBe('Compressor, hard');
  });
});

describe('sends, sounds, destinations', () => {
  test('a new send starts low, never wide open; changed and removed', () => {
    const s = check(addSend('b', 'r'), ['b']);
    expect(track(s, 'b').sends).toMatchObject([{ to: 'r', level: -18, tap: 'post', on: true }]);
    expect(track(check(onSend('a', 's1', { level: -3, tap: 'pre' }), ['a']), 'a').sends[0]).toMatchObject({ level: -3, tap: 'pre', to: 'r' });
    expect(track(check(removeSend('a', 's1'), ['a']), 'a').sends).toEqual([]);
  });
  test('a sound is listed once in the session, however many clips play it', () => {
    const s = check(setClips('b', [clipOf('x'), clipOf('y')], [mediaRef('x'), mediaRef('y')]), ['b']);
    expect(s.media.map((m) => m.id)).toEqual(['x', 'y']);
    expect(track(check(setClips('a', [], []), ['a']), 'a').clips).toEqual([]);
  });
  test('only what cannot feed the line itself is offered', () => {
    const s = start();
    const names = (id: string, send: boolean) => destinations(s, track(s, id), send).map((t) => t.name);
    expect(names('a', true)).toEqual(['Crew', 'Voice bus', 'Plate']);
    expect(names('a', false)).toEqual(['Crew', 'Voice bus', 'Plate', 'Master']);
    s.tracks.find((t) => t.id === 'bus')!.sends = [send('r')];
    expect(names('r', true)).toEqual(['Crew']);
    expect(names('r', false)).toEqual(['Crew', 'Master']);
  });
});
