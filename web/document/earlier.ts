import jsonpatch, { type Operation } from 'fast-json-patch';
import { ref } from 'vue';
import type { HistoryEntry } from '../../contract/index.ts';
import { clone, type Session } from '../../core/index.ts';
import type { Step } from './history.ts';

/** steps that are asked for at a time */
const PAGE = 40;

/** What a step is called; those of other programs have no words. Of an older hour or day, its last one stands for all. */
export function wordsOf({ label, steps }: HistoryEntry): string {
  const words = label || 'A change';
  return steps > 1 ? `${words}, and ${steps - 1} before it` : words;
}

/**
 * Steps from before a session was opened here, for undo: from the server's history, newest first, each worked out when
 * it is wanted.
 * @param read asks for a page of history with its ways back, from a revision on
 */
export function makeEarlier(
  read: (id: string, o: { from: number; limit: number; with: 'back' }) => Promise<HistoryEntry[]>,
) {
  /** what undo would take back next; '' when there is nothing */
  const label = ref('');
  let session = '';
  let at: Session | null = null;
  let revision = 0;
  let entries: HistoryEntry[] = [];

  /** Begins with a session as it was just read; asks for its history beside everything else. */
  function begin(id: string, document: Session, its: number): void {
    [session, at, revision, entries] = [id, document, its, []];
    label.value = '';
    void more(id);
  }
  async function more(id: string): Promise<void> {
    const page = await read(id, { from: revision, limit: PAGE, with: 'back' }).catch(() => []);
    if (id !== session) return;
    entries.push(...page.filter((e) => e.revision <= revision));
    tell();
  }
  function tell(): void {
    const next = coming();
    label.value = next ? wordsOf(next) : '';
  }
  /**
   * The next step that is not undone already: an undo is passed over with what it has undone. What was joined is what
   * was left of an hour or a day.
   */
  function coming(): HistoryEntry | null {
    let undone = 0;
    for (const e of entries) {
      if (e.kind === 'undo') undone++;
      else if (undone > 0 && e.steps === 1) undone--;
      else return e;
    }
    return null;
  }
  const back = (document: Session, e: HistoryEntry): Session =>
    jsonpatch.applyPatch(clone(document), e.back as Operation[], false, true).newDocument;

  /** The step before, for the history; null when there is none. */
  function take(): Step | null {
    const wanted = coming();
    if (!wanted || !at) return null;
    for (const undone of entries.slice(0, entries.indexOf(wanted))) at = back(at, undone);
    const after = at;
    at = back(after, wanted);
    entries = entries.slice(entries.indexOf(wanted) + 1);
    revision = wanted.revision - wanted.steps;
    tell();
    if (entries.length < PAGE / 4 && revision > 1) void more(session);
    return { label: wordsOf(wanted), before: at, after, at: Date.parse(wanted.at) };
  }
  const forget = () => {
    [session, at, entries] = ['', null, []];
    label.value = '';
  };
  return { label, begin, take, forget };
}
