import { zip, type AsyncZippable } from 'fflate';
import { defineStore } from '../../ui/store.ts';
import { computed, ref, shallowRef, watch } from 'vue';
import type { JobDetail } from '../../../contract/index.ts';
import {
  canPrint,
  loopsOfSession,
  planPrint,
  printOutlook,
  safeName,
  type Id,
  type PrintOutlook,
  type PrintPlan,
  type Session,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { isCancelled, jobs, plain, type Running } from '../../audio/jobs.ts';
import type { PrintMade } from '../../audio/messages.ts';
import { useSession } from '../../document/doc.ts';
import { save } from '../../ui/save.ts';
import { useUi } from '../../ui/window.ts';
import { usePorts } from '../ports/index.ts';
import { usePrintJobs } from './jobs.ts';
import { usePrint } from './store.ts';

/** bytes of one sample on its way to a file, and what a page may take of a computer's memory */
const BYTES = 12;
const MEMORY = 3e9;

/** A print that was made in this window. */
interface Here {
  name: string;
  plan: PrintPlan;
  printed: PrintMade;
  urls: string[];
}

/** Why a plan cannot be printed in this window, in words; '' where it can. */
function tooLargeHere(s: Session, p: PrintPlan, length: number): string {
  const files = (p.mix ? 1 : 0) + p.versions.length + p.stems.length;
  const frames = length * Math.max(s.sampleRate, p.file.rate ?? 0);
  const needed = files * frames * 2 * (BYTES + p.file.bits / 8);
  return needed > MEMORY
    ? `In this window it would need ${(needed / 1e9).toFixed(1)} GB of memory, more than a browser gives.`
    : '';
}

/** Printing in this window, where the server is busy or away. */
function makeHere() {
  const ui = useUi();
  const share = ref<number | null>(null);
  const done = shallowRef<Here | null>(null);
  let job: Running<PrintMade> | null = null;

  function forget(): void {
    done.value?.urls.forEach((url) => URL.revokeObjectURL(url));
    done.value = null;
  }
  /** Prints a session as it is now, whatever is changed meanwhile. */
  async function print(s: Session, asked: PrintPlan): Promise<void> {
    if (share.value !== null) return;
    forget();
    share.value = 0;
    const running = jobs.printStems(plain(s), plain(asked), new Date().toISOString(), (x) => {
      share.value = x;
    });
    job = running;
    try {
      const printed = await running.done;
      const type = `audio/${asked.file.format}`;
      const urls = printed.bytes.map((bytes) => URL.createObjectURL(new Blob([bytes], { type })));
      done.value = { name: s.name, plan: asked, printed, urls };
    } catch (e) {
      if (isCancelled(e)) ui.say('The print was stopped; nothing was kept.');
      else ui.fail(e);
    } finally {
      share.value = null;
      job = null;
    }
  }
  /** Sound hardly shrinks: it is stored as it is. */
  function saveAll(): void {
    const { name, printed } = done.value!;
    const entries: AsyncZippable = {};
    printed.files.forEach((f, i) => {
      entries[f.name] = [printed.bytes[i], { level: 0 }];
    });
    zip(entries, (error, bytes) => {
      if (error) ui.fail(error);
      else {
        const blob = new Blob([bytes as Uint8Array<ArrayBuffer>], { type: 'application/zip' });
        save(blob, `${safeName(name)}.zip`);
      }
    });
  }
  return { share, done, print, stop: () => job?.cancel(), forget, saveAll };
}

/** Printing on the server: the newest print of the open session, and what it made. */
function makeThere() {
  const session = useSession();
  const ui = useUi();
  const prints = usePrintJobs();
  const made = shallowRef<JobDetail | null>(null);
  /** the open session as it was when it was printed, where that is known */
  const printed = shallowRef<{ job: string; doc: Session } | null>(null);
  const job = computed(() => prints.ofSession);
  /** which of its songs the open session is */
  const song = computed(() => job.value?.songs.findIndex((x) => x.session === session.id) ?? -1);

  /** @param played the session after its real loops were played through, where it has some */
  async function print(played: Session | null): Promise<void> {
    const { id } = session;
    try {
      // what is printed is what the server has: what was just changed goes there first
      await session.flush();
      const { doc } = session;
      const asked = { session: id!, ...(played ? { document: played } : {}) };
      const job = (await prints.queue({ songs: [asked] })).id;
      // it is printed, whatever is open by then
      if (session.id !== id) return;
      made.value = null;
      printed.value = { job, doc: doc! };
    } catch (e) {
      ui.fail(e);
    }
  }
  watch(
    () => [job.value?.id, job.value?.state] as const,
    async ([id, state]) => {
      if (made.value && made.value.id !== id) made.value = null;
      if (!id || state !== 'done' || made.value) return;
      const found = await api.job(id).catch((e: unknown) => {
        ui.fail(e);
        return null;
      });
      if (!found || job.value?.id !== id) return;
      made.value = found;
      const of = found.printed?.[song.value];
      const isKnown = printed.value?.job === id || !of || of.now !== of.revision;
      if (!isKnown && session.doc) printed.value = { job: id, doc: session.doc };
    },
    { immediate: true },
  );
  /** whether the session is another one than the one that was printed */
  const isOlder = computed(
    () => made.value !== null && (printed.value?.job !== made.value.id || printed.value.doc !== session.doc),
  );
  return { job, song, made, isOlder, print };
}

/**
 * Begins a print on the server: lines whose loops are real are played through them first.
 * @param throughLoops which lines those are, once the interface is open
 */
function makeStart(throughLoops: () => Id[], start: (played: Session | null) => Promise<void>) {
  const session = useSession();
  const lines = usePrint();
  const ui = useUi();

  /** @returns whether it may begin, and the session as it was played where something is played first */
  async function prepared(s: Session): Promise<{ played: Session | null } | null> {
    const { id } = session;
    await lines.openLoops(s);
    if (session.id !== id) return null;
    lines.holdLoops(session.doc!);
    const through = throughLoops();
    if (!through.length) return { played: null };
    const played = await lines.playedThrough(session.doc!, through);
    return played && { played };
  }
  return async function print(): Promise<void> {
    try {
      const ready = await prepared(session.doc!);
      if (ready) await start(ready.played);
    } catch (e) {
      ui.fail(e);
    }
  };
}

/** How the session is printed: the plan that is kept with it, what it will make, and what it made. */
export const usePrintPlan = defineStore('print-plan', () => {
  const session = useSession();
  const ports = usePorts();
  const here = makeHere();
  const { print: printThere, ...newest } = makeThere();
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
  const tooLarge = computed(() => {
    const [s, p, o] = [session.doc, plan.value, outlook.value];
    return s && p && o && typeof o !== 'string' ? tooLargeHere(s, p, o.length) : '';
  });
  /** loops over real ports: lines that are played through them first, and others that are printed simulated */
  const loops = computed(() => {
    const s = session.doc;
    const live = s && ports.isOpen ? loopsOfSession(s).filter((l) => ports.isLive(s, l.device)) : [];
    const played = [...new Set(live.map((l) => l.track))].filter(canPrint);
    const rest = live.filter((l) => !played.includes(l.track));
    return { played, simulated: rest.map((l) => `“${l.device.name}” on ${l.track.name}`) };
  });

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
  const print = makeStart(
    () => loops.value.played.map((line) => line.id),
    (played) => {
      here.forget();
      return printThere(played);
    },
  );
  const printHere = () => here.print(session.doc!, plan.value!);
  watch(
    () => session.id,
    () => {
      here.stop();
      here.forget();
    },
  );
  return {
    plan,
    isOwn,
    outlook,
    tooLarge,
    loops,
    change,
    beginAnew,
    print,
    printHere,
    share: here.share,
    done: here.done,
    stopHere: here.stop,
    saveAllHere: here.saveAll,
    ...newest,
  };
});
