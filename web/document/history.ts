import { shallowRef } from 'vue';
import { merge3, validateSession, type Session } from '../../core/index.ts';

/** One thing that was done, and the session around it. */
export interface Step {
  label: string;
  before: Session;
  after: Session;
  /** of a gesture: what it moves */
  key?: string;
  at: number;
}

/** ms within which moves of one control are one gesture */
const GESTURE = 900;
const MOST = 300;

/**
 * Undo and redo as three-way merges of what a step changed, so that they also work after another window's
 * changes came in.
 */
export function makeHistory() {
  const undoStack = shallowRef<Step[]>([]);
  const redoStack = shallowRef<Step[]>([]);

  function push(label: string, before: Session, after: Session, key?: string): void {
    const steps = undoStack.value;
    const last = steps.at(-1);
    const at = Date.now();
    const goesOn = key && last?.key === key && at - last.at < GESTURE && last.after === before;
    undoStack.value = goesOn
      ? [...steps.slice(0, -1), { ...last, after, at }]
      : [...steps.slice(1 - MOST), { label, before, after, key, at }];
    redoStack.value = [];
  }

  /**
   * Takes the last step back, or makes it again, in what the session is now.
   * @returns the session after it, or why that is not possible any more; null when there is no step
   */
  function travel(
    now: Session,
    back: boolean,
  ): { step: Step; session: Session } | { step: Step; refused: string } | null {
    const [from, to] = back ? [undoStack, redoStack] : [redoStack, undoStack];
    const step = from.value.at(-1);
    if (!step) return null;
    const [base, mine] = back ? [step.after, step.before] : [step.before, step.after];
    const session = merge3(base, mine, now).value;
    const wrong = validateSession(session);
    if (wrong.length) return { step, refused: wrong[0].message };
    from.value = from.value.slice(0, -1);
    // what stands after the move is what the way back starts from
    const [before, after] = back ? [session, now] : [now, session];
    to.value = [...to.value, { ...step, before, after, key: undefined }];
    return { step, session };
  }

  /** A step from before the session was opened here, as the first that can be undone. */
  function precede(step: Step): void {
    undoStack.value = [step, ...undoStack.value];
  }

  function clear(): void {
    undoStack.value = [];
    redoStack.value = [];
  }

  return { undoStack, redoStack, push, precede, travel, clear };
}
