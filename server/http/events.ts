import { EventEmitter } from 'node:events';
import type { JobNews } from '../../contract/index.ts';

export interface Change {
  session: string;
  revision: number;
  client: string;
}

/** under which prints are told: no session has it for an id */
const JOBS = ' jobs';

/** Tells open windows of what happened: a session changed, a print moved on. */
export class EventHub {
  private readonly emitter = new EventEmitter();
  constructor() {
    this.emitter.setMaxListeners(0);
  }
  changed(c: Change): void {
    this.emitter.emit(c.session, c);
  }
  listen(session: string, f: (c: Change) => void): () => void {
    this.emitter.on(session, f);
    return () => {
      this.emitter.off(session, f);
    };
  }
  printed(news: JobNews): void {
    this.emitter.emit(JOBS, news);
  }
  listenToJobs(f: (news: JobNews) => void): () => void {
    this.emitter.on(JOBS, f);
    return () => {
      this.emitter.off(JOBS, f);
    };
  }
}
