/** Who else is in a session: windows that say where they are, come, go, and fall silent. */
import { nextTick, ref } from 'vue';
import type { Here } from '../../contract/index.ts';
import { api } from '../api/index.ts';
import { makeHere } from './here.ts';

const at = (client: string, line: string | null, gone = false): Here => ({
  client,
  person: { id: client, name: client },
  line,
  gone,
});

describe('who is here', () => {
  const said: (string | null)[] = [];
  beforeEach(() => {
    jest.useFakeTimers();
    said.length = 0;
    jest.spyOn(api, 'here').mockImplementation((_id, { line }) => {
      said.push(line ?? null);
      return Promise.resolve();
    });
  });
  afterEach(() => {
    jest.useRealTimers();
    jest.restoreAllMocks();
  });
  const begun = () => {
    const line = ref<string | null>('choir');
    const here = makeHere(ref('session'), line);
    here.begin();
    jest.advanceTimersByTime(1);
    return { here, line };
  };

  test('alone, only signs of life are sent; who comes is told, and then each line that is chosen', async () => {
    const { here, line } = begun();
    expect(said).toEqual(['choir']);
    line.value = 'bass';
    await nextTick();
    jest.advanceTimersByTime(1000);
    expect(said).toEqual(['choir']);
    here.heard(at('helm', null));
    jest.advanceTimersByTime(1000);
    expect(said).toEqual(['choir', 'bass']);
    // passing over lines is no news; where one stays is
    for (const over of ['keys', 'drums', 'lead']) {
      line.value = over;
      await nextTick();
      jest.advanceTimersByTime(50);
    }
    jest.advanceTimersByTime(1000);
    expect(said).toEqual(['choir', 'bass', 'lead']);
    // one that is known is not answered again
    here.heard(at('helm', 'keys'));
    jest.advanceTimersByTime(1000);
    expect(said).toHaveLength(3);
    expect(here.others.value.map((o) => [o.client, o.line])).toEqual([['helm', 'keys']]);
    here.end();
  });

  test('one that leaves is gone at once, one that falls silent a while later; both may come again', () => {
    const { here } = begun();
    here.heard(at('helm', null));
    here.heard(at('purser', null));
    here.heard(at('helm', null, true));
    expect(here.others.value.map((o) => o.client)).toEqual(['purser']);
    jest.advanceTimersByTime(30_000);
    here.heard(at('purser', 'bass'));
    jest.advanceTimersByTime(30_000);
    expect(here.others.value.map((o) => o.client)).toEqual(['purser']);
    jest.advanceTimersByTime(45_000);
    expect(here.others.value).toEqual([]);
    here.heard(at('helm', null));
    expect(here.others.value.map((o) => o.client)).toEqual(['helm']);
    here.end();
    expect(here.others.value).toEqual([]);
  });
});
