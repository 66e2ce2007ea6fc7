import { createHash } from 'node:crypto';
import type { DataSource, EntityManager } from 'typeorm';
import { devicesIn, readWav, walkSlots, type MediaRef, type Preset, type Session } from '../../core/index.ts';
import { MediaChunkRow, MediaRow, OWNER, PresetRow, PresetVersionRow, SessionRow, TagRow } from './entities.ts';

const CHUNK = 1024 * 1024;

/** Stores bytes once, by their sha-256, in pieces of 1 MiB. WAV files are read first, so that a broken one never gets in. */
export async function putMedia(db: DataSource | EntityManager, bytes: Buffer, name: string, kind: 'wav' | 'dawproject' | 'state'): Promise<MediaRef> {
  const id = createHash('sha256').update(bytes).digest('hex');
  const wav = kind === 'wav' ? readWav(bytes, name) : null;
  const ref: MediaRef = { id, name, sampleRate: wav?.sampleRate ?? 0, channels: wav && wav.channels.length === 1 ? 1 : 2, frames: wav?.channels[0].length ?? 0 };
  const manager = 'manager' in db ? db.manager : db;
  await manager.transaction(async (m) => {
    if (await m.existsBy(MediaRow, { id })) return;
    for (let part = 0; part * CHUNK < bytes.length || part === 0; part++) {
      await m.query('REPLACE INTO media_chunk (media, part, owner, data) VALUES (?, ?, ?, ?)', [id, part, OWNER, bytes.subarray(part * CHUNK, (part + 1) * CHUNK)]);
    }
    await m.query('INSERT IGNORE INTO media (id, owner, kind, name, size, sampleRate, channels, frames) VALUES (?, ?, ?, ?, ?, ?, ?, ?)', [id, OWNER, kind, name.slice(0, 255), bytes.length, ref.sampleRate, ref.channels, ref.frames]);
  });
  return ref;
}

export async function getMedia(db: DataSource | EntityManager, id: string): Promise<Buffer | null> {
  const manager = 'manager' in db ? db.manager : db;
  const row = await manager.findOneBy(MediaRow, { id, owner: OWNER });
  if (!row) return null;
  const parts = await manager.find(MediaChunkRow, { where: { media: id }, order: { part: 'ASC' } });
  const bytes = Buffer.concat(parts.map((p) => p.data));
  if (bytes.length !== row.size) throw new Error(`Media ${id} is not complete in the database.`);
  return bytes;
}

export function sessionRow(id: string, s: Session): SessionRow {
  const row = new SessionRow();
  return Object.assign(row, { id, owner: OWNER, revision: 1, document: s, ...columnsOf(s), deletedAt: null });
}

/** What the list shows, kept beside the document. */
export const columnsOf = (s: Session) => ({ name: s.name, tempo: s.tempo, sampleRate: s.sampleRate, trackCount: s.tracks.length });

/** A version as stored and as found by search. */
export function presetRow(p: Preset): PresetRow {
  const devices = p.content.tracks.flatMap((t) => devicesIn(t.chain));
  const row = new PresetRow();
  return Object.assign(row, {
    id: p.id, owner: OWNER, kind: p.kind, name: p.name, category: p.category, colour: p.colour, pinned: 0, currentVersion: p.version, deletedAt: null,
    summary: { note: p.note, tags: p.tags, tracks: p.content.tracks.length, spares: p.content.spares.map((s) => s.name), devices: devices.map((d) => ({ type: d.type, name: d.name, state: d.state })) },
    search: searchText(p),
  });
}

export const searchText = (p: Preset): string =>
  [p.name, p.category, ...p.tags, p.kind, p.note, ...p.content.tracks.flatMap((t) => [t.name, ...[...walkSlots(t.chain)].map((d) => `${d.name} ${d.kind === 'device' ? d.type : 'rack'}`)])].join(' ').slice(0, 20000);

export async function putPreset(m: EntityManager, p: Preset): Promise<void> {
  await m.insert(PresetRow, presetRow(p));
  await m.insert(PresetVersionRow, { preset: p.id, version: p.version, owner: OWNER, hash: p.hash, document: p });
  await putTags(m, p.id, p.tags);
}

export async function putTags(m: EntityManager, preset: string, tags: string[]): Promise<void> {
  await m.delete(TagRow, { preset });
  const unique = [...new Map(tags.map((t) => [t.trim().toLowerCase(), t.trim()])).values()].filter(Boolean);
  if (unique.length) await m.insert(TagRow, unique.map((name) => ({ preset, name, owner: OWNER })));
}
