import type { Session } from '../../core/index.ts';

/** Work that could not be sent: what the server had, and what stands here. */
export interface Unsent {
  base: Session;
  mine: Session;
}

/** Where unsent work is kept: the browser's storage, or a stand-in of it in tests. */
export type Storage = Pick<globalThis.Storage, 'getItem' | 'setItem' | 'removeItem'>;

const keyOf = (session: string) => `rope-shelf-unsaved-${session}`;

/** Keeps unsent work in the browser, so that closing the window loses nothing. */
export function keepUnsent(session: string, work: Unsent, storage: Storage): void {
  try {
    storage.setItem(keyOf(session), JSON.stringify(work));
  } catch {
    /* storage full: the window still holds it */
  }
}

export const forgetUnsent = (session: string, storage: Storage): void => storage.removeItem(keyOf(session));

/** What an earlier window kept of a session; null when there is nothing, or nothing that can be read. */
export function readUnsent(session: string, storage: Storage): Unsent | null {
  const text = storage.getItem(keyOf(session));
  if (!text) return null;
  try {
    return JSON.parse(text) as Unsent;
  } catch {
    return null;
  }
}
