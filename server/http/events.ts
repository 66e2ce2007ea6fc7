import { randomUUID } from 'node:crypto';
import { EventEmitter } from 'node:events';
import type { DataSource } from 'typeorm';
import type { Here, JobNews } from '../../contract/index.ts';
import { log } from '../db/log.ts';

export interface Change {
  session: string;
  revision: number;
  client: string;
}

/** under which the prints of an account are told: no session has it for an id */
const hereIn = (session: string): string => ` here in ${session}`;
const jobsOf = (owner: string): string => ` jobs of ${owner}`;
/** ms between two looks at what other processes told, as long as a window listens */
const LOOK = 250;
/** s that an event can be seen by others: numbers are given before they are written for good, so the last few are looked through */
const SEEN = 5;
/** s after which an event is cleared away, and looks from one clearing to the next */
const OLD = 60;
const CLEARING = 400;

interface Row {
  id: string;
  topic: string;
  news: string;
}

/**
 * Tells open windows of what happened: a session changed, a print moved on. Windows of this process hear it at once;
 * those of other processes of the same database within a moment, through a table.
 */
export class EventHub {
  private readonly emitter = new EventEmitter();
  private readonly process = randomUUID();
  private readonly seen = new Set<string>();
  private listeners = 0;
  private looks = 0;
  private timer: NodeJS.Timeout | null = null;

  constructor(private readonly db: DataSource) {
    this.emitter.setMaxListeners(0);
  }
  changed(c: Change): void {
    this.tell(c.session, c);
  }
  printed(owner: string, news: JobNews): void {
    this.tell(jobsOf(owner), news);
  }
  /** A window is in a session, or left it. */
  here(session: string, news: Here): void {
    this.tell(hereIn(session), news);
  }
  listenHere(session: string, f: (news: Here) => void): () => void {
    return this.on(hereIn(session), f);
  }
  listen(session: string, f: (c: Change) => void): () => void {
    return this.on(session, f);
  }
  listenToJobs(owner: string, f: (news: JobNews) => void): () => void {
    return this.on(jobsOf(owner), f);
  }

  private tell(topic: string, news: object): void {
    this.emitter.emit(topic, news);
    const row = [this.process, topic, JSON.stringify(news)];
    // a window that missed one finds out when it saves next, or when it connects again: nothing is overwritten
    this.db
      .query('INSERT INTO event (process, topic, news) VALUES (?, ?, ?)', row)
      .catch((err: unknown) => log.warn({ err }, 'other processes could not be told'));
  }
  private on<T>(topic: string, f: (news: T) => void): () => void {
    this.emitter.on(topic, f);
    this.listeners++;
    this.lookSoon();
    return () => {
      this.emitter.off(topic, f);
      this.listeners--;
    };
  }
  private lookSoon(): void {
    if (this.timer || !this.listeners) return;
    this.timer = setTimeout(() => void this.look(), LOOK);
    this.timer.unref();
  }
  private async look(): Promise<void> {
    try {
      const rows = await this.db.query<Row[]>(
        `SELECT id, topic, news FROM event
           WHERE createdAt > NOW(3) - INTERVAL ${SEEN} SECOND AND process <> ? ORDER BY id`,
        [this.process],
      );
      const there = new Set(rows.map((r) => r.id));
      for (const { id, topic, news } of rows) {
        if (!this.seen.has(id)) this.emitter.emit(topic, JSON.parse(news));
        this.seen.add(id);
      }
      for (const id of this.seen) if (!there.has(id)) this.seen.delete(id);
      if (this.looks++ % CLEARING === 0) {
        await this.db.query(`DELETE FROM event WHERE createdAt < NOW(3) - INTERVAL ${OLD} SECOND`);
      }
    } catch {
      // the database is away: the next look comes anyway
    }
    this.timer = null;
    this.lookSoon();
  }
}
