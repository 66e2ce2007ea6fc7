import { useEventListener } from '@vueuse/core';
import { ref, type Ref } from 'vue';
import { useRoute } from 'vue-router';
import { useSession } from '../document/doc.ts';
import { isPackFile, openPack } from '../features/packs/index.ts';
import { useSheets } from '../ui/sheets.ts';
import { useUi } from '../ui/window.ts';

const hasFiles = (e: DragEvent): boolean => e.dataTransfer?.types.includes('Files') ?? false;
/** The line that something was let go over. */
const lineUnder = (e: DragEvent): string | null =>
  (e.target instanceof Element && e.target.closest<HTMLElement>('[data-line]')?.dataset.line) || null;

/**
 * Files that are let go anywhere in the window: over a session they become lines, elsewhere it is said where they go.
 * The browser never opens them in place of the program.
 * @returns whether files are over the session now
 */
export function useFilesAnywhere(): Ref<boolean> {
  const [route, session, sheets, ui] = [useRoute(), useSession(), useSheets(), useUi()];
  const isOver = ref(false);
  const isSession = () => route.name === 'session' && session.doc !== null && !sheets.top;
  useEventListener(window, 'dragover', (e: DragEvent) => {
    if (!hasFiles(e)) return;
    e.preventDefault();
    isOver.value = isSession();
  });
  useEventListener(window, 'dragleave', (e: DragEvent) => {
    if (e.relatedTarget === null) isOver.value = false;
  });
  useEventListener(window, 'drop', (e: DragEvent) => {
    isOver.value = false;
    const isTaken = e.defaultPrevented;
    if (!hasFiles(e)) return;
    e.preventDefault();
    const files = [...(e.dataTransfer?.files ?? [])];
    if (isTaken || !files.length) return;
    const pack = files.find((f) => isPackFile(f.name));
    if (pack && !sheets.top) {
      void openPack(pack);
      return;
    }
    if (isSession()) sheets.open('files', { files, onto: lineUnder(e) });
    else if (!sheets.top) {
      ui.say(
        'Open a session and let the files go there: sounds and notes become lines. Packs can be let go anywhere.',
      );
    }
  });
  return isOver;
}
