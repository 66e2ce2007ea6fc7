import { ref, shallowRef } from 'vue';

/**
 * What a message or one of its buttons can be about: a step that was just made, an edit that was refused, work that
 * is not saved, the sound, real ports, a file that was given. When the matter is over, so is the message.
 */
export type Matter = 'step' | 'edit' | 'saving' | 'sound' | 'ports' | 'file';
export interface Action {
  label: string;
  run: () => void;
  /** it is offered until that is over; the message stays */
  matter?: Matter;
}

export interface Toast {
  id: number;
  text: string;
  kind: 'info' | 'error' | 'done';
  actions: Action[];
  /** what it is about, when that can be over before it was read */
  matter: Matter | '';
  /** ms since 1970 */
  at: number;
}

/** messages that can be read again */
const READABLE = 60;
/** ms after a step in which its message may come */
const SOON = 120;
/** ms that a step stands for screen readers to take it up */
const READ = 3000;

/** What is said at the foot of the window, as long as it matters, and what only a screen reader says. */
export function makeMessages() {
  const toasts = ref<Toast[]>([]);
  /** everything that was said, the last first */
  const said = shallowRef<Toast[]>([]);
  let count = 0;

  /** what a screen reader says of a step whose result stands elsewhere on the screen */
  const spoken = ref('');
  let due: ReturnType<typeof setTimeout> | undefined;
  /** Tells a step to who does not see it; a message that follows at once says it all, and is said instead. */
  function tell(text: string): void {
    clearTimeout(due);
    spoken.value = '';
    due = setTimeout(() => {
      spoken.value = text;
      due = setTimeout(() => {
        spoken.value = '';
      }, READ);
    }, SOON);
  }

  /** Says something at the foot of the window; errors stay until they are closed. */
  function say(
    text: string,
    kind: Toast['kind'] = 'info',
    actions: Toast['actions'] = [],
    ms = kind === 'error' ? 0 : 7000,
    matter: Matter | '' = '',
  ): number {
    clearTimeout(due);
    const id = ++count;
    const toast: Toast = { id, text, kind, actions, matter, at: Date.now() };
    said.value = [toast, ...said.value].slice(0, READABLE);
    toasts.value = [...toasts.value.filter((t) => t.text !== text), toast].slice(-4);
    if (ms) setTimeout(() => close(id), ms);
    return id;
  }
  function close(id: number) {
    toasts.value = toasts.value.filter((t) => t.id !== id);
  }
  function fail(e: unknown, matter: Matter | '' = ''): number {
    // the way in lies over the screen, and says it
    if ((e as { code?: string }).code === 'sign-in-needed') return 0;
    const text = e instanceof Error ? e.message : String(e);
    const isStopped = e instanceof Error && e.name === 'Stopped';
    // what a person stopped is no error
    return isStopped ? say(text) : say(text, 'error', [], 0, matter);
  }
  /** A matter is over: what was said of it goes, and what was offered because of it. */
  function settle(matter: Matter): void {
    const left = toasts.value.filter((t) => t.matter !== matter);
    toasts.value = left.map((t) => ({ ...t, actions: t.actions.filter((a) => a.matter !== matter) }));
  }
  /** Another screen: errors of the one that was left are read or not wanted; what is still so stays. */
  function leave(): void {
    toasts.value = toasts.value.filter(
      (t) => t.kind !== 'error' || ['saving', 'sound', 'ports'].includes(t.matter),
    );
  }
  return { toasts, said, spoken, tell, say, close, fail, settle, leave };
}
