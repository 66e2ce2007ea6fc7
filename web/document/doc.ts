import jsonpatch from 'fast-json-patch';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef } from 'vue';
import {
  CompileError,
  chainAt,
  compile,
  findSlot,
  placeOf,
  merge3,
  validateSession,
  type Conflict,
  type Id,
  type Session,
  type Edit,
} from '../../core/index.ts';
import { ApiError, CLIENT, api } from '../api/index.ts';
import { useUi } from '../ui/window.ts';

interface Step {
  label: string;
  before: Session;
  after: Session;
  key?: string;
  at: number;
}

export type SaveState = 'saved' | 'saving' | 'waiting' | 'refused';

const SAVE_AFTER = 300;
const pendingKey = (id: string) => `rope-shelf-unsaved-${id}`;

/**
 * The open session. Every edit goes through `edit`; undo and redo are three-way merges of what the step
 * changed, so they also work after another window's changes came in. Changes are sent as
 * JSON Patch with If-Match; a stale revision is merged and sent again; when the server is away they wait here
 * and in the browser's storage.
 */
export const useSession = defineStore('session', () => {
  const ui = useUi();
  const id = ref<string | null>(null);
  const doc = shallowRef<Session | null>(null);
  const undoStack = shallowRef<Step[]>([]);
  const redoStack = shallowRef<Step[]>([]);
  const save = ref<SaveState>('saved');
  const conflicts = shallowRef<{ list: Conflict[]; theirs: Session; mine: Session } | null>(null);
  const selectedTrack = ref<Id | null>(null);
  const selectedDevice = ref<Id | null>(null);

  let server: Session | null = null;
  let revision = 0;
  let timer: ReturnType<typeof setTimeout> | null = null;
  let sending = false;
  let wait = 500;
  let stream: EventSource | null = null;

  const track = computed(() => doc.value?.tracks.find((t) => t.id === selectedTrack.value) ?? null);
  /** the selected device or rack, wherever it stands on the line */
  const slot = computed(() =>
    track.value && selectedDevice.value ? (findSlot(track.value.chain, selectedDevice.value) ?? null) : null,
  );
  const device = computed(() => (slot.value?.kind === 'device' ? slot.value : null));
  const rack = computed(() => (slot.value?.kind === 'rack' ? slot.value : null));
  /** further lines that are chosen together with the selected one */
  const chosen = ref<Id[]>([]);
  /**
   * devices and racks of one chain that are chosen together, in the order of the chain; the selected one
   * among them
   */
  const picked = ref<Id[]>([]);
  /** ids of the lines that are chosen together, the master apart */
  const together = computed(() => many.value.filter((t) => t.role !== 'master').map((t) => t.id));
  const many = computed(() => doc.value?.tracks.filter((t) => chosen.value.includes(t.id)) ?? []);

  async function open(sessionId: string): Promise<void> {
    if (id.value === sessionId && doc.value) return;
    await close();
    const got = await api.session(sessionId);
    id.value = sessionId;
    server = got.document;
    revision = got.revision;
    doc.value = got.document;
    undoStack.value = [];
    redoStack.value = [];
    save.value = 'saved';
    selectedTrack.value = got.document.tracks[0]?.id ?? null;
    selectedDevice.value = null;
    restoreUnsaved(sessionId);
    listen(sessionId);
  }

  async function close(): Promise<void> {
    stream?.close();
    stream = null;
    if (id.value) await flush().catch(() => undefined);
    id.value = null;
    doc.value = null;
    conflicts.value = null;
  }

  /** What an earlier window could not send, laid over what the server has now. */
  function restoreUnsaved(sessionId: string) {
    const text = localStorage.getItem(pendingKey(sessionId));
    if (!text || !doc.value) return;
    localStorage.removeItem(pendingKey(sessionId));
    try {
      const { base, mine } = JSON.parse(text) as { base: Session; mine: Session };
      const merged = merge3(base, mine, doc.value);
      if (validateSession(merged.value).length) return;
      push('Changes kept from before', doc.value, merged.value);
      doc.value = merged.value;
      ui.say(
        'Changes that could not be sent last time were kept in this browser and are in place again.',
        'done',
      );
      schedule(0);
    } catch {
      /* damaged storage: nothing to restore */
    }
  }

  function push(label: string, before: Session, after: Session, key?: string) {
    const last = undoStack.value.at(-1);
    // one gesture on one control is one step
    if (key && last?.key === key && Date.now() - last.at < 900 && last.after === before) {
      undoStack.value = [...undoStack.value.slice(0, -1), { ...last, after, at: Date.now() }];
    } else undoStack.value = [...undoStack.value.slice(-299), { label, before, after, key, at: Date.now() }];
    redoStack.value = [];
  }

  /**
   * Makes an edit: refused with a message when it would break a rule or make a loop.
   * @param key edits with the same key in quick succession are one undo step
   */
  function edit(label: string, change: Edit, key?: string): boolean {
    if (!doc.value) return false;
    const before = doc.value;
    const after = change(before);
    if (after === before) return false;
    if (!key) {
      const bad = validateSession(after);
      if (bad.length) {
        ui.say(bad[0].message, 'error');
        return false;
      }
      try {
        compile(after);
      } catch (e) {
        if (e instanceof CompileError) {
          ui.say(e.message, 'error');
          return false;
        }
        throw e;
      }
    }
    push(label, before, after, key);
    doc.value = after;
    schedule();
    return true;
  }

  function travel(from: typeof undoStack, to: typeof undoStack, back: boolean): void {
    const step = from.value.at(-1);
    if (!step || !doc.value) return;
    const [base, mine] = back ? [step.after, step.before] : [step.before, step.after];
    const before = doc.value;
    const { value } = merge3(base, mine, before);
    const bad = validateSession(value);
    if (bad.length) {
      ui.say(`“${step.label}” cannot be ${back ? 'undone' : 'redone'} any more: ${bad[0].message}`, 'error');
      return;
    }
    from.value = from.value.slice(0, -1);
    // what stands after the move is what the way back starts from
    to.value = [
      ...to.value,
      back
        ? { ...step, before: value, after: before, key: undefined }
        : { ...step, before, after: value, key: undefined },
    ];
    doc.value = value;
    ui.say(`${back ? 'Undone' : 'Redone'}: ${step.label}`, 'info', [], 2500);
    schedule();
  }
  const undo = () => travel(undoStack, redoStack, true);
  const redo = () => travel(redoStack, undoStack, false);

  function schedule(ms = SAVE_AFTER) {
    if (doc.value === server) {
      if (save.value !== 'refused') save.value = 'saved';
      return;
    }
    if (save.value === 'saved') save.value = 'saving';
    if (timer) clearTimeout(timer);
    timer = setTimeout(() => {
      timer = null;
      void flush();
    }, ms);
  }

  /** Sends what is not sent yet. */
  async function flush(): Promise<void> {
    if (timer) {
      clearTimeout(timer);
      timer = null;
    }
    if (sending || !doc.value || !server || !id.value || doc.value === server) return;
    sending = true;
    const [sid, sent, based] = [id.value, doc.value, server];
    const ops = jsonpatch.compare(based, sent);
    try {
      if (ops.length) {
        save.value = save.value === 'waiting' ? 'waiting' : 'saving';
        const r = await api.patchSession(sid, revision, ops);
        revision = r.revision;
      }
      server = sent;
      wait = 500;
      localStorage.removeItem(pendingKey(sid));
      if (save.value === 'waiting') ui.say('The server is back; everything is saved.', 'done');
      save.value = doc.value === server ? 'saved' : 'saving';
    } catch (e) {
      await sendFailed(e, sid);
    } finally {
      sending = false;
    }
    if (id.value === sid && doc.value !== server && save.value !== 'refused') {
      schedule(save.value === 'waiting' ? wait : SAVE_AFTER);
    }
  }

  async function sendFailed(e: unknown, sid: string) {
    if (!(e instanceof ApiError)) {
      ui.fail(e);
      return;
    }
    if (e.code === 'changed-elsewhere') {
      await takeTheirs(sid).catch((x) => sendFailed(x, sid));
      return;
    }
    if (e.passing) {
      if (save.value !== 'waiting') ui.say(e.message, 'error');
      save.value = 'waiting';
      wait = Math.min(8000, wait * 2);
      keep();
      return;
    }
    save.value = 'refused';
    keep();
    ui.say(`Not saved: ${e.message}`, 'error', [
      {
        label: 'Go back to what is saved',
        run: () => {
          doc.value = server;
          save.value = 'saved';
          undoStack.value = [];
          redoStack.value = [];
        },
      },
    ]);
  }

  /** Keeps unsent work in the browser, so that closing the window loses nothing. */
  function keep() {
    if (id.value && doc.value && server && doc.value !== server) {
      try {
        localStorage.setItem(pendingKey(id.value), JSON.stringify({ base: server, mine: doc.value }));
      } catch {
        /* storage full: the window still holds it */
      }
    }
  }

  /**
   * Another window was first: merge its changes in; where both changed the same value, mine stays for now and
   * the choice is shown.
   */
  async function takeTheirs(sid: string): Promise<void> {
    const got = await api.session(sid);
    if (id.value !== sid || !doc.value || !server) return;
    if (got.revision <= revision) return;
    const { value, conflicts: list } = merge3(server, doc.value, got.document);
    const bad = validateSession(value);
    server = got.document;
    revision = got.revision;
    if (bad.length || list.length) conflicts.value = { list, theirs: got.document, mine: doc.value };
    doc.value = bad.length ? got.document : value;
    if (!list.length) ui.say('Changes from another window are in.', 'info', [], 3000);
    schedule(50);
  }

  /** Settles a conflict for one side. */
  function settle(side: 'mine' | 'theirs') {
    const c = conflicts.value;
    conflicts.value = null;
    if (!c || !doc.value) return;
    if (side === 'theirs') {
      const before = doc.value;
      doc.value = c.theirs;
      push('Take the other window’s values', before, c.theirs);
      schedule(0);
    }
  }

  /**
   * Hears of changes while the window is seen. A browser allows few open connections, so a hidden or left
   * page lets go of its own; coming back, the first message says whether anything changed.
   */
  function listen(sid: string) {
    stream?.close();
    stream = null;
    if (document.visibilityState === 'hidden') return;
    stream = new EventSource(`/api/sessions/${sid}/events`);
    stream.onmessage = (m: MessageEvent<string>) => {
      const c = JSON.parse(m.data) as { revision: number; client: string };
      if (c.client === CLIENT || c.revision <= revision || sending) return;
      void takeTheirs(sid).catch(() => undefined);
    };
  }

  document.addEventListener('visibilitychange', () => {
    if (id.value) listen(id.value);
  });
  window.addEventListener('pageshow', (e) => {
    if (e.persisted && id.value) listen(id.value);
  });
  window.addEventListener('pagehide', () => {
    stream?.close();
    stream = null;
  });
  window.addEventListener('beforeunload', () => {
    if (!id.value || !doc.value || !server || doc.value === server) return;
    keep();
    // while a change is on its way the next one would be based on a revision that is about to pass: what is
    // kept goes out when the session is opened again
    if (sending) return;
    void api.patchSession(id.value, revision, jsonpatch.compare(server, doc.value), true).then(
      () => undefined,
      () => undefined,
    );
  });

  function select(trackId: Id | null, deviceId: Id | null = null) {
    selectedTrack.value = trackId;
    selectedDevice.value = deviceId;
    chosen.value = [];
    picked.value = [];
  }

  /**
   * Adds a line to those that are chosen, or takes it out; with `range` everything between the selected line
   * and it.
   */
  function choose(trackId: Id, range: boolean) {
    const ids = doc.value?.tracks.map((t) => t.id) ?? [];
    const from = selectedTrack.value ?? trackId;
    selectedDevice.value = null;
    if (range) {
      const [a, b] = [ids.indexOf(from), ids.indexOf(trackId)].sort((x, y) => x - y);
      chosen.value = ids.slice(a, b + 1);
    } else {
      const now = chosen.value.length ? chosen.value : [from];
      chosen.value = now.includes(trackId) ? now.filter((x) => x !== trackId) : [...now, trackId];
    }
    if (chosen.value.length === 1) {
      selectedTrack.value = chosen.value[0];
      chosen.value = [];
    }
  }

  /**
   * Adds a device or rack to those that are chosen, or takes it out; with `range` everything between the
   * selected one and it. Only what stands in one chain can be chosen together.
   */
  function pickSlot(trackId: Id, slotId: Id, range: boolean) {
    const t = doc.value?.tracks.find((x) => x.id === trackId);
    const at = t && placeOf(t, slotId);
    const chain = at && chainAt(t, at.container)?.map((x) => x.id);
    if (!chain) return;
    const from = selectedDevice.value;
    if (trackId !== selectedTrack.value || !from || !chain.includes(from)) {
      select(trackId, slotId);
      return;
    }
    const now = picked.value.length ? picked.value : [from];
    const [a, b] = [chain.indexOf(from), chain.indexOf(slotId)].sort((x, y) => x - y);
    const next = range
      ? chain.slice(a, b + 1)
      : now.includes(slotId)
        ? now.filter((x) => x !== slotId)
        : [...now, slotId];
    picked.value = chain.filter((x) => next.includes(x));
    if (picked.value.length === 1) select(trackId, picked.value[0]);
  }

  return {
    picked,
    pickSlot,
    id,
    doc,
    save,
    conflicts,
    undoStack,
    redoStack,
    selectedTrack,
    selectedDevice,
    track,
    slot,
    device,
    rack,
    chosen,
    many,
    together,
    choose,
    open,
    close,
    edit,
    undo,
    redo,
    flush,
    settle,
    select,
  };
});
