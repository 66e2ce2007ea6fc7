import { defineStore } from '../../ui/store.ts';
import { computed } from 'vue';
import {
  fixAllSafe,
  fixFinding,
  silence,
  type Finding,
  type Id,
  type Severity,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { makeChecking } from './checking.ts';

/** The line check of the open session: what is found, and mending it. */
export const useCheck = defineStore('check', () => {
  const session = useSession();
  const ui = useUi();
  const { all, done, levels, measuring, stale, listen, stop } = makeChecking();
  const open = computed(() => all.value.filter((f) => f.silenced === undefined));
  const silenced = computed(() => all.value.filter((f) => f.silenced !== undefined));
  const safe = computed(() => open.value.filter((f) => f.safe));
  const byTrack = computed(() => {
    const out = new Map<Id, Finding[]>();
    for (const f of open.value) {
      const l = out.get(f.track);
      if (l) l.push(f);
      else out.set(f.track, [f]);
    }
    return out;
  });
  /** the gravest of some findings, which come faults first */
  const worst = (list: Finding[]): Severity | null => list[0]?.severity ?? null;

  const fix = (f: Finding) => {
    if (!session.edit(`${f.fix}: ${f.title}`, (s) => fixFinding(s, f, levels.value?.measured ?? null))) {
      ui.say('This is mended already, or not possible any more.');
    }
  };
  function fixSafe(): void {
    const s = session.doc;
    if (!s) return;
    const { session: next, fixed } = fixAllSafe(s);
    if (fixed.length && session.edit(`Mend ${fixed.length} findings`, () => next)) {
      ui.say(`${fixed.length} ${fixed.length === 1 ? 'finding is' : 'findings are'} mended.`, 'done', [
        session.undoing(),
      ]);
    }
  }
  const quiet = (f: Finding, reason: string | null) => {
    session.edit(reason === null ? `Speak again: ${f.title}` : `Silence: ${f.title}`, (s) =>
      silence(s, f.key, reason),
    );
  };

  return {
    all,
    open,
    silenced,
    safe,
    byTrack,
    worst,
    done,
    levels,
    stale,
    measuring,
    fix,
    fixSafe,
    quiet,
    listen,
    stop,
  };
});
