import type { Ref } from 'vue';
import {
  CompileError,
  compile,
  validateSession,
  type Edit,
  type Id,
  type Session,
} from '../../core/index.ts';
import { useUi, type Action } from '../ui/window.ts';
import type { makeEarlier } from './earlier.ts';
import type { makeHistory } from './history.ts';
import type { Done } from './outbox.ts';

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
 * The one way in which the open session changes, and the way back.
 * @param id which session it is
 * @param earlier steps from before the session was opened here
 * @param made is told every step, to save it
 */
export function makeEditing(
  id: Ref<Id | null>,
  doc: Ref<Session | null>,
  history: ReturnType<typeof makeHistory>,
  earlier: ReturnType<typeof makeEarlier>,
  made: (step: Done) => void,
) {
  const ui = useUi();

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
      ui.say(refused, 'error', [], 0, 'edit');
      return false;
    }
    history.push(label, before, after, key);
    ui.settle('edit');
    // a slide is heard from its own slider
    if (!key) ui.tell(label);
    doc.value = after;
    made({ label, kind: 'do', before, after, key });
    return true;
  }

  /**
   * Edits of the session that is open now, for what takes its time first.
   * @returns `edit`, which throws when another session is open by then
   */
  function editLater(): typeof edit {
    const own = id.value;
    const name = doc.value?.name ?? '';
    return (label, change, key) => {
      if (id.value === own) return edit(label, change, key);
      throw new Error(`“${name}” is not open any more, so nothing was changed in it: ${label}.`);
    };
  }

  function travel(back: boolean): void {
    const before = doc.value;
    const first = back && !history.undoStack.value.length ? earlier.take() : null;
    if (first) history.precede(first);
    const moved = before && history.travel(before, back);
    if (!moved) return;
    const { label } = moved.step;
    if ('refused' in moved) {
      ui.say(
        `“${label}” cannot be ${back ? 'undone' : 'redone'} any more: ${moved.refused}`,
        'error',
        [],
        0,
        'edit',
      );
      return;
    }
    doc.value = moved.session;
    const said = `${back ? 'Undone' : 'Redone'}: ${label}`;
    ui.say(said, 'info', [], 2500);
    made({ label: said, kind: back ? 'undo' : 'redo', before, after: moved.session });
  }
  const undo = () => travel(true);
  /** Takes back the step that was just made, as long as it is the last one: for the message that tells it. */
  const undoing = (): Action => ({ label: 'Undo', run: undo, matter: 'step' });
  return { edit, editLater, undo, redo: () => travel(false), undoing };
}
