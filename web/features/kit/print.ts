import type { Ref } from 'vue';
import { instrumentAt, unprint, withPrint, type Id, type MediaRef } from '../../../core/index.ts';
import { jobs, plain } from '../../audio/jobs.ts';
import { keepPrinted } from '../../audio/keep.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import type { makeLong } from './long.ts';

/** share of a print that rendering takes; the rest is keeping the sounds */
const RENDER = 0.7;

/** Printing an instrument to its lines, and the way back. */
export function makePrint(
  busy: Ref<{ what: string; share: number } | null>,
  long: ReturnType<typeof makeLong>['long'],
) {
  const session = useSession();
  const ui = useUi();
  const undo = session.undoing();

  /**
   * Renders all outputs, keeps the sounds in the database, puts them on the lines and lets the instrument
   * sleep.
   */
  async function print(slot: Id): Promise<boolean> {
    const s = session.doc;
    if (!s) return false;
    const edit = session.editLater();
    const { track, device } = instrumentAt(s, slot);
    const what = `Printing ${track.name}`;
    const printed = await long(what, (progress) =>
      jobs.print(plain(s), slot, (share) => progress(share * RENDER)),
    );
    if (!printed) return false;
    try {
      const media: { track: Id; ref: MediaRef }[] = [];
      for (const [k, line] of printed.entries()) {
        busy.value = { what, share: RENDER + ((1 - RENDER) * k) / printed.length };
        media.push({ track: line.track, ref: await keepPrinted(line, s) });
      }
      // the session may have changed while it was rendered: what is printed is put where it belongs now
      if (!edit(what.replace('Printing', 'Print'), (now) => withPrint(now, slot, media))) return false;
      const lines = media.length === 1 ? '1 line is' : `${media.length} lines are`;
      ui.say(`${lines} printed; “${device.name}” sleeps until it is restored.`, 'done', [undo]);
      return true;
    } catch (e) {
      ui.fail(e);
      return false;
    } finally {
      busy.value = null;
    }
  }
  function restore(slot: Id): void {
    if (!session.edit('Restore the instrument', (s) => unprint(s, { slot }))) return;
    ui.say('The instrument plays again; the printed sounds are off the lines.', 'done', [undo]);
  }
  return { print, restore };
}
