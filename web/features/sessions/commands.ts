import { defineStore } from 'pinia';
import { shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import type { SessionEntry } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import type { FeatureCommands } from '../../ui/commands.ts';
import { toldApart } from '../../ui/format.ts';

/** The sessions that there are, as the palette offers them. */
const useSessionList = defineStore('session-list', () => {
  const router = useRouter();
  const list = shallowRef<SessionEntry[]>([]);
  async function load(): Promise<void> {
    // without the server nothing can be opened anyway
    list.value = await api.sessions().catch(() => list.value);
  }
  const open = (s: SessionEntry) => void router.push(`/session/${s.id}`);
  return { list, load, open };
});

export const sessionsCommands: FeatureCommands = {
  commands: () => {
    const sessions = useSessionList();
    return sessions.list
      .filter((s) => s.id !== useSession().id)
      .map((s) => ({
        group: 'Sessions',
        label: `Open ${toldApart(s, sessions.list)}`,
        run: () => sessions.open(s),
      }));
  },
  prepare: async (text) => {
    if (!text) await useSessionList().load();
  },
};
