import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';
import type { SessionChange } from '../../contract/index.ts';
import { CompileError, compile, validateSession, type Edit, type Session } from '../../core/index.ts';
import { CLIENT, api } from '../api/index.ts';
import { useUi } from '../ui/window.ts';
import { makeHistory } from './history.ts';
import { makeSelection } from './selection.ts';
import { makeSync } from './sync.ts';

/** Why a session cannot be as it would be: a rule that it breaks, or a loop; null when it can. */
function refusal(s: Session): string | null {
  const wrong = validateSession(s);
  if (wrong.length) return wrong[0].message;
  try {
    compile(s);
    return null;
  } catch (e) {
    if (e instanceof CompileError) return e.message;
    throw e;
  }
}

/**
 * The open session: its document, with history, sync and selection around it. Every edit goes through
 * `edit`.
 */
export const useSession = defineStore('session', () => {
  const ui = useUi();
  const id = ref<string | null>(null);
  const doc = shallowRef<Session | null>(null);
  const history = makeHistory();
  const selection = makeSelection(doc);
  const sync = makeSync(id, doc, put, history.clear, {
    read: api.session,
    send: api.patchSession,
    storage: localStorage,
    say: ui.say,
    fail: ui.fail,
  });

  function put(session: Session, label?: string): void {
    if (label && doc.value) history.push(label, doc.value, session);
    doc.value = session;
  }

  async function open(sessionId: string): Promise<void> {
    if (id.value === sessionId && doc.value) return;
    await close();
    const got = await api.session(sessionId);
    id.value = sessionId;
    doc.value = got.document;
    history.clear();
    selection.selectedTrack.value = got.document.tracks[0]?.id ?? null;
    selection.selectedDevice.value = null;
    sync.begin(got);
    listen(sessionId);
  }

  async function close(): Promise<void> {
    stopListening();
    if (id.value) await sync.flush().catch(() => undefined);
    id.value = null;
    doc.value = null;
    sync.conflicts.value = null;
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
    const refused = key ? null : refusal(after);
    if (refused) {
      ui.say(refused, 'error');
      return false;
    }
    history.push(label, before, after, key);
    doc.value = after;
    sync.schedule();
    return true;
  }

  function travel(back: boolean): void {
    const moved = doc.value && history.travel(doc.value, back);
    if (!moved) return;
    const { label } = moved.step;
    if ('refused' in moved) {
      ui.say(`“${label}” cannot be ${back ? 'undone' : 'redone'} any more: ${moved.refused}`, 'error');
      return;
    }
    doc.value = moved.session;
    ui.say(`${back ? 'Undone' : 'Redone'}: ${label}`, 'info', [], 2500);
    sync.schedule();
  }
  const undo = () => travel(true);
  const redo = () => travel(false);

  let stream: EventSource | null = null;
  function stopListening(): void {
    stream?.close();
    stream = null;
  }

  /**
   * Hears of changes while the window is seen. A browser allows few open connections, so a hidden or left
   * page lets go of its own; coming back, the first message says whether anything changed.
   */
  function listen(sessionId: string): void {
    stopListening();
    if (document.visibilityState === 'hidden') return;
    stream = new EventSource(`/api/sessions/${sessionId}/events`);
    stream.onmessage = (m: MessageEvent<string>) => {
      const change = JSON.parse(m.data) as SessionChange;
      if (change.client !== CLIENT) sync.heard(sessionId, change.revision);
    };
  }

  document.addEventListener('visibilitychange', () => {
    if (id.value) listen(id.value);
  });
  window.addEventListener('pageshow', (e) => {
    if (e.persisted && id.value) listen(id.value);
  });
  window.addEventListener('pagehide', stopListening);
  window.addEventListener('beforeunload', sync.leave);

  return {
    id,
    doc,
    ...selection,
    undoStack: history.undoStack,
    redoStack: history.redoStack,
    save: sync.save,
    conflicts: sync.conflicts,
    settle: sync.settle,
    flush: sync.flush,
    open,
    close,
    edit,
    undo,
    redo,
  };
});
