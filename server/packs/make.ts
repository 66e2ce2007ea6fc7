import { createHash } from 'node:crypto';
import { open, type FileHandle } from 'node:fs/promises';
import { join } from 'node:path';
import { In, IsNull, type DataSource, type EntityManager } from 'typeorm';
import type { NewPack } from '../../contract/index.ts';
import { devicesIn, studioHash, type Preset, type Studio, type Track } from '../../core/index.ts';
import {
  PACK_FORMAT,
  PACK_VERSION,
  pathOf,
  pathOfRows,
  type PackAbout,
  type PackDocument,
  type PackLine,
  type PackedRows,
} from '../../core/formats/pack.ts';
import { ownerNow } from '../db/acting.ts';
import { withWays } from '../db/bundle.ts';
import {
  DefaultRow,
  DropRecordRow,
  MediaRow,
  PresetRow,
  PresetVersionRow,
  SessionRevisionRow,
  SessionRow,
  SetupRow,
  SetupVersionRow,
} from '../db/entities.ts';
import { documentOf, WITH_DOCUMENT } from '../db/session-document.ts';
import { bringMedia } from '../db/media.ts';
import { writePack } from '../work/files.ts';
import type { LyingDocument } from '../work/packing.ts';

/** rows that are read together */
const PAGE = 200;

export interface MadePack {
  path: string;
  /** presets, setups and sessions in it */
  things: number;
}

/**
 * Writes a pack of what is asked for into a folder: as it stood at one moment, whatever is saved meanwhile, and one
 * document after the other, so that a shelf of any size fits.
 * @param at ISO 8601
 */
export async function makePack(db: DataSource, what: NewPack, folder: string, at: Date): Promise<MadePack> {
  const runner = db.createQueryRunner();
  await runner.connect();
  try {
    await runner.query('SET TRANSACTION ISOLATION LEVEL REPEATABLE READ');
    await runner.query('START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY');
    const documents = await open(join(folder, 'documents'), 'w');
    const making = new Making(runner.manager, what, documents);
    await making.collect().finally(() => documents.close());
    const files = [];
    let bytes = 0;
    for (const row of await making.files()) {
      const path = join(folder, row.id);
      if (!(await bringMedia(runner.manager, row.id, path, row.size))) continue;
      files.push({ kind: row.kind as 'wav', id: row.id, path });
      bytes += row.size;
    }
    const to = join(folder, 'pack');
    const about = making.about(at);
    const lying = { about, documents: making.documents, documentsFile: join(folder, 'documents'), files, to };
    await writePack(lying, 'pack', bytes + making.written);
    return { path: to, things: about.presets.length + about.setups.length + about.sessions.length };
  } finally {
    await runner.query('COMMIT').catch(() => undefined);
    await runner.release();
  }
}

class Making {
  readonly documents: LyingDocument[] = [];
  written = 0;
  private readonly presets: PackLine[] = [];
  private readonly setups: PackLine[] = [];
  private readonly sessions: PackAbout['sessions'] = [];
  private readonly media = new Set<string>();
  private defaults: Record<string, unknown> | undefined;

  constructor(
    private readonly m: EntityManager,
    private readonly what: NewPack,
    private readonly file: FileHandle,
  ) {}

  about(at: Date): Omit<PackAbout, 'files'> {
    const { presets, setups, sessions, defaults } = this;
    return {
      format: PACK_FORMAT,
      version: PACK_VERSION,
      madeAt: at.toISOString(),
      madeBy: 'Rope Shelf',
      presets,
      setups,
      sessions,
      ...(defaults ? { defaults } : {}),
    };
  }

  async collect(): Promise<void> {
    const { everything, category } = this.what;
    for await (const row of this.rows(PresetRow, everything ? {} : { id: In(this.what.presets ?? []) })) {
      await this.preset(row);
    }
    if (category) for await (const row of this.rows(PresetRow, { category })) await this.preset(row);
    for await (const row of this.rows(SetupRow, everything ? {} : { id: In(this.what.setups ?? []) })) {
      await this.setup(row);
    }
    for await (const row of this.rows(SessionRow, everything ? {} : { id: In(this.what.sessions ?? []) })) {
      await this.session(row);
    }
    if (everything) {
      const rows = await this.m.findBy(DefaultRow, { owner: ownerNow() });
      this.defaults = Object.fromEntries(rows.map((r) => [r.name, r.value]));
    }
  }

  /** What is asked for of a table, a page at a time. */
  private async *rows<T extends PresetRow | SetupRow | SessionRow>(
    of: new () => T,
    where: object,
  ): AsyncGenerator<T> {
    for (let skip = 0; ; skip += PAGE) {
      const page = await this.m.getRepository<PresetRow | SetupRow | SessionRow>(of).find({
        where: { owner: ownerNow(), deletedAt: IsNull(), ...where },
        order: { id: 'ASC' },
        skip,
        take: PAGE,
      });
      yield* page as T[];
      if (page.length < PAGE) return;
    }
  }

  private async preset(row: PresetRow): Promise<void> {
    if (this.presets.some((p) => p.id === row.id)) return;
    const versions = await this.m.find(PresetVersionRow, {
      where: { preset: row.id },
      select: { preset: true, version: true, hash: true, document: true },
      order: { version: 'ASC' },
    });
    for (const v of this.chosen(versions)) {
      const document = v.document as Preset;
      await this.put({ kind: 'preset', document });
      for (const ref of document.content.media) this.media.add(ref.id);
      this.states([...document.content.tracks, ...document.content.spares]);
    }
    const { tags } = row.summary as { tags: string[] };
    this.presets.push({
      id: row.id,
      name: row.name,
      hashes: versions.map((v) => v.hash),
      shelf: {
        category: row.category,
        tags,
        pinned: row.pinned === 1,
        lastUsedAt: row.lastUsedAt.getTime() ? row.lastUsedAt.toISOString() : null,
      },
    });
  }

  private async setup(row: SetupRow): Promise<void> {
    const versions = await this.m.find(SetupVersionRow, {
      where: { setup: row.id },
      select: { setup: true, version: true, document: true },
      order: { version: 'ASC' },
    });
    for (const v of this.chosen(versions)) await this.put({ kind: 'setup', document: v.document as Studio });
    this.setups.push({
      id: row.id,
      name: row.name,
      hashes: versions.map((v) => studioHash(v.document as Studio)),
    });
  }

  private chosen<T>(versions: readonly T[]): readonly T[] {
    return this.what.versions === 'newest' ? versions.slice(-1) : versions;
  }

  private async session({ id, name, folder }: SessionRow): Promise<void> {
    const row = await this.m.findOneOrFail(SessionRow, { where: { id }, select: WITH_DOCUMENT });
    const { revision } = row;
    const session = await documentOf(this.m, row);
    await this.put({ kind: 'session', id, document: session });
    for (const ref of session.media) this.media.add(ref.id);
    if (session.source) this.media.add(session.source.sha256);
    this.states(session.tracks);
    const { everything } = this.what;
    this.sessions.push({ id, name, folder, ...(everything ? { revision } : {}) });
    if (!everything) return;
    await this.lines('history', id, await this.history(id));
    await this.lines(
      'drops',
      id,
      await this.m.find(DropRecordRow, { where: { session: id }, order: { createdAt: 'ASC' } }),
    );
  }

  /**
   * A session's steps with their ways back. What each changed is in the document; how they lie together in this
   * database is no part of them.
   */
  private async history(session: string): Promise<object[]> {
    const rows = await this.m.find(SessionRevisionRow, { where: { session }, order: { revision: 'ASC' } });
    const steps = await withWays(this.m, session, rows);
    return steps.map(({ bundle: _, size: __, ...step }) => ({ ...step, patch: '' }));
  }

  private states(tracks: readonly Pick<Track, 'chain'>[]): void {
    for (const d of tracks.flatMap((t) => devicesIn(t.chain))) {
      if (d.foreign?.state) this.media.add(d.foreign.state.sha256);
    }
  }

  /** Sounds, states and imported files that the documents speak of and that are here. */
  async files(): Promise<MediaRow[]> {
    const ids = [...this.media];
    const rows: MediaRow[] = [];
    for (let at = 0; at < ids.length; at += PAGE) {
      rows.push(...(await this.m.findBy(MediaRow, { id: In(ids.slice(at, at + PAGE)) })));
    }
    return rows;
  }

  private put(d: PackDocument): Promise<void> {
    return this.write(pathOf(d), JSON.stringify(d.document, null, 1));
  }
  private async lines(kind: PackedRows, session: string, rows: readonly object[]): Promise<void> {
    if (rows.length) {
      await this.write(pathOfRows(kind, session), rows.map((r) => `${JSON.stringify(r)}\n`).join(''));
    }
  }
  private async write(path: string, text: string): Promise<void> {
    const bytes = Buffer.from(text);
    const sha256 = createHash('sha256').update(bytes).digest('hex');
    this.documents.push({ path, at: this.written, size: bytes.length, sha256 });
    await this.file.write(bytes);
    this.written += bytes.length;
  }
}
