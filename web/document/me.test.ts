import type { ShareEntry } from '../../contract/index.ts';
import { fresh } from '../../tests/support/store.ts';
import { useMe } from './me.ts';

const bosun = { id: 'b', name: 'bosun' };
const helm = { id: 'h', name: 'helm' };
const shelf: ShareEntry = {
  id: 's',
  kind: 'shelf',
  thing: '',
  right: 'read',
  owner: bosun,
  person: helm,
  name: '',
  openedAt: '',
};
const ANSWERS: Record<string, unknown> = {
  me: { person: helm, signIn: true },
  shares: { given: [], got: [shelf] },
  people: [bosun, helm],
};

/** A server whose answer to who works here takes longest, and fails at first as often as told. */
function slowServer(failures = 0): void {
  globalThis.fetch = async (address) => {
    const what = String(address).split('/').at(-1)!;
    await new Promise((done) => setTimeout(done, what === 'me' ? 30 : 1));
    if (what === 'me' && failures-- > 0) throw new TypeError('no line');
    return new Response(JSON.stringify(ANSWERS[what]), { headers: { 'Content-Type': 'application/json' } });
  };
}

const before = globalThis.fetch;
afterEach(() => void (globalThis.fetch = before));

test('a screen that asks for what is shared before it is known who works here gets it', async () => {
  slowServer();
  const me = fresh(useMe);
  void me.load();
  await Promise.all([me.loadShares(), me.lookAround()]);
  expect(me.shelves).toEqual([shelf]);
  expect(me.others).toEqual([bosun]);
});

test('who could not be told at the start is asked for again', async () => {
  slowServer(1);
  const me = fresh(useMe);
  await me.loadShares();
  expect(me.shelves).toEqual([]);
  await me.loadShares();
  expect(me.shelves).toEqual([shelf]);
});
