import { randomUUID } from 'node:crypto';
import type { DataSource, EntityManager } from 'typeorm';
import type { PackTaken } from '../../contract/index.ts';
import type { Preset, Session, Studio } from '../../core/index.ts';
import type { PackLine, PackedRows } from '../../core/formats/pack.ts';
import { ownerNow } from '../db/acting.ts';
import { dropRecord } from '../db/drop-record.ts';
import {
  DefaultRow,
  DropRecordRow,
  PackTakenRow,
  PresetRow,
  PresetVersionRow,
  SessionRevisionRow,
  SessionRow,
  SetupRow,
  type PackMade,
} from '../db/entities.ts';
import { NO_SOUND, putMediaFrom } from '../db/media.ts';
import {
  presetRow,
  putPreset,
  putPresetVersion,
  putSession,
  putSetup,
  putSetupVersion,
  putTags,
  searchText,
} from '../db/store.ts';
import { transact } from '../db/transaction.ts';
import type { Unpacked } from '../work/packing.ts';
import { readDocument, readVersions, textAt } from './documents.ts';
import { withOwnIds } from './own-ids.ts';
import { asItem, planItems, type PlannedItem } from './plan.ts';

/** Fates that change nothing here. */
const IDLE = new Set<PlannedItem['fate']>(['same', 'older']);

/**
 * Takes a pack in, in one step: all of it, or nothing where something is in the way.
 * @param leave things that stay out, as “preset/…”
 */
export async function takePack(
  db: DataSource,
  pack: Unpacked,
  name: string,
  leave: ReadonlySet<string>,
): Promise<PackTaken> {
  const unpacked = await withOwnIds(db.manager, pack);
  await putFiles(db, unpacked);
  const id = randomUUID();
  const items = await transact(db, async (m) => {
    const taking = new Taking(m, unpacked);
    const planned = (await planItems(m, unpacked)).filter((i) => !leave.has(`${i.kind}/${i.id}`));
    for (const item of planned) if (!IDLE.has(item.fate)) await taking.take(item);
    await taking.defaults();
    await taking.drops();
    await m.insert(PackTakenRow, { id, owner: ownerNow(), name: name.slice(0, 255), made: taking.made });
    return planned.map(asItem);
  });
  return { id, items };
}

/** Sounds and other files first: each by itself does no harm, and what nobody speaks of is cleared away. */
async function putFiles(db: DataSource, { documents, files }: Unpacked): Promise<void> {
  const names = new Map<string, string>();
  for (const d of documents) {
    if (d.kind === 'setup') continue;
    const document = JSON.parse(await textAt(d.place)) as Pick<Preset, 'content'> &
      Pick<Session, 'media' | 'source'>;
    const media = d.kind === 'preset' ? document.content.media : document.media;
    for (const m of media) names.set(m.id, m.name);
    if (d.kind === 'session' && document.source) names.set(document.source.sha256, document.source.name);
  }
  for (const { kind, id, place, sound } of files) {
    await putMediaFrom(db, place, {
      id,
      kind,
      name: names.get(id) ?? id.slice(0, 12),
      ...(sound ?? NO_SOUND),
    });
  }
}

/** One pack on its way in. */
class Taking {
  readonly made: PackMade = {
    presets: [],
    setups: [],
    sessions: [],
    presetVersions: [],
    setupVersions: [],
    back: [],
  };
  private readonly lines: Map<string, PackLine>;

  constructor(
    private readonly m: EntityManager,
    private readonly unpacked: Unpacked,
  ) {
    this.lines = new Map(unpacked.about.presets.map((l) => [l.id, l]));
  }

  async take(item: PlannedItem): Promise<void> {
    if (item.isDeleted && item.fate !== 'both') await this.bringBack(item);
    if (item.fate === 'trash') return;
    if (item.kind === 'preset') await this.preset(item);
    else if (item.kind === 'setup') await this.setup(item);
    else await this.session(item);
  }

  private async bringBack({ kind, id }: PlannedItem): Promise<void> {
    const of = { preset: PresetRow, setup: SetupRow, session: SessionRow }[kind];
    await this.m.update(of as typeof PresetRow, { id, owner: ownerNow() }, { deletedAt: null });
    this.made.back.push({ kind, id });
  }

  private async preset(item: PlannedItem): Promise<void> {
    const versions = await readVersions(this.unpacked, 'preset', item.id);
    if (item.fate === 'newer') return this.nextVersions(item, versions);
    const isNew = item.fate === 'new';
    const id = isNew || item.fate === 'name' ? item.id : randomUUID();
    const parent = item.fate === 'both' && item.known > 0 ? { preset: item.id, version: item.known } : null;
    const name = item.as ?? item.name;
    // one that goes its own way from here on is a variant, and begins anew
    const mine =
      id === item.id
        ? versions
        : versions.slice(-1).map((p): Preset => ({ ...p, id, version: 1, parent, name }));
    const last = mine.at(-1)!;
    for (const p of mine.slice(0, -1)) {
      await this.m.insert(PresetVersionRow, {
        preset: id,
        version: p.version,
        owner: ownerNow(),
        hash: p.hash,
        document: p,
      });
    }
    await putPreset(this.m, last);
    await this.onShelf(id, last, name);
    this.made.presets.push(id);
  }
  /** Name, category, tags and pin, as they were where the pack was made. */
  private async onShelf(id: string, p: Preset, name: string): Promise<void> {
    const shelf = this.lines.get(p.id)?.shelf ?? this.lines.get(id)?.shelf;
    const { category = p.category, tags = p.tags, pinned = false, lastUsedAt = null } = shelf ?? {};
    const search = searchText({ ...p, name, category, tags });
    const summary = { ...(presetRow(p).summary as object), tags };
    await this.m.update(
      PresetRow,
      { id },
      {
        name,
        category,
        summary,
        search,
        pinned: Number(pinned),
        ...(lastUsedAt ? { lastUsedAt: new Date(lastUsedAt) } : {}),
      },
    );
    await putTags(this.m, id, tags);
  }
  /** Those of its versions that are not here go on from ours. */
  private async nextVersions(item: PlannedItem, versions: readonly Preset[]): Promise<void> {
    const { currentVersion: from } = await this.m.findOneByOrFail(PresetRow, {
      id: item.id,
      owner: ownerNow(),
    });
    const fresh = versions.slice(-Math.min(item.versions, versions.length));
    for (const [i, p] of fresh.entries()) {
      const version = from + i + 1;
      await putPresetVersion(this.m, { ...p, version, parent: { preset: item.id, version: version - 1 } });
    }
    this.made.presetVersions.push({ id: item.id, from, to: from + fresh.length });
  }

  private async setup(item: PlannedItem): Promise<void> {
    const versions = await readVersions(this.unpacked, 'setup', item.id);
    if (item.fate === 'newer') {
      const { currentVersion: from } = await this.m.findOneByOrFail(SetupRow, {
        id: item.id,
        owner: ownerNow(),
      });
      const fresh = versions.slice(-Math.min(item.versions, versions.length));
      for (const [i, s] of fresh.entries()) await putSetupVersion(this.m, s, from + i);
      this.made.setupVersions.push({ id: item.id, from, to: from + fresh.length });
      return;
    }
    const id = item.fate === 'both' ? randomUUID() : item.id;
    const named = (s: Studio): Studio => ({ ...s, id, name: item.as ?? s.name });
    await putSetup(this.m, named(versions[0]));
    for (const [i, s] of versions.slice(1).entries()) await putSetupVersion(this.m, named(s), i + 1);
    this.made.setups.push(id);
  }

  private async session(item: PlannedItem): Promise<void> {
    const session = await readDocument(this.unpacked, 'session', item.id);
    const id = item.fate === 'new' ? item.id : randomUUID();
    await putSession(this.m, id, { ...session, name: item.as ?? session.name });
    const { folder = '', revision } = this.unpacked.about.sessions.find((s) => s.id === item.id) ?? {};
    const isWhole = item.fate === 'new' && revision !== undefined;
    await this.m.update(
      SessionRow,
      { id },
      { folder: folder.slice(0, 200), ...(isWhole ? { revision, written: revision } : {}) },
    );
    if (isWhole) await this.rows(id);
    this.made.sessions.push(id);
  }
  /** Of a backup: the history of a session, and what was dropped into it. */
  private async rows(session: string): Promise<void> {
    for (const row of await this.rowsOf('history', session)) {
      await this.m.insert(SessionRevisionRow, { ...dated(row), session, owner: ownerNow() });
    }
    for (const row of await this.rowsOf<{ record?: object }>('drops', session)) {
      await this.m
        .createQueryBuilder()
        .insert()
        .into(DropRecordRow)
        .values({ ...dropRecord({ record: {}, ...dated(row) }), session, owner: ownerNow() })
        .orIgnore()
        .execute();
    }
  }
  private async rowsOf<T>(kind: PackedRows, session: string): Promise<(T & { createdAt: string })[]> {
    const found = this.unpacked.rows.find((r) => r.kind === kind && r.session === session);
    if (!found) return [];
    return (await textAt(found.place))
      .split('\n')
      .filter(Boolean)
      .map((line) => this.ownRow(JSON.parse(line) as T & { createdAt: string; preset?: string }));
  }

  /** A row that speaks of a preset by the id that it has here. */
  private ownRow<T extends { preset?: string }>(row: T): T {
    const preset = this.unpacked.moved?.get(row.preset ?? '');
    return preset === undefined ? row : { ...row, preset };
  }

  /** How often presets that came were dropped, by the drops that came with them. */
  async drops(): Promise<void> {
    for (const id of this.made.presets) {
      const counted = '(SELECT COUNT(*) FROM drop_record d WHERE d.preset = preset.id)';
      await this.m.query(`UPDATE preset SET drops = ${counted} WHERE id = ?`, [id]);
    }
  }

  /** Of a backup: what is begun with, where nothing was chosen here. */
  async defaults(): Promise<void> {
    for (const [name, value] of Object.entries(this.unpacked.about.defaults ?? {})) {
      await this.m
        .createQueryBuilder()
        .insert()
        .into(DefaultRow)
        .values({ owner: ownerNow(), name: name.slice(0, 64), value: value as object })
        .orIgnore()
        .execute();
    }
  }
}
const dated = <T extends { createdAt: string }>(row: T) => ({ ...row, createdAt: new Date(row.createdAt) });
