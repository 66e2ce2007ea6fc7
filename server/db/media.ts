import { createHash, randomBytes } from 'node:crypto';
import { open } from 'node:fs/promises';
import { setImmediate } from 'node:timers/promises';
import { In, type DataSource, type EntityManager } from 'typeorm';
import type { MediaRef } from '../../core/index.ts';
import type { Place } from '../work/open-file.ts';
import { soundRead, type SoundRead } from '../work/sound-read.ts';
import { ownerNow } from './acting.ts';
import { MediaChunkRow, MediaHolderRow, MediaRow, UploadRow } from './entities.ts';
import { transact } from './transaction.ts';

/** Bytes of a piece in the database. */
export const CHUNK = 1024 * 1024;
export type MediaKind = 'wav' | 'dawproject' | 'state';

/** What is kept of a file beside its bytes. */
export interface MediaAbout extends SoundRead {
  id: string;
  name: string;
  kind: MediaKind;
  /** of an imported file: the sounds in it, by their entries */
  sounds?: Record<string, MediaRef>;
}
export const NO_SOUND: SoundRead = { sampleRate: 0, channels: 2, frames: 0 };

const managerOf = (db: DataSource | EntityManager) => ('manager' in db ? db.manager : db);
const putChunk = (m: EntityManager, media: string, part: number, data: Uint8Array) =>
  m.query('REPLACE INTO media_chunk (media, part, owner, data) VALUES (?, ?, ?, ?)', [
    media,
    part,
    ownerNow(),
    data,
  ]);
/** One that is taken in again is young again: whoever sends it may not have saved what uses it. */
async function isThere(m: EntityManager, about: MediaAbout): Promise<boolean> {
  const { id } = about;
  if (!(await m.update(MediaRow, { id }, { createdAt: new Date() })).affected) return false;
  await hold(m, about);
  return true;
}
/** It stands in the list of whoever sent it, first. */
async function hold(m: EntityManager, { id: media, name }: MediaAbout): Promise<void> {
  const held = { owner: ownerNow(), media, name: name.slice(0, 255), createdAt: new Date() };
  await m.upsert(MediaHolderRow, held, ['owner', 'media']);
}
async function putRow(m: EntityManager, about: MediaAbout, size: number): Promise<void> {
  await m.query(
    `INSERT IGNORE INTO media (id, owner, kind, name, size, sampleRate, channels, frames, sounds)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`,
    [
      about.id,
      ownerNow(),
      about.kind,
      about.name.slice(0, 255),
      size,
      about.sampleRate,
      about.channels,
      about.frames,
      about.sounds ? JSON.stringify(about.sounds) : null,
    ],
  );
  await hold(m, about);
}

/**
 * Stores bytes once, by their sha-256, in pieces of 1 MiB. WAV files are read first, so that a broken one
 * never gets in.
 */
export async function putMedia(
  db: DataSource | EntityManager,
  bytes: Buffer,
  name: string,
  kind: MediaKind,
): Promise<MediaRef> {
  const id = await hashOf(bytes);
  const sound = kind === 'wav' ? soundRead(bytes, name) : NO_SOUND;
  await transact(managerOf(db), async (m) => {
    if (await isThere(m, { id, name, kind, ...sound })) return;
    for (let part = 0; part * CHUNK < bytes.length || part === 0; part++) {
      await putChunk(m, id, part, bytes.subarray(part * CHUNK, (part + 1) * CHUNK));
    }
    await putRow(m, { id, name, kind, ...sound }, bytes.length);
  });
  return { id, name, ...sound };
}

/** SHA-256 in pieces, between which others have their turn. */
async function hashOf(bytes: Buffer): Promise<string> {
  const hash = createHash('sha256');
  for (let at = 0; at < bytes.length; at += 8 * CHUNK) {
    hash.update(bytes.subarray(at, at + 8 * CHUNK));
    await setImmediate();
  }
  return hash.digest('hex');
}

/** Stores what lies in a file, a piece at a time. */
export async function putMediaFrom(db: DataSource, place: Place, about: MediaAbout): Promise<void> {
  if (await isThere(db.manager, about)) return;
  // as long as it is on its way it stands among the uploads, and is cleared away with them if it never arrives
  const coming = {
    id: about.id,
    owner: ownerNow(),
    name: about.name.slice(0, 255),
    size: place.size,
    received: 0,
  };
  await db.getRepository(UploadRow).upsert({ ...coming, createdAt: new Date() }, ['id']);
  const file = await open(place.path, 'r');
  try {
    const piece = Buffer.alloc(Math.min(CHUNK, place.size));
    for (let part = 0; part * CHUNK < place.size || part === 0; part++) {
      const from = part * CHUNK;
      const { bytesRead } = await file.read(piece, 0, Math.min(CHUNK, place.size - from), place.at + from);
      await putChunk(db.manager, about.id, part, piece.subarray(0, bytesRead));
    }
  } finally {
    await file.close();
  }
  await transact(db, async (m) => {
    await putRow(m, about, place.size);
    await m.delete(UploadRow, { id: about.id });
  });
}

/** The pieces of a file or of an upload, in their order. */
export async function* chunksOf(db: DataSource | EntityManager, media: string): AsyncGenerator<Buffer> {
  const repo = managerOf(db).getRepository(MediaChunkRow);
  for (let part = 0; ; part++) {
    const chunk = await repo.findOneBy({ media, part });
    if (!chunk) return;
    yield chunk.data;
  }
}

/**
 * Writes what the database has of a file into one on the disk, a piece at a time.
 * @returns false where it is not there, or not whole
 */
export async function bringMedia(
  db: DataSource | EntityManager,
  media: string,
  path: string,
  size: number,
): Promise<boolean> {
  const file = await open(path, 'w');
  let written = 0;
  try {
    for await (const data of chunksOf(db, media)) {
      await file.write(data);
      written += data.length;
    }
  } finally {
    await file.close();
  }
  return written === size;
}

export const mediaRow = (db: DataSource | EntityManager, id: string): Promise<MediaRow | null> =>
  managerOf(db).findOneBy(MediaRow, { id });

/** Those of some files that the database has. */
export async function mediaRows(db: DataSource, ids: Iterable<string>): Promise<MediaRow[]> {
  const list = [...new Set(ids)];
  return list.length ? db.getRepository(MediaRow).findBy({ id: In(list) }) : [];
}

/** A whole file in memory: for small ones. */
export async function getMedia(db: DataSource | EntityManager, id: string): Promise<Buffer | null> {
  const row = await mediaRow(db, id);
  if (!row) return null;
  const parts: Buffer[] = [];
  for await (const data of chunksOf(db, id)) parts.push(data);
  const bytes = Buffer.concat(parts);
  if (bytes.length !== row.size) throw new Error(`Media ${id} is not complete in the database.`);
  return bytes;
}

/** What the database has of these files, each once. */
export async function mediaFiles(db: DataSource, ids: Iterable<string>): Promise<Map<string, Uint8Array>> {
  const out = new Map<string, Uint8Array>();
  for (const id of new Set(ids)) {
    const bytes = await getMedia(db, id);
    if (bytes) out.set(id, bytes);
  }
  return out;
}

/** Begins a file that comes in pieces. @param size bytes in all */
export async function beginUpload(db: DataSource, name: string, size: number): Promise<UploadRow> {
  const id = randomBytes(32).toString('hex');
  const repo = db.getRepository(UploadRow);
  await repo.insert({ id, owner: ownerNow(), name, size, received: 0 });
  return repo.findOneByOrFail({ id });
}

/** The next bytes of an upload, of which all but the last are whole pieces. @returns how many it has then */
export function addToUpload(db: DataSource, id: string, at: number, bytes: Buffer): Promise<number> {
  return transact(db, async (m) => {
    const [row] = (await m.query('SELECT received FROM upload WHERE id = ? AND owner = ? FOR UPDATE', [
      id,
      ownerNow(),
    ])) as { received: number | string }[];
    const received = Number(row?.received ?? 0);
    // it came before, and only the answer was lost; or what is in front of it did not come yet
    if (!row || at !== received) return received;
    for (let from = 0; from < bytes.length; from += CHUNK) {
      await putChunk(m, id, (at + from) / CHUNK, bytes.subarray(from, from + CHUNK));
    }
    await m.update(UploadRow, { id }, { received: received + bytes.length });
    return received + bytes.length;
  });
}

/** Keeps an upload as the file that it turned out to be. */
export function keepUpload(db: DataSource, { id, size }: UploadRow, about: MediaAbout): Promise<void> {
  return transact(db, async (m) => {
    if (await isThere(m, about)) await m.delete(MediaChunkRow, { media: id });
    else {
      // of one that came to nothing
      await m.delete(MediaChunkRow, { media: about.id });
      await m.update(MediaChunkRow, { media: id }, { media: about.id });
      await putRow(m, about, size);
    }
    await m.delete(UploadRow, { id });
  });
}

/** Lets go of an upload. */
export function dropUpload(db: DataSource, id: string): Promise<void> {
  return transact(db, async (m) => {
    const { affected } = await m.delete(UploadRow, { id });
    // the chunks of what is kept meanwhile stay
    if (affected && !(await m.existsBy(MediaRow, { id }))) await m.delete(MediaChunkRow, { media: id });
  });
}
