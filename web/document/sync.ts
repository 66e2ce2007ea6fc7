import jsonpatch from 'fast-json-patch';
import { ref, shallowRef, type Ref } from 'vue';
import type { SessionDocument } from '../../contract/index.ts';
import { merge3, validateSession, type Conflict, type Session } from '../../core/index.ts';
import { ApiError } from '../api/index.ts';
import { forgetUnsent, keepUnsent, readUnsent, type Storage } from './offline.ts';

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
  send(id: string, revision: number, ops: unknown[], keepalive?: boolean): Promise<{ revision: number }>;
  storage: Storage;
  /** tells the person something */
  say(text: string, kind: 'info' | 'done' | 'error', actions?: Action[], ms?: number): void;
  fail(e: unknown): void;
}
interface Action {
  label: string;
  run: () => void;
}

/** ms from the last change until it is sent */
const SAVE_AFTER = 300;
const SOON = 50;
const FIRST_WAIT = 500;
const LONGEST_WAIT = 8000;

/**
 * Keeps the document and the server's together: changes go out as JSON Patch (RFC 6902) with If-Match; when
 * another window was first, its changes are merged in and ours sent again; when the server is away, they
 * wait here and in the browser's storage.
 * @param put puts a document in; with a label it is a step that can be undone
 * @param forget forgets all steps, when the document goes back to what is saved
 */
export function makeSync(
  id: Readonly<Ref<string | null>>,
  doc: Readonly<Ref<Session | null>>,
  put: (session: Session, label?: string) => void,
  forget: () => void,
  world: World,
) {
  const save = ref<SaveState>('saved');
  const conflicts = shallowRef<Conflicts | null>(null);
  /** what the server has, and its number */
  let server: Session | null = null;
  let revision = 0;
  let timer: ReturnType<typeof setTimeout> | null = null;
  let sending = false;
  let wait = FIRST_WAIT;

  /** Begins with a document that was just read, and lays over it what an earlier window could not send. */
  function begin(got: SessionDocument): void {
    server = got.document;
    revision = got.revision;
    save.value = 'saved';
    conflicts.value = null;
    restoreUnsent(got.id);
  }

  function restoreUnsent(session: string): void {
    const kept = readUnsent(session, world.storage);
    forgetUnsent(session, world.storage);
    if (!kept || !doc.value) return;
    const merged = merge3(kept.base, kept.mine, doc.value).value;
    if (validateSession(merged).length) return;
    put(merged, 'Changes kept from before');
    world.say(
      'Changes that could not be sent last time were kept in this browser and are in place again.',
      'done',
    );
    schedule(0);
  }

  const isBehind = () => !!id.value && !!doc.value && !!server && doc.value !== server;

  function stopTimer(): void {
    if (timer) clearTimeout(timer);
    timer = null;
  }

  /** Sends what changed, a moment after the last change. */
  function schedule(ms = SAVE_AFTER): void {
    if (doc.value === server) {
      if (save.value !== 'refused') save.value = 'saved';
      return;
    }
    if (save.value === 'saved') save.value = 'saving';
    stopTimer();
    timer = setTimeout(() => {
      timer = null;
      void flush();
    }, ms);
  }

  /** Sends what is not sent yet. */
  async function flush(): Promise<void> {
    stopTimer();
    if (sending || !isBehind()) return;
    sending = true;
    const session = id.value!;
    try {
      await sendNow(session);
    } catch (e) {
      await sendFailed(e, session);
    } finally {
      sending = false;
    }
    if (id.value !== session || !isBehind() || save.value === 'refused') return;
    schedule(save.value === 'waiting' ? wait : SAVE_AFTER);
  }

  async function sendNow(session: string): Promise<void> {
    const sent = doc.value!;
    const ops = jsonpatch.compare(server!, sent);
    if (ops.length) {
      if (save.value !== 'waiting') save.value = 'saving';
      revision = (await world.send(session, revision, ops)).revision;
    }
    server = sent;
    wait = FIRST_WAIT;
    forgetUnsent(session, world.storage);
    if (save.value === 'waiting') world.say('The server is back; everything is saved.', 'done');
    save.value = doc.value === server ? 'saved' : 'saving';
  }

  async function sendFailed(e: unknown, session: string): Promise<void> {
    if (!(e instanceof ApiError)) {
      world.fail(e);
      return;
    }
    if (e.code === 'changed-elsewhere') {
      await takeTheirs(session).catch((again) => sendFailed(again, session));
      return;
    }
    if (e.passing) {
      if (save.value !== 'waiting') world.say(e.message, 'error');
      save.value = 'waiting';
      wait = Math.min(LONGEST_WAIT, wait * 2);
      keep();
      return;
    }
    save.value = 'refused';
    keep();
    const back = { label: 'Go back to what is saved', run: goBack };
    world.say(`Not saved: ${e.message}`, 'error', [back]);
  }

  function goBack(): void {
    put(server!);
    save.value = 'saved';
    forget();
  }

  /** Keeps unsent work in the browser. */
  function keep(): void {
    if (isBehind()) keepUnsent(id.value!, { base: server!, mine: doc.value! }, world.storage);
  }

  /**
   * Another window was first: merge its changes in; where both changed the same value, mine stays for now and
   * the choice is shown.
   */
  async function takeTheirs(session: string): Promise<void> {
    const got = await world.read(session);
    const mine = doc.value;
    if (id.value !== session || !mine || !server || got.revision <= revision) return;
    const { value, conflicts: list } = merge3(server, mine, got.document);
    const wrong = validateSession(value).length > 0;
    server = got.document;
    revision = got.revision;
    if (wrong || list.length) conflicts.value = { list, theirs: got.document, mine };
    put(wrong ? got.document : value);
    if (!list.length) world.say('Changes from another window are in.', 'info', [], 3000);
    schedule(SOON);
  }

  /** Settles a conflict for one side. */
  function settle(side: 'mine' | 'theirs'): void {
    const c = conflicts.value;
    conflicts.value = null;
    if (!c || !doc.value || side === 'mine') return;
    put(c.theirs, 'Take the other window’s values');
    schedule(0);
  }

  /** A revision was announced: another window's changes come in, our own are known already. */
  function heard(session: string, announced: number): void {
    if (announced <= revision || sending) return;
    void takeTheirs(session).catch(() => undefined);
  }

  /** The window goes: what is unsent is kept, and sent along where that is safe. */
  function leave(): void {
    if (!isBehind()) return;
    keep();
    // while a change is on its way the next one would be based on a revision that is about to pass: what is
    // kept goes out when the session is opened again
    if (sending) return;
    void world.send(id.value!, revision, jsonpatch.compare(server!, doc.value!), true).catch(() => undefined);
  }

  return { save, conflicts, begin, schedule, flush, settle, heard, leave };
}
