import { createStore, del, entries, set } from 'idb-keyval';
import type { Id, Session } from '../../core/index.ts';

/** Work that could not be sent: what the server had, and what stands here. */
export interface Unsent {
  base: Session;
  mine: Session;
}

/** Unsent work that a window left behind, under the key of its entry. */
export interface Left extends Unsent {
  key: string;
  /** of this window, which had the session open before */
  isOwn: boolean;
}

/** Where unsent work is kept, one entry for each window and session: the browser's, or a stand-in in tests. */
export interface Keeper {
  /** Puts this window's work in the place of what it kept before. @throws when there is no room */
  keep(session: Id, work: Unsent): Promise<void>;
  /** Forgets what this window kept, or the entry of another that is taken over. */
  forget(session: Id, key?: string): Promise<void>;
  /** What windows that are gone have left of a session, and this one before it opened another. */
  left(session: Id): Promise<Left[]>;
}

const PREFIX = 'rope-shelf-window-';
const isUnsent = (x: unknown): x is Unsent =>
  typeof x === 'object' && x !== null && 'base' in x && 'mine' in x;

/**
 * Holds a lock as long as the page is seen. A page that is left may go on in the browser's cache, and would hold
 * it there: it lets go, and takes it again when it comes back.
 */
function holdWhileOpen(name: string): void {
  let letGo = (): void => undefined;
  const held = () =>
    new Promise<void>((resolve) => {
      letGo = resolve;
    });
  const hold = () => void navigator.locks?.request(name, held);
  hold();
  addEventListener('pagehide', () => letGo());
  addEventListener('pageshow', (e) => {
    if (e.persisted) hold();
  });
}

/**
 * Keeps work in IndexedDB, which holds far more than a session. A window holds a lock as long as it is open
 * (Web Locks), so that nobody takes the work of a window that still has it.
 */
export function browserKeeper(): Keeper {
  // both are there in secure contexts only: on another name without TLS every entry counts as left
  const window = crypto.randomUUID?.() ?? Math.random().toString(36).slice(2);
  const store = createStore('rope-shelf', 'unsent');
  const keyOf = (session: Id, of = window) => `${session}/${of}`;
  holdWhileOpen(PREFIX + window);
  return {
    keep: (session, work) => set(keyOf(session), work, store),
    forget: (session, key = keyOf(session)) => del(key, store),
    async left(session) {
      const held = new Set((await navigator.locks?.query())?.held?.map((lock) => lock.name));
      const isGone = (key: string) => !held.has(PREFIX + key.slice(session.length + 1));
      const own = keyOf(session);
      return (await entries<string, unknown>(store)).flatMap(([key, work]) => {
        const isLeft = key.startsWith(`${session}/`) && (key === own || isGone(key));
        return isLeft && isUnsent(work) ? [{ ...work, key, isOwn: key === own }] : [];
      });
    },
  };
}
