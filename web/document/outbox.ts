import type { Session } from '../../core/index.ts';
import type { StepWords } from '../api/index.ts';

/** A step as it was made: the session before and after, and its words. */
export interface Done extends StepWords {
  before: Session;
  after: Session;
  /** of a gesture: what it moves */
  key?: string;
}

/** so many steps go out one by one; what is more than that waited for a server that was away */
const MOST = 60;

/** The steps that are not saved yet, so that each goes out as a change of its own, with its words. */
export function makeOutbox() {
  let steps: Done[] = [];
  /** the step that was made last: what goes on while it is sent has its words */
  let latest: Done | null = null;

  /** A move of a control that goes on is one step with what it began. */
  function put(step: Done): void {
    latest = step;
    const last = steps.at(-1);
    const goesOn = last && step.key && last.key === step.key && last.after === step.before;
    if (goesOn) steps[steps.length - 1] = { ...last, after: step.after };
    else steps.push(step);
  }

  /** The words of everything that waits, in one. */
  function all(): StepWords {
    const waiting = steps.length || !latest ? steps : [latest];
    const labels = [...new Set(waiting.map((s) => s.label))];
    const kinds = new Set(waiting.map((s) => s.kind));
    return { label: labels.join(' · '), kind: kinds.size === 1 ? [...kinds][0] : 'do' };
  }

  /**
   * What goes out next, from what the server has to what is wanted. Where the steps do not lead there one by one, as
   * after another window's changes came in, all of it goes out as one.
   */
  function next(server: Session, wanted: Session): { after: Session; words: StepWords } {
    const at = steps.findIndex((s) => s.before === server);
    const chain = at < 0 ? [] : steps.slice(at);
    const isWhole =
      chain.length > 0 &&
      chain.length <= MOST &&
      chain.every((s, i) => i === 0 || s.before === chain[i - 1].after) &&
      chain.some((s) => s.after === wanted);
    if (!isWhole) {
      const words = all();
      steps = [];
      return { after: wanted, words };
    }
    const [first] = chain;
    steps = chain.slice(1);
    return { after: first.after, words: { label: first.label, kind: first.kind } };
  }
  const clear = () => {
    steps = [];
    latest = null;
  };
  return { put, next, all, clear };
}
