import {
  Renderer,
  compile,
  createRack,
  createStrand,
  renderNow,
  type Session,
  type SlotState,
} from '../index.ts';
import { both, clipOf, device, difference, noise, peak, sessionWith } from '../../tests/support/build.ts';

const sounds = new Map([['x', both(noise(1, 0.3, 2))]]);
/** a line with a chain in which one device, one rack and one device in a rack have a state */
function states(state: SlotState): Session {
  return sessionWith([
    {
      id: 'a',
      clips: [clipOf('x')],
      chain: [
        device('trim', { gain: -3 }, { id: 'first' }),
        device('reverb', { mix: 40 }, { id: 'verb', state }),
        createRack('R', [device('pitchcorrect', {}, { id: 'inside' })], { id: 'whole', state }),
        createRack('S', [], {
          id: 'part',
          strands: [
            createStrand('One', [device('limiter', {}, { id: 'late', state })], { id: 's1' }),
            createStrand('Two', [], { id: 's2' }),
          ],
        }),
      ],
    },
    {
      id: 'b',
      state: state === 'inactive' ? 'inactive' : 'on',
      clips: [clipOf('x')],
      chain: [device('saturator', {}, { id: 'gone' })],
    },
  ]);
}
const planned = (s: Session) => compile(s).nodes.flatMap((n) => n.slots.map((x) => x.slot.id));

describe('inactive costs nothing', () => {
  test('what is inactive is not in the schedule, nor what is inside it, nor its latency', () => {
    expect(planned(states('on'))).toEqual(['first', 'verb', 'whole', 'part', 'gone']);
    expect(planned(states('inactive'))).toEqual(['first', 'part']);
    expect(compile(states('inactive')).nodes.map((n) => n.track.id)).not.toContain('b');
    const line = (s: Session) => compile(s).nodes.find((n) => n.track.id === 'a')!;
    expect(line(states('inactive')).latency).toBe(0);
    expect(line(states('on')).latency).toBeGreaterThan(0);
    // bypassed ones keep theirs, so that switching them on moves nothing
    expect(line(states('bypassed')).latency).toBe(line(states('on')).latency);
  });

  test('nothing of it is made: no processor, no buffers', () => {
    const r = new Renderer(48000, 128, sounds);
    r.update(states('inactive'), true);
    for (const id of ['verb', 'whole', 'inside', 'late', 'gone']) expect(r.slot(id)).toBeUndefined();
    expect(r.node('b')).toBeUndefined();
    expect(r.slot('part')!.rack!.strands.map((s) => s.slots.length)).toEqual([0, 0]);
  });

  test('the sound is that of a session without it', () => {
    const s = states('inactive');
    const without: Session = {
      ...s,
      tracks: s.tracks
        .filter((t) => t.id !== 'b')
        .map((t) => ({
          ...t,
          chain: t.chain
            .filter((x) => x.state !== 'inactive')
            .map((x) =>
              x.kind === 'rack' ? { ...x, strands: x.strands.map((y) => ({ ...y, chain: [] })) } : x,
            ),
        })),
    };
    const sound = (x: Session) => renderNow(x, { sounds, to: 0.5 }).master[0];
    expect(difference(sound(s), sound(without))).toBe(0);
  });

  test('switched on while it plays, it is there without a click; off again, it is gone', () => {
    const r = new Renderer(48000, 128, sounds);
    r.update(states('inactive'), true);
    r.startAt(0);
    const [l, right] = [new Float32Array(128), new Float32Array(128)];
    const play = (blocks: number) => {
      for (let k = 0; k < blocks; k++) r.process(l, right, 128);
    };
    play(50);
    r.update(states('on'));
    play(50);
    expect(r.slot('verb')!.wet.value).toBe(1);
    expect(peak(l)).toBeGreaterThan(0.01);
    r.update(states('inactive'));
    play(50);
    expect(r.slot('verb')).toBeUndefined();
    expect(peak(l)).toBeGreaterThan(0.01);
  });
});
