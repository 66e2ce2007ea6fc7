import type { Session } from '../../core/index.ts';

/** sessions whose documents are kept: those that windows of the moment have open */
const MOST = 8;

/**
 * Documents of sessions as they were written last, so that a change needs not read and parse all of it again. Each is
 * kept with its revision: what another process wrote is never mistaken for it. Nothing may be changed in what is
 * given out.
 */
export class Documents {
  private readonly kept = new Map<string, { revision: number; document: Session }>();

  at(session: string, revision: number): Session | null {
    const found = this.kept.get(session);
    return found?.revision === revision ? found.document : null;
  }

  put(session: string, revision: number, document: Session): void {
    // the one that was written last stands last
    this.kept.delete(session);
    this.kept.set(session, { revision, document });
    const [oldest] = this.kept.keys();
    if (this.kept.size > MOST) this.kept.delete(oldest);
  }
}
