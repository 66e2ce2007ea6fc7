import { isDeepStrictEqual } from 'node:util';
import { IsNull, Like, type DataSource } from 'typeorm';
import {
  changesSince,
  devicesIn,
  hashOf,
  mapDevices,
  newestRevision,
  type Device,
  type Preset,
  type Track,
} from '../core/index.ts';
import { actAsOwner, ownerNow } from './db/acting.ts';
import { OWNER, PresetRow, TagRow } from './db/entities.ts';
import { putPresetVersion } from './db/store.ts';
import { transact } from './db/transaction.ts';
import { presetVersion } from './http/shelf.ts';

/**
 * The demo's presets go on to the present sound of their devices: each whose sound has changed since it came gets a
 * version more, with a note that says so. Those that a person saved again are the person's, and stay.
 * @returns how many got a version
 */
export const renewDemo = (db: DataSource): Promise<number> => actAsOwner(OWNER, () => renewed(db));

async function renewed(db: DataSource): Promise<number> {
  const onShelf = { owner: ownerNow(), id: Like('demo-%'), deletedAt: IsNull() };
  const rows = await db.getRepository(PresetRow).findBy(onShelf);
  let count = 0;
  for (const row of rows) {
    const now = await presetVersion(db, row.id, row.currentVersion);
    const next = withPresentSound(now);
    if (!next) continue;
    const first = row.currentVersion === 1 ? now : await presetVersion(db, row.id, 1);
    if (!isDeepStrictEqual(asItCame(now), asItCame(first))) continue;
    const tags = await db.getRepository(TagRow).findBy({ preset: row.id });
    const { name, category, colour } = row;
    const named = { ...next, name, category, colour, tags: tags.map((tag) => tag.name) };
    if (await transact(db, (m) => putPresetVersion(m, named))) count++;
  }
  return count;
}

/** What a version was before the program went on to the present sound of its devices, however often it did. */
function asItCame(p: Preset) {
  const plain = (t: Track): Track => ({
    ...t,
    chain: mapDevices(t.chain, ({ revision: _revision, ...d }) => d as Device),
  });
  const { tracks, spares, ...rest } = p.content;
  const content = { ...rest, tracks: tracks.map(plain), spares: spares.map(plain) };
  return { note: p.note.replace(SAID, ''), hash: hashOf(content) };
}
/** what `withPresentSound` adds to a note */
const SAID = / ?Version \d+ plays the present sound of .*?; version \d+ keeps the one before\./g;

/** The next version of a preset whose devices play their present sound; null where that is heard nowhere. */
export function withPresentSound(p: Preset): Preset | null {
  const tracks = [...p.content.tracks, ...p.content.spares];
  const heard = tracks.flatMap((t) => devicesIn(t.chain)).filter((d) => changesSince(d).length > 0);
  if (!heard.length) return null;
  const present = (t: Track): Track => ({
    ...t,
    chain: mapDevices(t.chain, (d) => ({ ...d, revision: newestRevision(d.type) })),
  });
  const content = {
    ...p.content,
    tracks: p.content.tracks.map(present),
    spares: p.content.spares.map(present),
  };
  const names = [...new Set(heard.map((d) => d.name))].join(', ');
  const version = p.version + 1;
  const said = `Version ${version} plays the present sound of ${names}; version ${p.version} keeps the one before.`;
  return {
    ...p,
    version,
    parent: { preset: p.id, version: p.version },
    content,
    note: [p.note.replace(SAID, ''), said].filter(Boolean).join(' '),
    hash: hashOf(content),
  };
}
