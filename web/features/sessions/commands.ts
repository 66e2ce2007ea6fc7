import { defineStore } from '../../ui/store.ts';
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
  /** Those that were opened last, and those whose names have what was typed. */
  async function learn(q: string): Promise<void> {
    // without the server nothing can be opened anyway
    const found = await api.sessions({ q }).catch(() => null);
    if (!found) return;
    const ids = new Set(found.items.map((s) => s.id));
    list.value = [...found.items, ...(q ? list.value.filter((s) => !ids.has(s.id)) : [])];
  }
  const open = (s: SessionEntry) => void router.push(`/session/${s.id}`);
  return { list, learn, open };
});

/** What is typed without the command's own word. */
const nameWords = (text: string): string => text.replace(/^\s*(open|sessions?)\b/i, '').trim();

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
  prepare: (text) => useSessionList().learn(nameWords(text)),
};
