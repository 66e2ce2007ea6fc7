import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { DataSource } from 'typeorm';
import type { PresetLikeness, ShelfLikeness } from '../../contract/index.ts';
import { likenessOf, mediaIn, type Fingerprint, type Likeness, type Preset } from '../../core/index.ts';
import { ownerNow } from '../db/acting.ts';
import { FingerprintRow, PresetVersionRow } from '../db/entities.ts';
import { log } from '../db/log.ts';
import { mediaFiles } from '../db/media.ts';
import { IdleThread } from '../work/idle-thread.ts';
import type { FingerprintAnswer, FingerprintTask } from '../work/fingerprint.worker.ts';

/** ms from one look for something to do to the next, and for which a thread without work waits */
const EVERY = 60_000;
const IDLE = 20_000;
/** after so many ms of work it rests so many times as long: whoever plays needs the machine */
const REST = 4;
/** presets that are taken from the table at once, and that are named as sounding otherwise */
const PAGE = 20;
const NAMED = 100;

/** Names the program that runs, so that an update is seen; its sources' hash where it was built. */
function programNow(): string {
  const mark = join(import.meta.dirname ?? '', '../../../node.stamp');
  return existsSync(mark) ? readFileSync(mark, 'utf8').trim().slice(0, 64) : 'source';
}

type Place = { preset: string; version: number };

/**
 * Makes the fingerprint of each version of a preset that is saved, and after an update renders all of the shelf again,
 * one at a time and with a long rest after each, to say which still sound as they did. The table is the truth: what is not
 * done goes on at the next start.
 */
export class Fingerprints {
  private readonly thread = new IdleThread<FingerprintTask, FingerprintAnswer>({
    file: 'fingerprint.worker.js',
    idle: IDLE,
    failed: (err) => log.error({ err }, 'the thread that renders presets ended; a new one goes on'),
  });
  private timer: NodeJS.Timeout | null = null;
  private working: Promise<void> | null = null;
  private isAsked = false;
  private isStarted = false;
  private isClosed = false;

  constructor(
    private readonly db: DataSource,
    private readonly program = programNow(),
  ) {}

  start(): void {
    this.isStarted = true;
    this.timer = setInterval(() => this.wake(), EVERY);
    this.timer.unref();
    this.wake();
  }

  async stop(): Promise<void> {
    this.isClosed = true;
    if (this.timer) clearInterval(this.timer);
    await this.thread.stop();
    await this.working;
  }

  /** Looks soon whether there is something to do: after a preset was saved. */
  wake(): void {
    if (!this.isStarted || this.isClosed) return;
    this.isAsked = this.working !== null;
    this.working ??= this.work()
      .catch((err: unknown) => log.error({ err }, 'fingerprints could not be made; it is tried again'))
      .finally(() => {
        this.working = null;
        if (this.isAsked) this.wake();
      });
  }

  private async work(): Promise<void> {
    for (;;) {
      const places = await this.due();
      if (!places.length) return;
      for (const place of places) {
        if (this.isClosed) return;
        const begun = Date.now();
        await this.look(place);
        const rest = REST * (Date.now() - begun);
        await new Promise((resolve) => setTimeout(resolve, rest).unref());
      }
    }
  }

  /** Current versions without a fingerprint, then those that another program rendered last. */
  private async due(): Promise<Place[]> {
    return (await this.db.query(
      `SELECT p.id AS preset, p.currentVersion AS version
       FROM preset p LEFT JOIN fingerprint f ON f.preset = p.id AND f.version = p.currentVersion
       WHERE p.deletedAt IS NULL AND (f.preset IS NULL OR f.checked <> ?)
       ORDER BY f.preset IS NOT NULL, p.updatedAt DESC LIMIT ${PAGE}`,
      [this.program],
    )) as Place[];
  }

  /** Renders a version and keeps what comes of it: its fingerprint, or how like the one that is there it sounds. */
  private async look(place: Place): Promise<void> {
    const rows = this.db.getRepository(FingerprintRow);
    const version = await this.db.getRepository(PresetVersionRow).findOne({
      where: { ...place },
      select: { preset: true, version: true, owner: true, document: true },
    });
    if (!version) return;
    const answer = await this.rendered(version.document as Preset);
    if (!answer) return;
    const known = await rows.findOneBy(place);
    const result = resultOf(known?.print ?? null, answer);
    await rows.save({
      ...place,
      owner: version.owner,
      ...result,
      verdict: result.likeness?.verdict ?? 'equal',
      checked: this.program,
      checkedAt: new Date(),
    });
  }

  /** Has a preset rendered by the thread; null when it was stopped before. */
  private async rendered(preset: Preset): Promise<FingerprintAnswer | null> {
    const { tracks, spares } = preset.content;
    const media = await mediaFiles(this.db, mediaIn([...tracks, ...spares]));
    if (this.isClosed) return null;
    return this.thread.ask((key) => ({ key, preset, media }));
  }

  /** How a preset's version sounds now, as far as it is known; `again` renders it first. */
  async of(place: Place, again = false): Promise<PresetLikeness> {
    if (again) await this.look(place);
    const row = await this.db.getRepository(FingerprintRow).findOneBy(place);
    return {
      version: place.version,
      madeAt: row?.madeAt.toISOString() ?? null,
      checkedAt: row?.checkedAt.toISOString() ?? null,
      isCurrent: row?.checked === this.program,
      likeness: row?.likeness ?? null,
    };
  }

  /** What a version sounds like now is how it is meant from here on. */
  async accept(place: Place): Promise<void> {
    await this.db.getRepository(FingerprintRow).delete(place);
    await this.look(place);
  }

  async ofShelf(): Promise<ShelfLikeness> {
    const current = `FROM preset p LEFT JOIN fingerprint f ON f.preset = p.id AND f.version = p.currentVersion
       WHERE p.owner = ? AND p.deletedAt IS NULL`;
    const [{ equal, waiting }] = (await this.db.query(
      `SELECT SUM(f.checked = ? AND f.verdict = 'equal') AS equal,
              SUM(f.preset IS NULL OR f.checked <> ?) AS waiting ${current}`,
      [this.program, this.program, ownerNow()],
    )) as { equal: string | null; waiting: string | null }[];
    const others = (await this.db.query(
      `SELECT p.id, p.name, f.likeness ${current} AND f.verdict <> 'equal' ORDER BY p.name LIMIT ${NAMED}`,
      [ownerNow()],
    )) as { id: string; name: string; likeness: string }[];
    return {
      equal: Number(equal ?? 0),
      waiting: Number(waiting ?? 0),
      others: others.map((o) => ({ ...o, likeness: JSON.parse(o.likeness) as Likeness })),
    };
  }
}

/** What a render says beside what was known: the first one is the fingerprint itself. */
function resultOf(
  known: Fingerprint | null,
  answer: FingerprintAnswer,
): { print: Fingerprint | null; likeness: Likeness | null } {
  if ('failed' in answer) return { print: known, likeness: unknownBecause(answer.failed) };
  if (!known) return { print: answer.print, likeness: null };
  return { print: known, likeness: likenessOf(known, answer.print) };
}

const unknownBecause = (why: string): Likeness => ({
  verdict: 'unknown',
  difference: 0,
  louder: 0,
  higher: 0,
  bands: [],
  at: 0,
  sounds: [],
  why: `It could not be rendered: ${why}`,
});
