import { makeLatest, makeOnce } from './latest.ts';

const after = (ms: number, value: string) =>
  new Promise<string>((resolve, reject) => {
    setTimeout(() => (value === 'fails' ? reject(new Error(value)) : resolve(value)), ms);
  });

test.each([
  [
    ['slow', 30],
    ['quick', 1],
    [null, 'quick'],
  ],
  [
    ['quick', 1],
    ['slow', 30],
    [null, 'slow'],
  ],
  [
    ['fails', 30],
    ['quick', 1],
    [null, 'quick'],
  ],
] as const)('%s, then %s: %j', async (first, second, wanted) => {
  const latest = makeLatest();
  const found = await Promise.all([first, second].map(([value, ms]) => latest(after(ms, value))));
  expect(found.map((x) => x && x.value)).toEqual(wanted);
});

test('what was asked for last and fails is told', async () => {
  const latest = makeLatest();
  const quick = latest(after(1, 'quick'));
  await expect(latest(after(5, 'fails'))).rejects.toThrow('fails');
  expect(await quick).toBeNull();
});

test('what is asked for once: all who come meanwhile wait for it; what was not answered is asked again', async () => {
  const answers = [false, true];
  let asked = 0;
  const load = makeOnce(async () => {
    const answer = answers[asked++];
    await after(5, '');
    return answer;
  });
  await Promise.all([load(), load()]);
  expect(asked).toBe(1);
  await Promise.all([load(), load()]);
  await load();
  expect(asked).toBe(2);
});
