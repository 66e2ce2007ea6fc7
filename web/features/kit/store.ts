import { defineStore } from 'pinia';
import { ref, shallowRef, watch } from 'vue';
import {
  applyLayout,
  applyPlayer,
  instrumentAt,
  planLayout,
  setTrims,
  unprint,
  withPrint,
  writeWav,
  type Id,
  type KitLayout,
  type MediaRef,
  type OutputLevel,
  type PlayerPlan,
  type Session,
  type TapResult,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { isCancelled, jobs, plain, type Running } from '../../audio/jobs.ts';
import { useAudio } from '../transport/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';

/** Instruments with several outputs: the tap test, and printing them. */
export const useKit = defineStore('kit', () => {
  const session = useSession();
  const ui = useUi();
  const audio = useAudio();
  const tap = shallowRef<{ session: Session; result: TapResult } | null>(null);
  /** share of a test or a print that is done, and what it is */
  const busy = ref<{ what: string; share: number } | null>(null);
  let job: Running<unknown> | null = null;
  watch(
    () => session.id,
    () => {
      tap.value = null;
      job?.cancel();
    },
  );

  async function long<T>(
    what: string,
    start: (progress: (share: number) => void) => Running<T>,
  ): Promise<T | null> {
    if (busy.value) {
      ui.say(`${busy.value.what} is still going on.`);
      return null;
    }
    busy.value = { what, share: 0 };
    try {
      const running = start((share) => {
        if (busy.value) busy.value = { what, share };
      });
      job = running;
      return await running.done;
    } catch (e) {
      if (!isCancelled(e)) ui.fail(e);
      return null;
    } finally {
      busy.value = null;
      job = null;
    }
  }
  const stop = () => job?.cancel();

  /** Strikes each part in turn and keeps the picture until the session changes. */
  async function test(slot: Id): Promise<void> {
    const s = session.doc;
    if (!s) return;
    const result = await long('The tap test', (p) => jobs.tap(plain(s), slot, p));
    if (result) tap.value = { session: s, result };
  }
  /** Hears one part of an instrument, whether the session plays or not. */
  const hit = (slot: Id, part: number) => void audio.hit(slot, part);

  function layOut(plan: KitLayout): boolean {
    try {
      return session.edit(`Lay out ${session.doc!.tracks.find((t) => t.id === plan.track)!.name}`, (s) =>
        applyLayout(
          s,
          planLayout(s, plan.slot, {
            ...plan.options,
            rows: Object.fromEntries(
              plan.rows.map((r) => [
                r.part.id,
                { mode: r.mode, with: r.with, width: r.width, name: r.name, colour: r.colour, sub: r.sub },
              ]),
            ),
          }),
        ),
      );
    } catch (e) {
      ui.fail(e);
      return false;
    }
  }
  function layOutPlayer(plan: PlayerPlan): boolean {
    try {
      return session.edit(`Lay out ${plan.players[0].name}`, (s) => applyPlayer(s, plan));
    } catch (e) {
      ui.fail(e);
      return false;
    }
  }
  const level = (slot: Id, rows: OutputLevel[] | null) =>
    session.edit(rows ? 'Outputs to a working level' : 'Take the levelling of the outputs back', (s) =>
      setTrims(s, slot, rows),
    );

  /**
   * Renders all outputs, keeps the sounds in the database, puts them on the lines and lets the instrument
   * sleep.
   */
  async function print(slot: Id): Promise<boolean> {
    const s = session.doc;
    if (!s) return false;
    const i = instrumentAt(s, slot);
    const what = `Printing ${i.track.name}`;
    const printed = await long(what, (p) => jobs.print(plain(s), slot, (share) => p(share * 0.7)));
    if (!printed) return false;
    try {
      const media: { track: Id; ref: MediaRef }[] = [];
      for (const [k, line] of printed.entries()) {
        busy.value = { what, share: 0.7 + (0.3 * k) / printed.length };
        const mono = line.l.every((v, n) => v === line.r[n]);
        const loud = [line.l, line.r].some((c) => c.some((v) => v > 1 || v < -1));
        const wav = writeWav(
          mono ? [line.l] : [line.l, line.r],
          s.sampleRate,
          loud || s.bitDepth === 32 ? 'float' : 24,
        );
        media.push({
          track: line.track,
          ref: await api.upload(new File([wav as Uint8Array<ArrayBuffer>], `${s.name}, ${line.name}.wav`)),
        });
      }
      // the session may have changed while it was rendered: what is printed is put where it belongs now
      if (!session.edit(`Print ${i.track.name}`, (now) => withPrint(now, slot, media))) return false;
      ui.say(
        `${media.length} ${media.length === 1 ? 'line is' : 'lines are'} printed; “${i.device.name}” sleeps until it is restored.`,
        'done',
        [{ label: 'Undo', run: () => session.undo() }],
      );
      return true;
    } catch (e) {
      ui.fail(e);
      return false;
    } finally {
      busy.value = null;
    }
  }
  const restore = (slot: Id) => {
    if (session.edit('Restore the instrument', (s) => unprint(s, slot))) {
      ui.say('The instrument plays again; the printed sounds are off the lines.', 'done', [
        { label: 'Undo', run: () => session.undo() },
      ]);
    }
  };

  return { tap, busy, test, hit, stop, layOut, layOutPlayer, level, print, restore };
});
