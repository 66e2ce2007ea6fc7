import { In, type DataSource, type EntityManager } from 'typeorm';
import type { PackItem, PackPlan } from '../../contract/index.ts';
import { fateOf, hashOf, nameFromPack, studioHash, type PackLine, type Studio } from '../../core/index.ts';
import { ownerNow } from '../db/acting.ts';
import { PresetRow, PresetVersionRow, SessionRow, SetupRow, SetupVersionRow } from '../db/entities.ts';
import { mediaRows } from '../db/media.ts';
import { documentOf, WITH_DOCUMENT } from '../db/session-document.ts';
import { readDocument } from './documents.ts';
import { withOwnIds } from './own-ids.ts';
import type { Unpacked } from '../work/packing.ts';

/** What of a pack is put in, and how: an item with where its history goes on. */
export interface PlannedItem extends PackItem {
  /** versions that are here already, from its first one on */
  known: number;
  isDeleted: boolean;
}
/** ids that are asked for together */
const PART = 500;

/** What is here under some ids. */
interface Here {
  hashes: Map<string, string[]>;
  deleted: Set<string>;
}

async function inParts<T>(ids: readonly string[], find: (part: string[]) => Promise<T[]>): Promise<T[]> {
  const all: T[] = [];
  for (let at = 0; at < ids.length; at += PART) all.push(...(await find(ids.slice(at, at + PART))));
  return all;
}

/** Names that are taken: each is said once, and what comes under it takes it, too. */
class Names {
  private constructor(private readonly taken: Set<string>) {}
  static async of(m: EntityManager, table: 'preset' | 'setup' | 'session', names: string[]): Promise<Names> {
    const rows = await inParts(names, (part) =>
      m.query<{ name: string }[]>(
        `SELECT name FROM \`${table}\` WHERE owner = ? AND deletedAt IS NULL AND name IN (?)`,
        [ownerNow(), part],
      ),
    );
    return new Names(new Set(rows.map((r) => r.name)));
  }
  has(name: string): boolean {
    return this.taken.has(name);
  }
  /** The name that something gets beside those that are there. */
  next(name: string): string {
    const free = nameFromPack(name, this.taken);
    this.taken.add(free);
    return free;
  }
}

async function presetsHere(m: EntityManager, ids: string[]): Promise<Here> {
  const rows = await inParts(ids, (part) =>
    m.find(PresetVersionRow, {
      where: { preset: In(part), owner: ownerNow() },
      select: { preset: true, version: true, hash: true },
      order: { version: 'ASC' },
    }),
  );
  const gone = await inParts(ids, (part) => m.findBy(PresetRow, { id: In(part), owner: ownerNow() }));
  return here(
    rows.map((r) => ({ id: r.preset, hash: r.hash })),
    gone,
  );
}
async function setupsHere(m: EntityManager, ids: string[]): Promise<Here> {
  const rows = await inParts(ids, (part) =>
    m.find(SetupVersionRow, {
      where: { setup: In(part), owner: ownerNow() },
      select: { setup: true, version: true, document: true },
      order: { version: 'ASC' },
    }),
  );
  const gone = await inParts(ids, (part) => m.findBy(SetupRow, { id: In(part), owner: ownerNow() }));
  return here(
    rows.map((r) => ({ id: r.setup, hash: studioHash(r.document as Studio) })),
    gone,
  );
}
function here(
  versions: readonly { id: string; hash: string }[],
  rows: readonly { id: string; deletedAt: Date | null }[],
): Here {
  const hashes = new Map<string, string[]>();
  for (const { id, hash } of versions) hashes.set(id, [...(hashes.get(id) ?? []), hash]);
  return { hashes, deleted: new Set(rows.filter((r) => r.deletedAt).map((r) => r.id)) };
}

/** What becomes of each preset or studio of a pack. */
async function linesPlanned(
  m: EntityManager,
  kind: 'preset' | 'setup',
  lines: readonly PackLine[],
): Promise<PlannedItem[]> {
  const ids = lines.map((l) => l.id);
  const { hashes, deleted } = await (kind === 'preset' ? presetsHere(m, ids) : setupsHere(m, ids));
  const names = await Names.of(
    m,
    kind,
    lines.map((l) => l.name),
  );
  return lines.map((line): PlannedItem => {
    const { id, name } = line;
    const own = hashes.get(id);
    const isDeleted = deleted.has(id);
    const mine = own ? { hashes: own, isDeleted } : null;
    const { fate, known } = fateOf(line.hashes, mine, names.has(name));
    const isCopy = fate === 'both' || fate === 'name';
    return {
      kind,
      id,
      name,
      fate,
      known,
      isDeleted,
      versions: line.hashes.length - known,
      ...(isCopy ? { as: names.next(name) } : {}),
    };
  });
}

async function sessionsPlanned(m: EntityManager, unpacked: Unpacked): Promise<PlannedItem[]> {
  const { sessions } = unpacked.about;
  const names = await Names.of(
    m,
    'session',
    sessions.map((s) => s.name),
  );
  const items: PlannedItem[] = [];
  for (const { id, name } of sessions) {
    const row = await m.findOne(SessionRow, {
      where: { id, owner: ownerNow() },
      select: { deletedAt: true, ...WITH_DOCUMENT },
    });
    const isDeleted = Boolean(row?.deletedAt);
    const base = { kind: 'session' as const, id, name, known: 0, isDeleted, versions: 1 };
    // sessions may share a name: they lie in folders, and are told apart by their dates
    if (!row) items.push({ ...base, fate: 'new' });
    else if (hashOf(await documentOf(m, row)) === hashOf(await readDocument(unpacked, 'session', id))) {
      items.push({ ...base, versions: 0, fate: isDeleted ? 'trash' : 'same' });
    } else items.push({ ...base, fate: 'both', as: names.next(name) });
  }
  return items;
}

/** What would happen if a pack were taken in. */
export async function planItems(m: EntityManager, unpacked: Unpacked): Promise<PlannedItem[]> {
  return [
    ...(await linesPlanned(m, 'preset', unpacked.about.presets)),
    ...(await linesPlanned(m, 'setup', unpacked.about.setups)),
    ...(await sessionsPlanned(m, unpacked)),
  ];
}

/** The same in words for whoever decides. */
export async function planPack(db: DataSource, pack: Unpacked, name: string): Promise<PackPlan> {
  const unpacked = await withOwnIds(db.manager, pack);
  const items = await planItems(db.manager, unpacked);
  const there = new Set(
    (
      await mediaRows(
        db,
        unpacked.files.map((f) => f.id),
      )
    ).map((r) => r.id),
  );
  const fresh = unpacked.files.filter((f) => !there.has(f.id));
  return {
    name,
    madeAt: unpacked.about.madeAt,
    items: items.map(asItem),
    files: fresh.length,
    bytes: fresh.reduce((sum, f) => sum + f.place.size, 0),
    notes: unpacked.notes,
  };
}
export const asItem = ({ known: _k, isDeleted: _d, ...item }: PlannedItem): PackItem => item;
