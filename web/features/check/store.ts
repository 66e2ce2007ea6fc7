import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import {
  fixAllSafe,
  fixFinding,
  silence,
  type Finding,
  type Id,
  type Levels,
  type Session,
  type Severity,
} from '../../../core/index.ts';
import { isCancelled, jobs, plain, type Running } from '../../audio/jobs.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';

/** The line check of the open session: runs in the worker a moment after every change, never in the way. */
export const useCheck = defineStore('check', () => {
  const session = useSession();
  const ui = useUi();
  const all = shallowRef<Finding[]>([]);
  /** set once a check of the session as it is now is through */
  const done = ref(false);
  const levels = shallowRef<{ session: Session; measured: Levels } | null>(null);
  const measuring = ref<number | null>(null);
  let job: Running<Levels> | null = null;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let run = 0;

  async function check(): Promise<void> {
    const s = session.doc;
    const mine = ++run;
    if (!s) {
      all.value = [];
      return;
    }
    try {
      const found = await jobs.check(plain(s), levels.value?.measured ?? null).done;
      if (mine === run) {
        all.value = found;
        done.value = true;
      }
    } catch {
      /* the worker is gone: the next change asks a new one */
    }
  }
  watch(
    () => session.doc,
    () => {
      done.value = false;
      clearTimeout(timer);
      timer = setTimeout(() => void check(), 350);
    },
    { immediate: true },
  );
  watch(
    () => session.id,
    () => {
      all.value = [];
      levels.value = null;
      job?.cancel();
      measuring.value = null;
    },
  );

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
  /** whether the session changed since its levels were measured */
  const stale = computed(() => !!levels.value && levels.value.session !== session.doc);

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
        { label: 'Undo', run: () => session.undo() },
      ]);
    }
  }
  const quiet = (f: Finding, reason: string | null) => {
    session.edit(reason === null ? `Speak again: ${f.title}` : `Silence: ${f.title}`, (s) =>
      silence(s, f.key, reason),
    );
  };

  async function listen(): Promise<void> {
    const s = session.doc;
    if (!s || measuring.value !== null) return;
    measuring.value = 0;
    job = jobs.levels(plain(s), (p) => {
      measuring.value = p;
    });
    try {
      levels.value = { session: s, measured: await job.done };
      await check();
    } catch (e) {
      if (!isCancelled(e)) ui.fail(e);
    } finally {
      measuring.value = null;
      job = null;
    }
  }
  const stop = () => job?.cancel();

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
