import { nextTick, shallowRef } from 'vue';
import {
  applyDrop,
  capture,
  createPreset,
  planDrop,
  type Preset,
  type Session,
} from '../../../core/index.ts';
import { device, sessionWith } from '../../../tests/support/build.ts';
import { ApiError } from '../../api/index.ts';
import { makeStates, type Shelf } from './states.ts';

const settle = () => new Promise((resolve) => setImmediate(resolve));
const later = <T>() => {
  let answer!: (value: T) => void;
  const promise = new Promise<T>((resolve) => (answer = resolve));
  return { promise, answer };
};

/** A preset of the shelf, and a session after it was dropped into one. */
function preset(id: string): Preset {
  const s = sessionWith([{ id: `line-${id}`, name: id, chain: [device('eq', {}, { id: `eq-${id}` })] }]);
  return createPreset(capture(s, [`line-${id}`]), { id, name: id });
}
const dropped = (s: Session, p: Preset): Session =>
  applyDrop(s, planDrop(s, p, { place: { kind: 'new' } }), p).session;

/** The states of what is in a session, by the names of presets. */
function watching(first: Session, shelf: Shelf) {
  const doc = shallowRef<Session | null>(first);
  const states = makeStates(() => doc.value, shelf);
  const names = () => [...states.all.value.values()].map((t) => t.name).sort();
  return { doc, states, names };
}
const [gull, mast] = [preset('gull'), preset('mast')];
const presets = new Map([gull, mast].map((p) => [p.id, p]));
const currentOf = (ids: string[]) =>
  Object.fromEntries(ids.map((id) => [id, { version: 1, name: presets.get(id)!.name }]));

test('of two answers the one that was asked for last counts, whichever comes first', async () => {
  const answers: (() => void)[] = [];
  const shelf: Shelf = {
    currentVersions: (ids) => {
      const { promise, answer } = later<ReturnType<typeof currentOf>>();
      answers.push(() => answer(currentOf(ids)));
      return promise;
    },
    presetVersion: async (id) => presets.get(id)!,
  };
  const one = dropped(sessionWith([]), gull);
  const { doc, names } = watching(one, shelf);
  doc.value = dropped(one, mast);
  await nextTick();
  expect(answers).toHaveLength(2);
  answers[1]();
  await settle();
  answers[0]();
  await settle();
  expect(names()).toEqual(['gull', 'mast']);
});

test('a shelf that does not answer says nothing of what is on it, and is asked again', async () => {
  jest.useFakeTimers({ doNotFake: ['setImmediate', 'queueMicrotask', 'nextTick'] });
  try {
    let isAway = true;
    const shelf: Shelf = {
      currentVersions: async (ids) => currentOf(ids),
      presetVersion: async (id) => {
        if (isAway) throw new ApiError('no-answer', 'The server does not answer.');
        return presets.get(id)!;
      },
    };
    const { doc, states, names } = watching(dropped(sessionWith([]), gull), shelf);
    await settle();
    const [{ origin }] = doc.value!.tracks.filter((t) => t.origin);
    expect([names(), states.isGone(origin!)]).toEqual([[], false]);
    isAway = false;
    jest.advanceTimersByTime(5000);
    await settle();
    expect([names(), states.isGone(origin!)]).toEqual([['gull'], false]);
  } finally {
    jest.useRealTimers();
  }
});

test('what was taken off the shelf is gone, and its line stays as it is', async () => {
  const refuse = async () => {
    throw new ApiError('not-found', 'This preset is not here.');
  };
  const shelf: Shelf = { currentVersions: async () => ({}), presetVersion: refuse };
  const { doc, states, names } = watching(dropped(sessionWith([]), gull), shelf);
  await settle();
  const [{ origin }] = doc.value!.tracks.filter((t) => t.origin);
  expect([names(), states.isGone(origin!)]).toEqual([[], true]);
});
