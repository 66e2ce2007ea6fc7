import { defineStore } from 'pinia';
import { computed, shallowRef } from 'vue';
import { randomIds, type Studio } from '../../../core/index.ts';
import type { SetupEntry } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useUi } from '../../ui/window.ts';

const MOST_STEPS = 100;

/** A studio with nothing in it yet. */
const emptyStudio = (name: string): Studio => ({
  format: 'rope-shelf/setup',
  id: randomIds('set'),
  version: 1,
  name,
  note: '',
  ports: [],
  bays: [],
  units: [],
  wires: [],
  cables: [],
  controllers: [],
  midi: {},
  loops: [],
});

/** Making and deleting studios. */
function makeListing(load: () => Promise<void>, gone: (id: string) => void) {
  const ui = useUi();
  /** @returns its id; null when it could not be made */
  async function create(from: Studio | string): Promise<string | null> {
    const studio =
      typeof from === 'string' ? emptyStudio(from) : { ...from, id: randomIds('set'), version: 1 };
    try {
      const { id } = await api.createSetup(studio);
      await load();
      return id;
    } catch (e) {
      ui.fail(e);
      return null;
    }
  }
  async function remove(entry: SetupEntry): Promise<void> {
    try {
      await api.deleteSetup(entry.id);
      gone(entry.id);
      await load();
      const bringBack = () => void api.restoreSetup(entry.id).then(load, ui.fail);
      ui.say(
        `“${entry.name}” was deleted: it is in the trash.`,
        'info',
        [{ label: 'Bring it back', run: bringBack }],
        15000,
      );
    } catch (e) {
      ui.fail(e);
    }
  }
  return { create, remove };
}

/** The studios of the shelf's owner, and the one that is being looked at, with what was changed in it. */
export const useStudios = defineStore('studios', () => {
  const ui = useUi();
  const list = shallowRef<SetupEntry[] | null>(null);
  const failed = shallowRef('');
  const kept = shallowRef<Studio | null>(null);
  const draft = shallowRef<Studio | null>(null);
  const steps = shallowRef<{ label: string; before: Studio }[]>([]);
  const isChanged = computed(() => draft.value !== kept.value);

  async function load(): Promise<void> {
    failed.value = '';
    try {
      list.value = await api.setups();
    } catch (e) {
      failed.value = (e as Error).message;
    }
  }
  async function open(id: string): Promise<void> {
    if (draft.value?.id === id && isChanged.value) return;
    try {
      kept.value = draft.value = (await api.setup(id)).studio;
      steps.value = [];
      failed.value = '';
    } catch (e) {
      kept.value = draft.value = null;
      failed.value = (e as Error).message;
    }
  }
  /** One change, with its way back; nothing is sent before it is kept. */
  function change(label: string, next: (s: Studio) => Studio): void {
    if (!draft.value) return;
    const before = draft.value;
    const after = next(before);
    if (after === before) return;
    steps.value = [...steps.value, { label, before }].slice(-MOST_STEPS);
    draft.value = after;
  }
  function undo(): void {
    const last = steps.value.at(-1);
    if (!last) return;
    draft.value = last.before;
    steps.value = steps.value.slice(0, -1);
    ui.say(`Undone: ${last.label}`, 'info', [], 2500);
  }
  /** Saves what was changed as the next version. */
  async function keep(): Promise<void> {
    const studio = draft.value;
    if (!studio) return;
    try {
      const { version } = await api.addSetupVersion(studio.id, studio.version, studio);
      kept.value = draft.value = { ...studio, version };
      steps.value = [];
      await load();
      ui.say(`“${studio.name}” is kept as version ${version}.`, 'done');
    } catch (e) {
      ui.fail(e);
    }
  }
  function discard(): void {
    draft.value = kept.value;
    steps.value = [];
  }
  const { create, remove } = makeListing(load, (id) => {
    if (draft.value?.id === id) kept.value = draft.value = null;
  });
  return { list, failed, draft, steps, isChanged, load, open, change, undo, keep, discard, create, remove };
});
