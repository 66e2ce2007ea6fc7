import type { DataSource } from 'typeorm';
import type { Session } from '../../core/index.ts';
import { log } from './log.ts';
import { writeDocument } from './session-document.ts';
import { inPieces } from './in-pieces.ts';

/** sessions whose documents are kept: those that windows of the moment have open */
const MOST = 8;
/** ms from the last change to the document's writing; a session that never rests is written so often */
const REST = 1500;
const LONGEST = 10_000;

interface Kept {
  revision: number;
  document: Session;
  /** when the oldest change that is not in the written document was made, ms; null where there is none */
  since: number | null;
  timer?: NodeJS.Timeout;
}

/**
 * Documents of sessions as they are now, so that a change needs not read and parse all of it again. Each is kept with
 * its revision: what another process wrote is never mistaken for it. Nothing may be changed in what is given out.
 *
 * A change is answered when its step is in the database; the document follows when the session rests. Should the
 * program end before that, the next reader makes the steps again (`documentOf`).
 */
export class Documents {
  private readonly kept = new Map<string, Kept>();
  private readonly writing = new Set<Promise<void>>();

  constructor(private readonly db: DataSource) {}

  at(session: string, revision: number): Session | null {
    const found = this.kept.get(session);
    return found?.revision === revision ? found.document : null;
  }

  /** What a session is after a change that is in the database as a step. */
  changed(session: string, revision: number, document: Session): void {
    const before = this.kept.get(session);
    clearTimeout(before?.timer);
    const since = before?.since ?? Date.now();
    const kept: Kept = { revision, document, since };
    const wait = Math.max(0, Math.min(REST, since + LONGEST - Date.now()));
    kept.timer = setTimeout(() => this.write(session, kept), wait);
    kept.timer.unref();
    // the one that was changed last stands last
    this.kept.delete(session);
    this.kept.set(session, kept);
    const [[oldest, first]] = this.kept;
    if (this.kept.size <= MOST) return;
    this.write(oldest, first);
    this.kept.delete(oldest);
  }

  /** Writes everything that is not written yet. */
  async stop(): Promise<void> {
    for (const [session, kept] of this.kept) this.write(session, kept);
    await Promise.all(this.writing);
  }

  private write(session: string, kept: Kept): void {
    clearTimeout(kept.timer);
    if (kept.since === null) return;
    kept.since = null;
    const written = inPieces(kept.document)
      .then((text) => writeDocument(this.db.manager, session, kept.revision, text))
      .catch((err: unknown) => log.error({ err, session }, 'a document was not written; its steps are'));
    this.writing.add(written);
    void written.finally(() => this.writing.delete(written));
  }
}
