import jsonpatch, { type Operation } from 'fast-json-patch';
import { ref, shallowRef } from 'vue';
import type { HistoryEntry, SessionDocument } from '../../contract/index.ts';
import { clone, type Session } from '../../core/index.ts';
import { sessionWith } from '../../tests/support/build.ts';
import { ApiError } from '../api/index.ts';
import { makeEarlier } from './earlier.ts';
import { makeHistory } from './history.ts';
import { makeOpening } from './opening.ts';
import { makeOutbox } from './outbox.ts';
import type { Keeper, Left, Unsent } from './offline.ts';
import { makeSelection } from './selection.ts';
import { Sync } from './sync.ts';

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

const start = (): Session =>
  sessionWith([{ id: 'a', name: 'Lead' }, { id: 'b', name: 'Choir' }, { id: 'c' }]);
const named = (s: Session, id: string, name: string): Session => ({
  ...s,
  tracks: s.tracks.map((t) => (t.id === id ? { ...t, name } : t)),
});
const nameOf = (s: Session, id: string) => s.tracks.find((t) => t.id === id)!.name;

/** What a browser keeps; `full` refuses, `gone` are windows that left something. */
function memory(): Keeper & {
  all: Map<string, Unsent>;
  full: boolean;
  gone: Left[];
  own: () => Unsent | null;
} {
  const all = new Map<string, Unsent>();
  const m = {
    all,
    full: false,
    gone: [] as Left[],
    own: () => all.get('x/this') ?? null,
    keep: async (session: string, work: Unsent) => {
      if (m.full) throw new Error('full');
      all.set(`${session}/this`, work);
    },
    forget: async (session: string, key = `${session}/this`) => {
      all.delete(key);
      m.gone = m.gone.filter((l) => l.key !== key);
    },
    left: async (session: string) => {
      const work = all.get(`${session}/this`);
      return [...(work ? [{ ...work, key: `${session}/this`, isOwn: true }] : []), ...m.gone];
    },
  };
  return m;
}

/** A server with one session, as the sync sees it: revisions, If-Match, and being away. */
function server(first: Session) {
  const s = { document: first, revision: 1, away: false, refuse: '', sends: 0 };
  return Object.assign(s, {
    read: async () => {
      if (s.away) throw new ApiError('no-answer', 'The server does not answer.');
      return { id: 'x', revision: s.revision, document: s.document };
    },
    send: async (_id: string, revision: number, ops: unknown[]) => {
      s.sends++;
      if (s.away) throw new ApiError('no-answer', 'The server does not answer.');
      if (s.refuse) throw new ApiError('breaks-a-rule', s.refuse);
      if (revision !== s.revision) throw new ApiError('changed-elsewhere', 'Changed elsewhere.');
      s.document = jsonpatch.applyPatch(clone(s.document), ops as Operation[]).newDocument as Session;
      return { revision: ++s.revision };
    },
    /** another window's change */
    elsewhere: (change: (d: Session) => Session) => {
      s.document = change(s.document);
      s.revision++;
    },
  });
}

function opened(first = start(), keeper = memory(), there = server(first)) {
  const id = ref<string | null>('x');
  const doc = shallowRef<Session | null>(there.document);
  const said: string[] = [];
  const actions: { label: string; run: () => void }[] = [];
  const steps: string[] = [];
  const sync = new Sync(
    id,
    doc,
    (s, label) => {
      if (label) steps.push(label);
      doc.value = s;
    },
    () => steps.splice(0),
    {
      read: there.read,
      send: (session, revision, ops) => there.send(session, revision, ops),
      keeper,
      say: (text, _kind, more = []) => {
        said.push(text);
        actions.push(...more);
      },
      fail: (e) => said.push(String(e)),
    },
  );
  sync.begin({ id: 'x', revision: there.revision, document: there.document });
  const change = (f: (s: Session) => Session) => {
    doc.value = f(doc.value!);
    sync.schedule();
  };
  const pass = (ms: number) => jest.advanceTimersByTimeAsync(ms);
  return { id, doc, sync, there, keeper, said, actions, steps, change, pass };
}

describe('sync', () => {
  test('changes in quick succession go out together, once', async () => {
    const w = opened();
    w.change((s) => named(s, 'a', 'One'));
    w.change((s) => named(s, 'b', 'Two'));
    expect(w.sync.save.value).toBe('saving');
    await w.pass(400);
    expect([w.there.sends, w.sync.save.value]).toEqual([1, 'saved']);
    expect([nameOf(w.there.document, 'a'), nameOf(w.there.document, 'b')]).toEqual(['One', 'Two']);
  });

  test('what is wanted on the server at once is there, though the change before is still on its way', async () => {
    const w = opened();
    const { send } = w.there;
    w.there.send = async (...sent) => {
      await new Promise((resolve) => setTimeout(resolve, 300));
      return send(...sent);
    };
    w.change((s) => named(s, 'a', 'First'));
    await w.pass(400);
    w.change((s) => named(s, 'a', 'Second'));
    let isThere = false;
    void w.sync.flush().then(() => (isThere = nameOf(w.there.document, 'a') === 'Second'));
    await w.pass(1000);
    expect([w.there.sends, isThere]).toEqual([2, true]);
  });

  test('while a fader moves and moves, it is saved every second', async () => {
    const w = opened();
    for (let at = 0; at < 5000; at += 100) {
      w.change((s) => named(s, 'a', `Level ${at}`));
      await w.pass(100);
    }
    expect(w.there.sends).toBeGreaterThanOrEqual(4);
    expect(w.there.sends).toBeLessThanOrEqual(6);
    await w.pass(400);
    expect(nameOf(w.there.document, 'a')).toBe('Level 4900');
  });

  test('another window was first: its changes are merged in and ours are sent again', async () => {
    const w = opened();
    const third = w.doc.value!.tracks[2];
    // as it comes over the wire: everything is another object
    w.there.elsewhere((s) => clone(named(s, 'b', 'Theirs')));
    w.change((s) => named(s, 'a', 'Mine'));
    await w.pass(1000);
    expect(w.sync.conflicts.value).toBeNull();
    // what nobody changed is not held twice, however many steps stand on the way back
    expect(w.doc.value!.tracks[2]).toBe(third);
    for (const s of [w.doc.value!, w.there.document]) {
      expect([nameOf(s, 'a'), nameOf(s, 'b')]).toEqual(['Mine', 'Theirs']);
    }
  });

  test('both changed one value: mine stays until the choice is made; the other side is one step', async () => {
    const w = opened();
    w.there.elsewhere((s) => named(s, 'a', 'Theirs'));
    w.change((s) => named(s, 'a', 'Mine'));
    await w.pass(1000);
    expect(w.sync.conflicts.value!.list).toHaveLength(1);
    expect(nameOf(w.there.document, 'a')).toBe('Mine');
    w.sync.settle('theirs');
    await w.pass(1000);
    expect([nameOf(w.doc.value!, 'a'), nameOf(w.there.document, 'a')]).toEqual(['Theirs', 'Theirs']);
    expect(w.steps).toEqual(['Take the other window’s values']);
  });

  test('an announced revision brings the other window’s changes in; our own does not', async () => {
    const w = opened();
    w.there.elsewhere((s) => named(s, 'b', 'Theirs'));
    w.sync.heard('x', 1);
    await w.pass(100);
    expect(nameOf(w.doc.value!, 'b')).toBe('Choir');
    w.sync.heard('x', 2);
    await w.pass(100);
    expect(nameOf(w.doc.value!, 'b')).toBe('Theirs');
  });

  test('what the server refuses stays here, is kept, and can be let go', async () => {
    const w = opened();
    w.there.refuse = 'a rule';
    w.change((s) => named(s, 'a', 'Wrong'));
    await w.pass(400);
    expect(w.sync.save.value).toBe('refused');
    expect(w.keeper.own()!.mine.tracks[0].name).toBe('Wrong');
    await w.pass(60000);
    expect(w.there.sends).toBe(1);
    w.actions[0].run();
    expect([nameOf(w.doc.value!, 'a'), w.sync.save.value]).toEqual(['Lead', 'saved']);
  });
});

describe('offline', () => {
  test('work is kept while the server is away, asked for ever more slowly, and sent when it is back', async () => {
    const w = opened();
    w.there.away = true;
    w.change((s) => named(s, 'a', 'Kept'));
    await w.pass(400);
    expect(w.sync.save.value).toBe('waiting');
    expect(w.keeper.own()!.mine.tracks[0].name).toBe('Kept');
    await w.pass(60000);
    const asked = w.there.sends;
    expect(asked).toBeLessThan(15);
    expect(w.said.filter((t) => t.includes('does not answer'))).toHaveLength(1);
    w.there.away = false;
    await w.pass(9000);
    expect([w.sync.save.value, nameOf(w.there.document, 'a')]).toEqual(['saved', 'Kept']);
    expect(w.keeper.all.size).toBe(0);
    expect(w.said.at(-1)).toMatch(/server is back/);
  });

  test('what closed windows could not send comes back as a merge, each of them; what both changed is asked', async () => {
    const first = start();
    const keeper = memory();
    const left = (key: string, id: string, name: string) => ({
      key,
      isOwn: false,
      base: first,
      mine: named(first, id, name),
    });
    keeper.gone = [left('x/one', 'a', 'Kept'), left('x/two', 'c', 'Kept too')];
    const there = server(first);
    there.elsewhere((s) => named(named(s, 'b', 'Theirs'), 'a', 'Newer'));
    const w = opened(first, keeper, there);
    await w.pass(400);
    expect(w.steps).toEqual(['Changes kept from before', 'Changes kept from before']);
    expect(w.sync.conflicts.value!.list.map((c) => c.path)).toEqual(['/tracks/a/name']);
    expect(['a', 'b', 'c'].map((t) => nameOf(there.document, t))).toEqual(['Kept', 'Theirs', 'Kept too']);
    w.sync.settle('theirs');
    await w.pass(400);
    expect(nameOf(there.document, 'a')).toBe('Newer');
    expect([keeper.all.size, keeper.gone.length]).toEqual([0, 0]);
  });

  test('work is kept with the first change already, whatever its size', async () => {
    const w = opened();
    const many = sessionWith(Array.from({ length: 790 }, (_, i) => ({ id: `t${i}`, name: `Line ${i}` })));
    w.change((s) => ({ ...s, tracks: [...many.tracks.slice(0, -1), ...s.tracks] }));
    await w.pass(10);
    expect(w.keeper.own()!.mine.tracks.length).toBeGreaterThan(790);
    await w.pass(1000);
    expect([w.sync.save.value, w.keeper.all.size]).toEqual(['saved', 0]);
  });

  test('a change that is taken back before it was sent leaves nothing behind', async () => {
    const w = opened();
    const before = w.doc.value!;
    w.change((s) => named(s, 'a', 'Undone'));
    await w.pass(10);
    expect(w.keeper.own()).not.toBeNull();
    w.change(() => before);
    await w.pass(10);
    expect([w.keeper.all.size, w.sync.save.value]).toEqual([0, 'saved']);
    // also while it is being kept
    w.change((s) => named(s, 'a', 'Again'));
    w.change(() => before);
    await w.pass(10);
    expect(w.keeper.all.size).toBe(0);
  });

  test('a browser without room is said once, and the window says that it must stay open', async () => {
    const w = opened();
    w.keeper.full = true;
    w.there.away = true;
    w.change((s) => named(s, 'a', 'One'));
    await w.pass(2000);
    w.change((s) => named(s, 'a', 'Two'));
    await w.pass(2000);
    expect(w.said.filter((t) => t.includes('no room'))).toHaveLength(1);
    expect(w.sync.kept.value).toBe(false);
    w.keeper.full = false;
    w.change((s) => named(s, 'a', 'Three'));
    await w.pass(2000);
    expect([w.sync.kept.value, nameOf(w.keeper.own()!.mine, 'a')]).toEqual([true, 'Three']);
  });

  /** Lets go of the session, as before another is opened. */
  async function left(w: ReturnType<typeof opened>, ms = 0) {
    const finished = w.sync.finish();
    await w.pass(ms);
    await finished;
    w.id.value = w.doc.value = null;
  }
  function answersAfter({ there }: ReturnType<typeof opened>, ms: number) {
    const { send } = there;
    there.send = (...all) => new Promise((resolve) => setTimeout(() => resolve(send(...all)), ms));
  }
  function openedAgain(w: ReturnType<typeof opened>) {
    w.id.value = 'x';
    w.doc.value = w.there.document;
    w.sync.begin({ id: 'x', revision: w.there.revision, document: w.there.document } as SessionDocument);
  }

  test('left while a change is on its way: the next one goes out as well before another session is open', async () => {
    const w = opened();
    answersAfter(w, 800);
    w.change((s) => named(s, 'a', 'One'));
    await w.pass(400);
    w.change((s) => named(s, 'b', 'Two'));
    await left(w, 2000);
    expect([nameOf(w.there.document, 'a'), nameOf(w.there.document, 'b')]).toEqual(['One', 'Two']);
    expect(w.keeper.own()).toBeNull();
  });

  test('left while the server is away: opened again in the same window, the work is there, and goes out', async () => {
    const w = opened();
    w.there.away = true;
    w.change((s) => named(s, 'a', 'One'));
    await w.pass(100);
    w.change((s) => named(s, 'b', 'Two'));
    await left(w, 100);
    w.there.away = false;
    openedAgain(w);
    await w.pass(400);
    expect([nameOf(w.doc.value!, 'a'), nameOf(w.doc.value!, 'b')]).toEqual(['One', 'Two']);
    expect([nameOf(w.there.document, 'a'), nameOf(w.there.document, 'b')]).toEqual(['One', 'Two']);
    await w.pass(400);
    expect(w.keeper.own()).toBeNull();
  });

  test('an answer that comes when the session was left says nothing of the one that is open then', async () => {
    const w = opened();
    answersAfter(w, 20_000);
    w.change((s) => named(s, 'a', 'One'));
    await w.pass(400);
    await left(w, 6000);
    // kept, since nobody knows whether it arrived
    expect(w.keeper.own()).not.toBeNull();
    const other = start();
    const sent: unknown[][] = [];
    w.there.send = async (...all) => {
      sent.push(all);
      return { revision: 8 };
    };
    w.id.value = 'y';
    w.doc.value = other;
    w.sync.begin({ id: 'y', revision: 7, document: other } as SessionDocument);
    // nor is it waited for
    w.change((s) => named(s, 'c', 'Three'));
    await w.pass(400);
    expect(sent).toEqual([['y', 7, [expect.objectContaining({ value: 'Three' })]]]);
    await w.pass(20_000);
    w.change((s) => named(s, 'c', 'Four'));
    await w.pass(400);
    expect(sent[1]).toEqual(['y', 8, [expect.objectContaining({ value: 'Four' })]]);
  });

  test('what does not fit any more stays kept and is told', async () => {
    const first = start();
    const keeper = memory();
    keeper.gone = [{ key: 'x/one', isOwn: false, base: first, mine: { ...first, tempo: 5000 } }];
    const w = opened(first, keeper);
    await w.pass(400);
    expect([w.steps, keeper.gone.length, w.said.length]).toEqual([[], 1, 1]);
  });

  test('a window that goes keeps what is unsent and sends it along', async () => {
    const w = opened();
    // what was kept before has been read
    await w.pass(0);
    w.change((s) => named(s, 'a', 'Last'));
    w.sync.leave();
    expect(w.keeper.own()).not.toBeNull();
    await w.pass(0);
    expect(nameOf(w.there.document, 'a')).toBe('Last');
  });
});

test('history: a gesture is one step; undo keeps what others did meanwhile, and says when it cannot', () => {
  const h = makeHistory();
  const s0 = start();
  const s1 = named(s0, 'a', 'A');
  const s2 = named(s1, 'a', 'AB');
  h.push('Rename', s0, s1, 'name');
  h.push('Rename', s1, s2, 'name');
  expect(h.undoStack.value).toHaveLength(1);
  const now = named(s2, 'b', 'Theirs');
  const back = h.travel(now, true)!;
  if ('refused' in back) throw new Error(back.refused);
  expect([nameOf(back.session, 'a'), nameOf(back.session, 'b')]).toEqual(['Lead', 'Theirs']);
  const again = h.travel(back.session, false)!;
  expect('session' in again && again.session).toEqual(now);
  const withoutB = { ...now, tracks: now.tracks.filter((t) => t.id !== 'b') };
  h.push('Send to the choir', now, {
    ...now,
    tracks: now.tracks.map((t) => (t.id === 'a' ? { ...t, folder: null } : t)),
  });
  expect(h.travel(withoutB, true)).not.toBeNull();
  expect(makeHistory().travel(s0, true)).toBeNull();
});

test('selection: one, a range, several in turn', () => {
  const doc = shallowRef<Session | null>(start());
  const s = makeSelection(doc);
  s.select('a');
  s.choose('c', true);
  expect(s.together.value).toEqual(['a', 'b', 'c']);
  s.choose('b', false);
  expect(s.together.value).toEqual(['a', 'c']);
  s.choose('c', false);
  expect([s.selectedTrack.value, s.chosen.value]).toEqual(['a', []]);
});

describe('steps', () => {
  const step = (label: string, before: Session, after: Session, key?: string) =>
    ({ label, kind: 'do', before, after, key }) as const;

  test('each step goes out as a change of its own, a gesture as one; what another window mixed in, together', () => {
    const outbox = makeOutbox();
    const a = start();
    const b = named(a, 'a', 'One');
    const c = named(b, 'a', 'Two');
    const d = named(c, 'b', 'Three');
    outbox.put(step('Level', a, b, 'level'));
    outbox.put(step('Level', b, c, 'level'));
    outbox.put(step('Name', c, d));
    expect(outbox.next(a, d)).toEqual({ after: c, words: { label: 'Level', kind: 'do' } });
    expect(outbox.next(c, d)).toEqual({ after: d, words: { label: 'Name', kind: 'do' } });
    const theirs = named(d, 'c', 'Other');
    const mine = named(d, 'a', 'Four');
    outbox.put(step('Name again', d, mine));
    const merged = named(theirs, 'a', 'Four');
    expect(outbox.next(theirs, merged)).toEqual({
      after: merged,
      words: { label: 'Name again', kind: 'do' },
    });
  });

  test('undo goes on with steps from before: what was undone already is passed over with its undo', async () => {
    const docs = ['Zero', 'One', 'Two', 'Three'].map((name) => named(start(), 'a', name));
    // done, done, undone, done
    const walk = [docs[0], docs[1], docs[2], docs[1], docs[3]];
    const kinds = ['do', 'do', 'undo', 'do'] as const;
    const entries = kinds.map((kind, k) => ({
      revision: k + 2,
      steps: 1,
      label: `${kind} ${k}`,
      kind,
      client: '',
      by: null,
      at: '2026-01-01T00:00:00Z',
      back: jsonpatch.compare(walk[k + 1], walk[k]),
    }));
    const earlier = makeEarlier(async () => [...entries].reverse());
    earlier.begin('x', walk[4], 5);
    await jest.advanceTimersByTimeAsync(0);
    expect(earlier.label.value).toBe('do 3');
    const [first, second] = [earlier.take()!, earlier.take()!];
    expect([first.label, nameOf(first.after, 'a'), nameOf(first.before, 'a')]).toEqual([
      'do 3',
      'Three',
      'One',
    ]);
    expect([second.label, nameOf(second.after, 'a'), nameOf(second.before, 'a')]).toEqual([
      'do 0',
      'One',
      'Zero',
    ]);
    expect([earlier.take(), earlier.label.value]).toEqual([null, '']);
  });

  test('undo goes on with what was left of an older hour as one step, also behind an undo', async () => {
    const docs = ['Zero', 'One', 'Two'].map((name) => named(start(), 'a', name));
    const entry = (revision: number, steps: number, kind: HistoryEntry['kind'], back: Operation[]) => ({
      ...{ revision, steps, kind, back, label: 'Name', client: '', by: null, at: '2026-01-01T00:00:00Z' },
    });
    const all = [
      entry(50, 1, 'undo', jsonpatch.compare(docs[1], docs[2])),
      entry(49, 40, 'do', jsonpatch.compare(docs[2], docs[0])),
    ];
    const asked: number[] = [];
    const earlier = makeEarlier(async (_id, o) => {
      asked.push(o.from);
      return all.filter((e) => e.revision <= o.from);
    });
    earlier.begin('x', docs[1], 50);
    await jest.advanceTimersByTimeAsync(0);
    expect(earlier.label.value).toBe('Name, and 39 before it');
    expect(nameOf(earlier.take()!.before, 'a')).toBe('Zero');
    await jest.advanceTimersByTimeAsync(0);
    // the next page begins where the joined step leads
    expect(asked).toEqual([50, 9]);
  });
});

test('of several sessions that are asked for the last one is open in the end, whichever answer comes first', async () => {
  const ms: Record<string, number> = { slow: 500, quick: 50 };
  let there: string | null = null;
  const { open } = makeOpening<string>({
    opened: () => there,
    read: (id) => new Promise((resolve) => setTimeout(() => resolve(id), ms[id])),
    shut: () =>
      new Promise((resolve) =>
        setTimeout(() => {
          there = null;
          resolve();
        }, 20),
      ),
    begin: (got) => {
      there = got;
    },
  });
  for (const asked of [
    ['slow', 'quick'],
    ['quick', 'slow'],
    ['slow', 'quick', 'slow'],
    ['slow', 'slow'],
  ]) {
    const all = asked.map((id) => open(id));
    await jest.advanceTimersByTimeAsync(2000);
    await Promise.all(all);
    expect([asked, there]).toEqual([asked, asked.at(-1)]);
    // one that is there is not read again
    ms.slow = ms.quick = 50;
    await open(asked.at(-1)!);
    Object.assign(ms, { slow: 500, quick: 50 });
  }
});
