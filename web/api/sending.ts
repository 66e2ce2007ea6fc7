import { ref } from 'vue';
import type { Upload } from '../../contract/index.ts';
import { ApiError, call, query } from './call.ts';

/** A file on its way to the server. */
export interface Sending {
  key: number;
  name: string;
  /** bytes in all, and those that are there */
  size: number;
  received: number;
  /** the server is away: what is missing is sent when it is back */
  isWaiting: boolean;
  /** all of it is there, and is looked at */
  isRead: boolean;
  stop: () => void;
}
/** Files that are sent now, for everybody to see. */
export const sendings = ref<Sending[]>([]);

/** ms after which a server that is away is asked again */
const AGAIN = 1500;
let count = 0;

/** Somebody stopped it; nothing is wrong. */
export class Stopped extends Error {
  constructor(name: string) {
    super(`“${name}” was not taken in: you stopped it.`);
    this.name = 'Stopped';
  }
}

/**
 * Sends a file in pieces; after a cut it goes on with what is missing.
 * @param finish what is asked of the server when it has all of it
 * @throws Stopped, ApiError
 */
export async function sendInPieces<T>(
  file: File,
  finish: (upload: string, signal: AbortSignal) => Promise<T>,
): Promise<T> {
  const stopping = new AbortController();
  const key = ++count;
  const { name, size } = file;
  const stop = () => stopping.abort();
  sendings.value.push({ key, name, size, received: 0, isWaiting: false, isRead: false, stop });
  const entry = sendings.value.find((s) => s.key === key)!;
  const { signal } = stopping;
  let id = '';
  try {
    const begun = await call<Upload>('POST', '/uploads', { json: { name, size }, signal });
    id = begun.id;
    for (let at = 0; at < size;) {
      at = await nextPiece(file, { ...begun, received: at }, entry, signal);
      entry.received = at;
    }
    entry.isRead = true;
    return await finish(id, signal);
  } catch (e) {
    if (id) void call('DELETE', `/uploads/${id}`).catch(() => undefined);
    throw signal.aborted ? new Stopped(name) : e;
  } finally {
    sendings.value = sendings.value.filter((s) => s.key !== key);
  }
}

/** Sends one piece, waiting for the server as long as it is away. @returns how many bytes are there then */
async function nextPiece(file: File, upload: Upload, entry: Sending, signal: AbortSignal): Promise<number> {
  for (let { received } = upload; ;) {
    try {
      const { piece, id } = upload;
      const raw = file.slice(received, received + piece);
      const there = await call<Upload>('PUT', `/uploads/${id}${query({ at: String(received) })}`, {
        raw,
        signal,
        headers: { 'Content-Type': 'application/octet-stream' },
      });
      entry.isWaiting = false;
      return there.received;
    } catch (e) {
      signal.throwIfAborted();
      if (!(e instanceof ApiError) || !e.passing) throw e;
      entry.isWaiting = true;
      await new Promise((resolve) => setTimeout(resolve, AGAIN));
      signal.throwIfAborted();
      // the piece may have come, and only its answer was lost
      received = await receivedOf(upload.id, received, signal);
    }
  }
}

async function receivedOf(id: string, otherwise: number, signal: AbortSignal): Promise<number> {
  try {
    return (await call<Upload>('GET', `/uploads/${id}`, { signal })).received;
  } catch (e) {
    if (e instanceof ApiError && e.passing) return otherwise;
    throw e;
  }
}
