import { open } from 'node:fs/promises';
import type { Preset, Session, Studio } from '../../core/index.ts';
import type { Place } from '../work/open-file.ts';
import type { Unpacked } from '../work/packing.ts';

interface Documents {
  preset: Preset;
  setup: Studio;
  session: Session;
}

/** The text that lies in a place. */
export async function textAt({ path, at, size }: Place): Promise<string> {
  const file = await open(path, 'r');
  try {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(size), 0, size, at);
    return buffer.subarray(0, bytesRead).toString();
  } finally {
    await file.close();
  }
}

/** Every version of something that a pack brings, the first one first. */
export async function readVersions<K extends keyof Documents>(
  { documents, moved }: Unpacked,
  kind: K,
  id: string,
): Promise<Documents[K][]> {
  const mine = documents.filter((d) => d.kind === kind && d.id === id);
  const read: Documents[K][] = [];
  for (const { place } of mine.toSorted((a, b) => a.version - b.version)) {
    const document = JSON.parse(await textAt(place)) as Documents[K];
    read.push(moved ? withMovedIds(kind, document, moved) : document);
  }
  return read;
}

/** A document that a pack brings, in its newest version. */
export async function readDocument<K extends keyof Documents>(
  unpacked: Unpacked,
  kind: K,
  id: string,
): Promise<Documents[K]> {
  const last = (await readVersions(unpacked, kind, id)).at(-1);
  if (!last) throw new Error(`The pack says that it holds ${kind} ${id}, and does not.`);
  return last;
}

/**
 * A document that speaks of others by the ids that they have here. What is in a preset stays as it is: its hash is made
 * of that.
 */
function withMovedIds<K extends keyof Documents>(
  kind: K,
  document: Documents[K],
  moved: ReadonlyMap<string, string>,
): Documents[K] {
  const to = <T extends string | null>(id: T): T => (moved.get(id ?? '') as T | undefined) ?? id;
  if (kind === 'session') {
    const speaksOf = new Set(['preset', 'setupId']);
    const text = JSON.stringify(document);
    return JSON.parse(text, (key, value: unknown) =>
      speaksOf.has(key) && typeof value === 'string' ? to(value) : value,
    ) as Documents[K];
  }
  const named = document as Preset | Studio;
  const parent = 'parent' in named && named.parent;
  const own = { ...named, id: to(named.id) };
  return (parent ? { ...own, parent: { ...parent, preset: to(parent.preset) } } : own) as Documents[K];
}
