import type { Ref } from 'vue';
import { CompileError, compile, validateSession, type Edit, type Session } from '../../core/index.ts';
import { useUi } from '../ui/window.ts';
import type { makeHistory } from './history.ts';

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
 * @param schedule is called after every change, to save it
 */
export function makeEditing(
  doc: Ref<Session | null>,
  history: ReturnType<typeof makeHistory>,
  schedule: () => void,
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
      ui.say(refused, 'error');
      return false;
    }
    history.push(label, before, after, key);
    doc.value = after;
    schedule();
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
    schedule();
  }
  return { edit, undo: () => travel(true), redo: () => travel(false) };
}
