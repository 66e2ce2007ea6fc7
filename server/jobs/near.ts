import type { DataSource } from 'typeorm';
import { ownerNow } from '../db/acting.ts';
import { log } from '../db/log.ts';
import { documentOf, WITH_DOCUMENT } from '../db/session-document.ts';
import { SessionRow } from '../db/entities.ts';
import type { BuiltByHand, NearAnswer, NearOne, NearTask } from '../work/near.worker.ts';
import { IdleThread } from '../work/idle-thread.ts';

/** documents that are read together */
const PAGE = 100;
/** ms after which a thread that is not asked ends, and what it knows with it */
const IDLE = 10 * 60_000;

/** What the thread knows of: each thing by a mark that changes with it. */
type Known = Map<string, string>;

/** How alike presets are, and what sessions build by hand: of each shelf by itself, in its own thread. */
export class Near {
  private readonly shelves = new Map<string, NearShelf>();

  constructor(private readonly db: DataSource) {}

  /** That of the shelf that is spoken of now. */
  get here(): NearShelf {
    const owner = ownerNow();
    const known = this.shelves.get(owner) ?? new NearShelf(this.db, owner);
    this.shelves.set(owner, known);
    return known;
  }

  async stop(): Promise<void> {
    await Promise.all([...this.shelves.values()].map((shelf) => shelf.stop()));
  }
}

/**
 * The presets and sessions of one account: a thread keeps the shapes of all of them (`presetShape`), and is told before
 * each question what came, changed and went since.
 */
export class NearShelf {
  private readonly thread = new IdleThread<NearTask, NearAnswer>({
    file: 'near.worker.js',
    idle: IDLE,
    failed: (err) => log.error({ err }, 'the thread that compares presets ended'),
    gone: () => {
      this.known.presets.clear();
      this.known.sessions.clear();
    },
  });
  private readonly known = { presets: new Map() as Known, sessions: new Map() as Known };
  /** one is told after the other: a thing is read once */
  private telling: Promise<void> = Promise.resolve();

  constructor(
    private readonly db: DataSource,
    private readonly owner: string,
  ) {}

  /** The presets that are nearest to one. */
  async to(id: string, count: number): Promise<NearOne[]> {
    await this.tellPresets();
    const answer = await this.ask((key) => ({ kind: 'near', key, to: id, count }));
    return 'near' in answer ? answer.near : [];
  }

  async groups(within: number): Promise<NearOne[][]> {
    await this.tellPresets();
    const answer = await this.ask((key) => ({ kind: 'groups', key, within }));
    return 'groups' in answer ? answer.groups : [];
  }

  async byHand(): Promise<BuiltByHand[]> {
    await this.tellPresets();
    await this.inTurn(() => this.tellSessions());
    const answer = await this.ask((key) => ({ kind: 'byHand', key }));
    return 'byHand' in answer ? answer.byHand : [];
  }

  stop(): Promise<void> {
    return this.thread.stop();
  }

  private inTurn(task: () => Promise<void>): Promise<void> {
    const done = this.telling.then(task);
    this.telling = done.catch(() => undefined);
    return done;
  }

  private tellPresets(): Promise<void> {
    return this.inTurn(async () => {
      const rows = await this.db.query<{ id: string; mark: string }[]>(
        `SELECT p.id, v.hash AS mark FROM preset p
           JOIN preset_version v ON v.preset = p.id AND v.version = p.currentVersion
         WHERE p.owner = ? AND p.deletedAt IS NULL`,
        [this.owner],
      );
      await this.tell('presets', rows, (ids) =>
        this.db.query<{ id: string; text: string }[]>(
          `SELECT p.id, CONVERT(v.document USING utf8mb4) AS text FROM preset p
             JOIN preset_version v ON v.preset = p.id AND v.version = p.currentVersion
           WHERE p.id IN (?)`,
          [ids],
        ),
      );
    });
  }

  private async tellSessions(): Promise<void> {
    const rows = await this.db.query<{ id: string; mark: number }[]>(
      'SELECT id, revision AS mark FROM session WHERE owner = ? AND deletedAt IS NULL',
      [this.owner],
    );
    const marked = rows.map(({ id, mark }) => ({ id, mark: String(mark) }));
    await this.tell('sessions', marked, async (ids) => {
      const found: { id: string; text: string }[] = [];
      for (const id of ids) {
        const row = await this.db.manager.findOne(SessionRow, { where: { id }, select: WITH_DOCUMENT });
        if (row) found.push({ id, text: JSON.stringify(await documentOf(this.db.manager, row)) });
      }
      return found;
    });
  }

  /** Tells the thread what changed of a kind since it was asked last. */
  private async tell(
    kind: 'presets' | 'sessions',
    rows: readonly { id: string; mark: string }[],
    read: (ids: string[]) => Promise<{ id: string; text: string }[]>,
  ): Promise<void> {
    const known = this.known[kind];
    const now = new Map(rows.map((r) => [r.id, r.mark]));
    const gone = [...known.keys()].filter((id) => !now.has(id));
    if (gone.length) this.thread.tell({ kind: 'forget', of: kind, ids: gone });
    for (const id of gone) known.delete(id);
    const changed = rows.filter((r) => known.get(r.id) !== r.mark).map((r) => r.id);
    for (let at = 0; at < changed.length; at += PAGE) {
      const ids = changed.slice(at, at + PAGE);
      this.thread.tell({ kind, rows: await read(ids) });
      for (const id of ids) known.set(id, now.get(id)!);
    }
  }

  private async ask(task: (key: number) => NearTask): Promise<NearAnswer> {
    const answer = await this.thread.ask(task);
    if (!answer) throw new Error('The thread that compares presets ended. Try again.');
    if ('failed' in answer) throw new Error(answer.failed);
    return answer;
  }
}
