import { Worker, type TransferListItem } from 'node:worker_threads';
import { builtFile } from './built.ts';

export interface IdleThreadOptions {
  /** its program, as it is built: “near.worker.js” */
  file: string;
  /** ms after which it ends when nothing was asked of it */
  idle: number;
  /** what went wrong in it; a new one is started with the next question */
  failed: (err: unknown) => void;
  /** it ended, and what it knew is gone */
  gone?: () => void;
}

/** A thread that is started when it is asked something, and ends when nothing was for a while. */
export class IdleThread<Task, Answer extends { key: number }> {
  private worker: Worker | null = null;
  private timer: NodeJS.Timeout | null = null;
  private readonly waiting = new Map<number, (answer: Answer | null) => void>();
  private key = 0;

  constructor(private readonly o: IdleThreadOptions) {}

  /** Tells it something that has no answer. */
  tell(task: Task, transfer?: TransferListItem[]): void {
    this.running().postMessage(task, transfer);
  }

  /** @returns its answer; null when it ended before */
  ask(task: (key: number) => Task): Promise<Answer | null> {
    const worker = this.running();
    const key = this.key++;
    return new Promise((resolve) => {
      this.waiting.set(key, resolve);
      worker.postMessage(task(key));
    });
  }

  async stop(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    await this.worker?.terminate();
  }

  private running(): Worker {
    this.rest();
    this.worker ??= this.started();
    return this.worker;
  }

  /** Ends it when it was not asked for a while, and owes nobody an answer. */
  private rest(): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = setTimeout(() => {
      if (!this.waiting.size) void this.stop();
    }, this.o.idle);
    this.timer.unref();
  }

  private started(): Worker {
    const worker = new Worker(builtFile('work', this.o.file));
    worker.on('message', (answer: Answer) => this.answered(answer.key, answer));
    worker.on('error', this.o.failed);
    worker.once('exit', () => {
      this.worker = null;
      this.o.gone?.();
      for (const key of [...this.waiting.keys()]) this.answered(key, null);
    });
    worker.unref();
    return worker;
  }

  private answered(key: number, answer: Answer | null): void {
    this.waiting.get(key)?.(answer);
    this.waiting.delete(key);
    if (this.worker) this.rest();
  }
}
