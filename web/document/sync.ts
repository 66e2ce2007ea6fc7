import jsonpatch from 'fast-json-patch';
import { ref, shallowRef, type Ref } from 'vue';
import type { SessionDocument } from '../../contract/index.ts';
import { merge3, same, sharing, validateSession, type Conflict, type Session } from '../../core/index.ts';
import { ApiError, type StepWords } from '../api/index.ts';
import { makeOutbox, type Done } from './outbox.ts';
import type { Keeper, Left } from './offline.ts';

/** saved · on its way · kept here until the server is back · refused by the server */
export type SaveState = 'saved' | 'saving' | 'waiting' | 'refused';

/** Values that this window and another changed at once. */
export interface Conflicts {
  list: Conflict[];
  theirs: Session;
  mine: Session;
}

/** What the document's sync needs of the world around it. */
export interface World {
  read(id: string): Promise<SessionDocument>;
  send(
    id: string,
    revision: number,
    ops: unknown[],
    step: StepWords,
    keepalive?: boolean,
  ): Promise<{ revision: number }>;
  keeper: Keeper;
  /** tells the person something */
  say(
    text: string,
    kind: 'info' | 'done' | 'error',
    actions?: Action[],
    ms?: number,
    matter?: 'saving',
  ): void;
  fail(e: unknown): void;
}
interface Action {
  label: string;
  run: () => void;
}

/** ms from the last change until it is sent */
const SAVE_AFTER = 300;
/** ms that a change waits at most while others follow: a fader that moves and moves */
const LONGEST_UNSENT = 1000;
const SOON = 50;
const FIRST_WAIT = 500;
const LONGEST_WAIT = 8000;
/** ms between two entries of what is not sent yet, while it changes */
const KEEP_EVERY = 250;
/** ms that the next session waits at most until the one before is sent; what is left is kept in the browser */
const FINISH_WITHIN = 5000;

/**
 * Keeps the document and the server's together: changes go out as JSON Patch (RFC 6902) with If-Match; when
 * another window was first, its changes are merged in and ours sent again; what is not sent yet lies in the
 * browser as well, under an entry of this window.
 * @param put puts a document in; with a label it is a step that can be undone
 * @param forget forgets all steps, when the document goes back to what is saved
 */
export class Sync {
  readonly save = ref<SaveState>('saved');
  readonly conflicts = shallowRef<Conflicts | null>(null);
  /** whether what is not sent lies in the browser, so that the window may be closed */
  readonly kept = ref(true);
  /** what the server has, and its number */
  private server: Session | null = null;
  private revision = 0;
  private timer: ReturnType<typeof setTimeout> | null = null;
  /** when the change was made that waits longest, in ms of the page's clock */
  private waitsSince = 0;
  private sending: Promise<void> | null = null;
  /** since when this session is open: an answer to what was sent before says nothing of it */
  private begun = {};
  /** what was kept of it before is being read: nothing is kept over it until then */
  private reading: Promise<unknown> | null = null;
  private wait = FIRST_WAIT;
  /** the state that was kept last, what is being kept now, and when it began */
  private keptDoc: Session | null = null;
  private keeping: Promise<void> | null = null;
  private keptAt = -Infinity;
  /** steps that are not sent yet */
  private readonly outbox = makeOutbox();

  constructor(
    private readonly id: Readonly<Ref<string | null>>,
    private readonly doc: Readonly<Ref<Session | null>>,
    private readonly put: (session: Session, label?: string) => void,
    private readonly forget: () => void,
    private readonly world: World,
  ) {}

  /** Begins with a document that was just read, and lays over it what an earlier window could not send. */
  begin(got: SessionDocument): void {
    this.begun = {};
    // what is still on its way is of the session before: nothing of this one waits for it
    this.sending = null;
    this.server = got.document;
    this.revision = got.revision;
    this.save.value = 'saved';
    this.conflicts.value = null;
    this.kept.value = true;
    this.keptDoc = null;
    this.outbox.clear();
    void this.restoreUnsent(got.id);
  }

  /** A step was made: it goes out with its words. */
  note(step: Done): void {
    this.outbox.put(step);
  }

  /**
   * What windows that are gone could not send, and this one when it had the session open before, comes back, each as a
   * merge with what is there now.
   */
  private async restoreUnsent(session: string): Promise<void> {
    try {
      const reading = this.world.keeper.left(session);
      this.reading = reading.then(
        () => (this.reading = null),
        () => (this.reading = null),
      );
      for (const left of await reading) await this.takeBack(session, left);
    } catch {
      // a browser that keeps nothing has nothing to give back
    }
  }

  private async takeBack(session: string, left: Left): Promise<void> {
    const now = this.doc.value;
    if (this.id.value !== session || !now) return;
    const { value, conflicts: list } = merge3(left.base, left.mine, now);
    if (validateSession(value).length) {
      this.world.say(
        'Changes that were kept in this browser do not fit what the session is now. They stay kept; nothing of them is in.',
        'error',
      );
      return;
    }
    if (list.length) this.conflicts.value = { list, theirs: now, mine: left.mine };
    if (!same(value, now)) {
      this.put(value, 'Changes kept from before');
      const where = 'were kept in this browser and are in place again.';
      this.world.say(`Changes that could not be sent last time ${where}`, 'done');
    }
    // this window has them now: its own entry comes first, then the old one goes
    await this.keep();
    const isKeptAnew = left.isOwn && this.isBehind();
    if (!isKeptAnew) await this.world.keeper.forget(session, left.key);
    this.schedule(0);
  }

  private isBehind(): boolean {
    return !!this.id.value && !!this.doc.value && !!this.server && this.doc.value !== this.server;
  }

  private stopTimer(): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
  }

  /** Sends what changed, a moment after the last change, and once a second while there is no last one. */
  schedule(ms = SAVE_AFTER): void {
    if (this.doc.value === this.server) {
      // undone and done again before it was sent: what was kept between would be laid over the next time
      if (this.id.value) this.forgetKept(this.id.value);
      if (this.save.value !== 'refused') this.save.value = 'saved';
      return;
    }
    if (this.save.value === 'saved') this.save.value = 'saving';
    if (performance.now() - this.keptAt > KEEP_EVERY) void this.keep();
    const now = performance.now();
    if (!this.timer) this.waitsSince = now;
    this.stopTimer();
    const isTyping = ms === SAVE_AFTER;
    const left = Math.max(0, this.waitsSince + LONGEST_UNSENT - now);
    this.timer = setTimeout(
      () => {
        this.timer = null;
        void this.flush();
      },
      isTyping ? Math.min(ms, left) : ms,
    );
  }

  /** Sends everything that was changed until now. */
  async flush(): Promise<void> {
    // what is on its way may be of before the last change
    await this.sending;
    await this.push();
  }
  private async push(): Promise<void> {
    this.stopTimer();
    if (this.sending) return this.sending;
    if (!this.isBehind()) return;
    const session = this.id.value!;
    const sending = this.sendNow(session).catch((e: unknown) => this.sendFailed(e, session));
    this.sending = sending;
    try {
      await sending;
    } finally {
      if (this.sending === sending) this.sending = null;
    }
    if (this.id.value !== session || !this.isBehind() || this.save.value === 'refused') return;
    this.schedule(this.save.value === 'waiting' ? this.wait : SAVE_AFTER);
  }

  /**
   * Before another session takes its place: what is not sent goes out, and what does not in a moment is kept in the
   * browser until the session is opened again.
   */
  async finish(): Promise<void> {
    let isLate = false;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const late = new Promise<void>((resolve) => {
      timer = setTimeout(() => {
        isLate = true;
        resolve();
      }, FINISH_WITHIN);
    });
    do await Promise.race([late, this.flush()]);
    while (this.isBehind() && this.save.value === 'saving' && !isLate);
    clearTimeout(timer);
    await this.keep();
    this.stopTimer();
  }

  /** Sends the steps that were made, one after the other, each as a change of its own. */
  private async sendNow(session: string): Promise<void> {
    const wanted = this.doc.value!;
    const { begun } = this;
    while (this.server !== wanted) {
      const { after, words } = this.outbox.next(this.server!, wanted);
      const ops = jsonpatch.compare(this.server!, after);
      if (ops.length) {
        if (this.save.value !== 'waiting') this.save.value = 'saving';
        const { revision } = await this.world.send(session, this.revision, ops, words);
        // another session is open now, or this one anew
        if (this.id.value !== session || this.begun !== begun) return;
        this.revision = revision;
      }
      this.server = after;
    }
    this.wait = FIRST_WAIT;
    if (this.doc.value === this.server) this.forgetKept(session);
    if (this.save.value === 'waiting') {
      this.world.say('The server is back; everything is saved.', 'done');
    }
    this.save.value = this.doc.value === this.server ? 'saved' : 'saving';
  }

  private async sendFailed(e: unknown, session: string): Promise<void> {
    // what was not sent of a session that is closed is kept
    if (this.id.value !== session) return;
    if (!(e instanceof ApiError)) {
      this.world.fail(e);
      return;
    }
    if (e.code === 'changed-elsewhere') {
      await this.takeTheirs(session).catch((again) => this.sendFailed(again, session));
      return;
    }
    if (e.passing) {
      if (this.save.value !== 'waiting') this.world.say(e.message, 'error', [], 0, 'saving');
      this.save.value = 'waiting';
      this.wait = Math.min(LONGEST_WAIT, this.wait * 2);
      void this.keep();
      return;
    }
    this.save.value = 'refused';
    void this.keep();
    const back = { label: 'Go back to what is saved', run: () => this.goBack() };
    this.world.say(`Not saved: ${e.message}`, 'error', [back], 0, 'saving');
  }

  private goBack(): void {
    this.put(this.server!);
    this.forgetKept(this.id.value!);
    this.save.value = 'saved';
    this.forget();
  }

  /** Keeps unsent work in the browser; says once when the browser cannot. One entry is written at a time. */
  private async keep(): Promise<void> {
    if (this.keeping) {
      await this.keeping;
      if (this.keptDoc === this.doc.value) return;
    }
    // a window that goes has no time to wait where nothing is to be waited for
    if (this.reading) await this.reading;
    if (!this.isBehind()) return;
    const [session, mine] = [this.id.value!, this.doc.value!];
    this.keptAt = performance.now();
    this.keeping = this.world.keeper.keep(session, { base: this.server!, mine }).then(
      () => {
        this.keptDoc = mine;
        this.kept.value = true;
      },
      () => {
        if (this.kept.value) {
          const way = 'Leave this window open until everything is saved.';
          this.world.say(
            `This browser has no room to keep what is not sent yet. ${way}`,
            'error',
            [],
            0,
            'saving',
          );
        }
        this.kept.value = false;
      },
    );
    await this.keeping;
    this.keeping = null;
    if (this.doc.value === this.server) this.forgetKept(session);
  }

  private forgetKept(session: string): void {
    if (!this.keptDoc) return;
    this.keptDoc = null;
    void this.world.keeper.forget(session).catch(() => undefined);
  }

  /**
   * Another window was first: merge its changes in; where both changed the same value, mine stays for now and
   * the choice is shown.
   */
  private async takeTheirs(session: string): Promise<void> {
    const got = await this.world.read(session);
    const mine = this.doc.value;
    if (this.id.value !== session || !mine || !this.server || got.revision <= this.revision) return;
    const theirs = sharing(this.server, got.document);
    const { value, conflicts: list } = merge3(this.server, mine, theirs);
    const wrong = validateSession(value).length > 0;
    this.server = theirs;
    this.revision = got.revision;
    if (wrong || list.length) this.conflicts.value = { list, theirs, mine };
    this.put(wrong ? theirs : value);
    if (!list.length) this.world.say('Changes from another window are in.', 'info', [], 3000);
    this.schedule(SOON);
  }

  /** Settles a conflict for one side. */
  settle(side: 'mine' | 'theirs'): void {
    const c = this.conflicts.value;
    this.conflicts.value = null;
    if (!c || !this.doc.value || side === 'mine') return;
    this.put(c.theirs, 'Take the other window’s values');
    this.schedule(0);
  }

  /** A revision was announced: another window's changes come in, our own are known already. */
  heard(session: string, announced: number): void {
    if (announced <= this.revision || this.sending) return;
    void this.takeTheirs(session).catch(() => undefined);
  }

  /** The window goes: what is unsent is kept, and sent along where that is safe. */
  leave(): void {
    if (!this.isBehind()) return;
    void this.keep();
    // while a change is on its way the next one would be based on a revision that is about to pass: what is
    // kept goes out when the session is opened again
    if (this.sending) return;
    void this.world
      .send(
        this.id.value!,
        this.revision,
        jsonpatch.compare(this.server!, this.doc.value!),
        this.outbox.all(),
        true,
      )
      .catch(() => undefined);
  }
}
