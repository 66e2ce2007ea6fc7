import {
  SPACES,
  applyDrop,
  capture,
  createPreset,
  lineCheck,
  mediaIn,
  planDrop,
  portable,
  readDawproject,
  readWav,
  renderNow,
  rootsOf,
  setPlayed,
  sha256Hex,
  soundsIn,
  spaceId,
  updateFromShelf,
  writeDawproject,
  writeWav,
  type MediaRef,
  type Session,
} from '../index.ts';
import { clipOf, dev, device, noise, peak, send, sessionWith } from '../../tests/support/build.ts';

// a person's own impulse response, and a sound that a line plays
const file = writeWav([noise(0.4, 0.2, 3), noise(0.4, 0.2, 4)], 48000, 24);
const own: MediaRef = {
  id: sha256Hex(file),
  name: 'Vault.wav',
  sampleRate: 48000,
  channels: 2,
  frames: 19200,
};
const voice: MediaRef = { id: 'x', name: 'voice', sampleRate: 48000, channels: 1, frames: 48000 };

/** A voice whose send goes to a return with a recorded space. */
const home = (): Session => {
  const s = sessionWith(
    [
      { id: 'lead', name: 'Lead', clips: [clipOf('x', 1)], sends: [send('vault', -6)] },
      { id: 'vault', name: 'Vault', role: 'return', chain: [device('convolution', {}, { id: 'c' })] },
    ],
    { media: [voice] },
  );
  return setPlayed('vault', 'c', { impulse: own.id }, own)(s);
};
const heard = (s: Session, withFile: boolean) => {
  const { channels } = readWav(file);
  const sounds = new Map([['x', { l: noise(1, 0.3, 1), r: noise(1, 0.3, 1) }]]);
  if (withFile) sounds.set(own.id, { l: channels[0], r: channels[1] });
  const { vault } = renderNow(s, { sounds, taps: ['vault'], to: 1 });
  return peak(vault[0]);
};

test('a device’s own impulse response is a sound of the session like any other; those that ship are none', () => {
  const s = home();
  expect(s.media.map((m) => m.id)).toEqual(['x', own.id]);
  expect([...mediaIn(s.tracks)].sort()).toEqual(['x', own.id].sort());
  const ships = setPlayed('vault', 'c', { impulse: spaceId(SPACES[2]) }, voice)(s);
  expect([...mediaIn(ships.tracks)]).toEqual(['x']);
  expect([...soundsIn(ships.tracks)]).toContain(spaceId(SPACES[2]));
  expect(heard(s, true)).toBeGreaterThan(0.01);
  expect(heard(s, false)).toBe(0);
  expect(heard(ships, false)).toBeGreaterThan(0.01);
});

test('it travels with presets, of the return itself and of a line whose spare it is, and arrives with a drop', () => {
  for (const lines of [['vault'], ['lead']]) {
    const preset = createPreset(capture(home(), lines, { spares: true }), { id: 'p', name: 'Vault' });
    expect(preset.content.media.map((m) => m.id)).toContain(own.id);
    const empty = sessionWith([]);
    const first = planDrop(empty, preset);
    const spare = first.ends.flatMap((e) => {
      const choice = e.choices.find((c) => c.kind === 'spare');
      return choice ? [[e.end.id, choice.id] as const] : [];
    });
    const plan = planDrop(empty, preset, { ties: Object.fromEntries(spare) });
    const { session } = applyDrop(empty, plan, preset);
    expect(session.media.map((m) => m.id)).toContain(own.id);
    expect(lineCheck(session).some((f) => f.rule === 'impulse-missing')).toBe(false);
  }
});

test('a newer version that plays another one brings it to the sessions that it was dropped into', () => {
  const first = setPlayed('vault', 'c', { impulse: spaceId(SPACES[1]) }, own)(home());
  const of = (s: Session, version: number) => ({
    ...createPreset(capture(s, ['vault']), { id: 'p', name: 'Vault' }),
    version,
  });
  const [one, two] = [of(first, 1), of(home(), 2)];
  const empty = sessionWith([]);
  const { session } = applyDrop(empty, planDrop(empty, one), one);
  expect(session.media).toEqual([]);
  const now = updateFromShelf(session, rootsOf(session)[0], one, two).session;
  expect(now.media.map((m) => m.id)).toEqual([own.id]);
  expect(lineCheck(now).some((f) => f.rule === 'impulse-missing')).toBe(false);
});

test('what a new device begins with leaves a sound of this session behind', () => {
  const vault = home().tracks.find((t) => t.id === 'vault')!;
  expect(portable(dev(vault.chain[0])).impulse).toBe(spaceId(SPACES[0]));
});

test('it goes out in a DAWproject and comes back', () => {
  const written = writeDawproject(home(), { media: new Map([[own.id, file]]) });
  const { session, media } = readDawproject(written.bytes);
  expect(media.get(own.id)).toEqual(file);
  const back = session.tracks.find((t) => t.name === 'Vault')!;
  expect(dev(back.chain[0]).params.impulse).toBe(own.id);
  expect(session.media.find((m) => m.id === own.id)).toMatchObject({ channels: 2, frames: 19200 });
});
