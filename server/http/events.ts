import { EventEmitter } from 'node:events';

export interface Change {
  session: string;
  revision: number;
  client: string;
}

/** Tells every open window of a session that it changed. */
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
}
