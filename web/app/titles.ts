import { useTitle } from '@vueuse/core';
import { computed, watch } from 'vue';
import { useRoute } from 'vue-router';
import { useSession } from '../document/doc.ts';
import type { Place } from '../ui/commands.ts';
import { useUi } from '../ui/window.ts';

/** What each screen is called; those of a session carry its name before that. */
const NAMES: Record<Place, string> = {
  welcome: 'Welcome',
  sessions: 'Sessions',
  session: '',
  map: 'Signal map',
  check: 'Line check',
  patch: 'Patch list',
  print: 'Print',
  shelf: 'Shelf',
  hardware: 'Hardware',
  prints: 'Prints',
  settings: 'Settings',
  trash: 'Trash',
};

/** The window's title: what is looked at, then the program. Another screen leaves the errors of the last one behind. */
export function useTitles(): void {
  const route = useRoute();
  const session = useSession();
  const ui = useUi();
  const title = computed(() => {
    const place = route.name as Place | undefined;
    const ofSession = route.path.startsWith('/session/') ? session.doc?.name : undefined;
    const ofPreset = place === 'shelf' ? ui.subject : undefined;
    return [ofPreset, ofSession, place && NAMES[place], 'Rope Shelf'].filter(Boolean).join(' · ');
  });
  useTitle(title);
  watch(() => route.path, ui.leave);
}
