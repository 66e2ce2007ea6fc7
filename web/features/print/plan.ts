import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import {
  loopsOfSession,
  planPrint,
  printOutlook,
  type PrintOutlook,
  type PrintPlan,
  type Session,
} from '../../../core/index.ts';
import { isCancelled, jobs, plain, type Running } from '../../audio/jobs.ts';
import type { PrintMade } from '../../audio/messages.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import { usePorts } from '../ports/index.ts';

/** bytes of one sample on its way to a file, and what a page may take of a computer's memory */
const BYTES = 12;
const MEMORY = 3e9;

/** A print that is done, with the session as it was. */
export interface Done extends PrintMade {
  session: Session;
  plan: PrintPlan;
}

/** How the session is printed: the plan that is kept with it, what it will make, and what it made. */
export const usePrintPlan = defineStore('print-plan', () => {
  const session = useSession();
  const ui = useUi();
  const ports = usePorts();
  const plan = computed<PrintPlan | null>(() =>
    session.doc ? (session.doc.print ?? planPrint(session.doc)) : null,
  );
  const isOwn = computed(() => !!session.doc?.print);
  /** what will be printed; a message where the session cannot be played */
  const outlook = computed<PrintOutlook | string | null>(() => {
    if (!session.doc || !plan.value) return null;
    try {
      return printOutlook(session.doc, plan.value);
    } catch (e) {
      return (e as Error).message;
    }
  });
  /** why it cannot be printed here, in words; '' where it can */
  const refused = computed(() => {
    const [s, p, o] = [session.doc, plan.value, outlook.value];
    if (!s || !p || !o || typeof o === 'string') return '';
    const files = (p.mix ? 1 : 0) + p.versions.length + p.stems.length;
    const frames = o.length * Math.max(s.sampleRate, p.file.rate ?? 0);
    const needed = files * frames * 2 * (BYTES + p.file.bits / 8);
    const gigabytes = (needed / 1e9).toFixed(1);
    return needed > MEMORY
      ? `This needs ${gigabytes} GB at once, more than a browser gives: print a part of the song, or fewer stems at a time.`
      : '';
  });
  /** loops over real ports, by name: a print that is faster than it sounds has them simulated */
  const simulated = computed(() => {
    const s = session.doc;
    if (!s || !ports.isOpen) return [];
    return loopsOfSession(s)
      .filter((l) => ports.isLive(s, l.device))
      .map((l) => `“${l.device.name}” on ${l.track.name}`);
  });
  const share = ref<number | null>(null);
  const done = shallowRef<Done | null>(null);
  let job: Running<PrintMade> | null = null;

  function change(label: string, over: Partial<PrintPlan>, key?: string): void {
    const next = { ...plan.value!, ...over };
    session.edit(label, (s) => ({ ...s, print: next }), key);
  }
  function beginAnew(): void {
    session.edit('A first print plan again', (s) => {
      const { print: _was, ...rest } = s;
      return rest;
    });
  }
  async function print(): Promise<void> {
    const [s, asked] = [session.doc, plan.value];
    if (!s || !asked || share.value !== null) return;
    share.value = 0;
    done.value = null;
    // what is printed is the session as it is now, whatever is changed meanwhile
    const kept = plain(s);
    const running = jobs.printStems(kept, plainPlan(asked), new Date().toISOString(), (x) => {
      share.value = x;
    });
    job = running;
    try {
      done.value = { ...(await running.done), session: kept, plan: asked };
    } catch (e) {
      if (isCancelled(e)) ui.say('The print was stopped; nothing was kept.');
      else ui.fail(e);
    } finally {
      share.value = null;
      job = null;
    }
  }
  const stop = () => job?.cancel();
  watch(
    () => session.id,
    () => {
      stop();
      done.value = null;
    },
  );
  return { plan, isOwn, outlook, refused, simulated, share, done, change, beginAnew, print, stop };
});

const plainPlan = (p: PrintPlan): PrintPlan => JSON.parse(JSON.stringify(p)) as PrintPlan;
