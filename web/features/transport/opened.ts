import { onMounted, ref, watch, type Ref } from 'vue';
import { useRoute } from 'vue-router';
import { useAudio } from './store.ts';
import { hasWorked } from '../../ui/begun.ts';
import { firstShown } from '../../ui/first.ts';
import { useTour } from '../../ui/tour.ts';
import { useSession } from '../../document/doc.ts';

/** Opens the session that the address names, and another when it changes; what went wrong, in words. */
export function useOpened(): { failed: Ref<string>; load: () => Promise<void> } {
  const [route, session, audio] = [useRoute(), useSession(), useAudio()];
  const failed = ref('');
  async function load(): Promise<void> {
    failed.value = '';
    try {
      await session.open(String(route.params.id));
      audio.endListening();
      hasWorked();
      // the master is a line of its own
      if ((session.doc?.tracks.length ?? 0) > 1) useTour().passed('open');
    } catch (e) {
      failed.value = (e as Error).message;
    }
    firstShown();
  }
  onMounted(load);
  watch(
    () => route.params.id,
    (id) => {
      if (id) void load();
    },
  );
  return { failed, load };
}
