/** What waits for the first screen: in its turn, at once later on, and all the same where no screen ever comes. */
type First = typeof import('./first.ts');

let first: First;
let idle: (() => void)[] = [];
const done: string[] = [];
/** A browser that has nothing else to do once. */
const rest = async () => {
  idle.shift()?.();
  await jest.advanceTimersByTimeAsync(0);
};
const begin = (what: string) => void first.afterFirst().then(() => done.push(what));

beforeEach(async () => {
  jest.useFakeTimers();
  jest.resetModules();
  idle = [];
  done.length = 0;
  const requestIdleCallback = (task: () => void) => idle.push(task);
  Object.assign(globalThis, { window: { requestIdleCallback }, requestIdleCallback });
  first = await import('./first.ts');
});
afterEach(() => {
  jest.useRealTimers();
  Reflect.deleteProperty(globalThis, 'window');
  Reflect.deleteProperty(globalThis, 'requestIdleCallback');
});

test('nothing begins before the first screen is there; then one after the other, as the browser rests', async () => {
  begin('history');
  begin('shelf');
  await jest.advanceTimersByTimeAsync(1000);
  await rest();
  expect(done).toEqual([]);
  first.firstShown();
  await rest();
  expect(done).toEqual([]);
  await rest();
  expect(done).toEqual(['history']);
  await rest();
  expect(done).toEqual(['history', 'shelf']);
});

test('later on it is at once, also where the screen is shown again', async () => {
  first.firstShown();
  await rest();
  first.firstShown();
  begin('shelf');
  await jest.advanceTimersByTimeAsync(0);
  expect(done).toEqual(['shelf']);
});

test('a screen that is long in coming holds up nothing for ever', async () => {
  begin('history');
  await jest.advanceTimersByTimeAsync(2900);
  expect(idle).toEqual([]);
  await jest.advanceTimersByTimeAsync(200);
  await rest();
  expect(done).toEqual(['history']);
  // the next one waits for nothing either
  begin('shelf');
  await jest.advanceTimersByTimeAsync(0);
  await rest();
  expect(done).toEqual(['history', 'shelf']);
});

test('a question is asked late, with what it was asked for', async () => {
  const ask = jest.fn((id: string, limit: number) => Promise.resolve(`${id} ${limit}`));
  const answer = first.asksLate(ask)('kelp', 40);
  await jest.advanceTimersByTimeAsync(0);
  expect(ask).not.toHaveBeenCalled();
  first.firstShown();
  await rest();
  await rest();
  await expect(answer).resolves.toBe('kelp 40');
  expect(ask).toHaveBeenCalledWith('kelp', 40);
});

test('in a browser that does not say when it rests it is soon after', async () => {
  Object.assign(globalThis, { window: {} });
  first.firstShown();
  begin('shelf');
  await jest.advanceTimersByTimeAsync(200);
  expect(done).toEqual(['shelf']);
});
