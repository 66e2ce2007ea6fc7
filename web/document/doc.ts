import { defineStore } from '../ui/store.ts';
import { computed, ref, shallowRef, watch, type Ref } from 'vue';
import type { JobNews, Person, SessionOpened } from '../../contract/index.ts';
import type { Id, Session } from '../../core/index.ts';
import { api, signInNeeded } from '../api/index.ts';
import { afterFirst, asksLate } from '../ui/first.ts';
import { useUi } from '../ui/window.ts';
import { makeEarlier } from './earlier.ts';
import { makeHere } from './here.ts';
import { makeEditing } from './editing.ts';
import { makeHistory } from './history.ts';
import { makeListener } from './listen.ts';
import { makeOpening } from './opening.ts';
import { browserKeeper } from './offline.ts';
import { makeSelection } from './selection.ts';
import { Sync, type SaveState } from './sync.ts';

const tellOpened = asksLate(api.sessionOpened);

export { wordsOf } from './earlier.ts';

/** Messages go with what they are about. */
function watchMatters(undoStack: Ref<unknown>, save: Ref<SaveState>): void {
  const ui = useUi();
  // what a message offers to undo is the step that it tells of, and no other
  watch(undoStack, () => ui.settle('step'), { flush: 'sync' });
  watch(save, (state) => state === 'saved' && ui.settle('saving'));
}

/** What is heard of the open session: changes, prints, and who else is in it. */
function makeHearing(
  id: Ref<string | null>,
  line: Ref<string | null>,
  changed: (session: string, revision: number) => void,
) {
  /** the print on the server that moved on last */
  const printed = shallowRef<JobNews | null>(null);
  const here = makeHere(id, line);
  const moved = (entry: JobNews) => {
    printed.value = entry;
  };
  const listener = makeListener(id, changed, moved, here);
  // what was refused to nobody is heard again by whoever signed in
  watch(signInNeeded, (isNeeded) => isNeeded || listener.listen());
  return { printed, here, listener };
}

/**
 * The open session: its document, with history, sync and selection around it. Every edit goes through
 * `edit`.
 */
export const useSession = defineStore('session', () => {
  const ui = useUi();
  const id = ref<string | null>(null);
  const doc = shallowRef<Session | null>(null);
  /** whose session it is */
  const owner = shallowRef<Person | null>(null);
  const history = makeHistory();
  const selection = makeSelection(doc);
  const sync = new Sync(id, doc, put, history.clear, {
    read: api.session,
    send: api.patchSession,
    keeper: browserKeeper(),
    say: ui.say,
    fail: ui.fail,
  });

  const earlier = makeEarlier(asksLate(api.history));
  const editing = makeEditing(id, doc, history, earlier, (step) => {
    sync.note(step);
    sync.schedule();
  });
  watchMatters(history.undoStack, sync.save);
  /** what undo and redo would do, in words; '' when there is nothing */
  const undoes = computed(() => history.undoStack.value.at(-1)?.label ?? earlier.label.value);
  const redoes = computed(() => history.redoStack.value.at(-1)?.label ?? '');
  const { printed, here, listener } = makeHearing(id, selection.selectedTrack, (session, revision) =>
    sync.heard(session, revision),
  );

  function put(session: Session, label?: string): void {
    if (label && doc.value) {
      history.push(label, doc.value, session);
      sync.note({ label, kind: 'do', before: doc.value, after: session });
    }
    doc.value = session;
  }

  const { open } = makeOpening<SessionOpened>({
    opened: () => id.value,
    read: api.session,
    shut,
    begin,
  });

  function begin(got: SessionOpened): void {
    id.value = got.id;
    doc.value = got.document;
    owner.value = got.owner;
    history.clear();
    selection.select(got.document.tracks[0]?.id ?? null);
    sync.begin(got);
    earlier.begin(got.id, got.document, got.revision);
    void afterFirst().then(listener.listen);
    void tellOpened(got.id).catch(() => undefined);
  }

  async function shut(): Promise<void> {
    listener.stop();
    if (id.value) await sync.finish().catch(() => undefined);
    earlier.forget();
    id.value = null;
    doc.value = null;
    sync.conflicts.value = null;
  }

  /** How a line is called, for all that only knows its id. */
  const nameOf = (track: Id): string => doc.value?.tracks.find((t) => t.id === track)?.name ?? '?';

  for (const event of ['beforeunload', 'pagehide']) window.addEventListener(event, () => sync.leave());

  return {
    id,
    doc,
    owner,
    others: here.others,
    ...selection,
    undoStack: history.undoStack,
    redoStack: history.redoStack,
    undoes,
    redoes,
    printed,
    save: sync.save,
    kept: sync.kept,
    conflicts: sync.conflicts,
    settle: (side: 'mine' | 'theirs') => sync.settle(side),
    flush: () => sync.flush(),
    open,
    ...editing,
    nameOf,
  };
});
