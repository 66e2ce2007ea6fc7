import { defineStore } from '../../ui/store.ts';
import { computed, shallowRef, type ShallowRef } from 'vue';
import { randomIds, type Studio } from '../../../core/index.ts';
import type { Person, SetupEntry } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useMe } from '../../document/me.ts';
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

/** The studios of somebody who shares a shelf. */
interface OthersStudios {
  owner: Person;
  list: SetupEntry[];
}

/** Studios of others: those of every shelf that is shared and has any. */
async function sharedStudios(): Promise<OthersStudios[]> {
  const me = useMe();
  await me.loadShares();
  const all = await Promise.all(
    // a shelf that is shared no more keeps no other from being seen
    me.shelves.map(async ({ owner }) => ({ owner, list: await api.setups(owner.id).catch(() => []) })),
  );
  return all.filter(({ list }) => list.length);
}

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

/** The studio that is being looked at, with what was changed in it. */
function makeDraft(failed: ShallowRef<string>, load: () => Promise<void>) {
  const ui = useUi();
  const kept = shallowRef<Studio | null>(null);
  const draft = shallowRef<Studio | null>(null);
  const steps = shallowRef<{ label: string; before: Studio }[]>([]);
  const isChanged = computed(() => draft.value !== kept.value);
  /** the one that was asked for last: an answer that comes late takes no other's place */
  let asked = '';

  async function open(id: string): Promise<void> {
    asked = id;
    if (draft.value?.id === id && isChanged.value) return;
    try {
      const { studio } = await api.setup(id);
      if (asked !== id) return;
      kept.value = draft.value = studio;
      steps.value = [];
      failed.value = '';
    } catch (e) {
      if (asked !== id) return;
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
  /** Saves what was changed as the next version; what is changed while it is saved stays. */
  async function keep(): Promise<void> {
    const studio = draft.value;
    if (!studio) return;
    try {
      const { version } = await api.addSetupVersion(studio.id, studio.version, studio);
      if (draft.value?.id === studio.id) {
        const isSame = draft.value === studio;
        kept.value = { ...studio, version };
        draft.value = isSame ? kept.value : { ...draft.value, version };
        if (isSame) steps.value = [];
      }
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
  /** It is not there any more. */
  function gone(id: string): void {
    if (draft.value?.id === id) kept.value = draft.value = null;
  }
  return { draft, steps, isChanged, open, change, undo, keep, discard, gone };
}

/** The studios of the shelf's owner, and the one that is being looked at. */
export const useStudios = defineStore('studios', () => {
  const list = shallowRef<SetupEntry[] | null>(null);
  const others = shallowRef<OthersStudios[]>([]);
  const failed = shallowRef('');

  async function load(): Promise<void> {
    failed.value = '';
    try {
      [list.value, others.value] = await Promise.all([api.setups(), sharedStudios()]);
    } catch (e) {
      failed.value = (e as Error).message;
    }
  }
  const { gone, ...draft } = makeDraft(failed, load);
  return { list, others, failed, load, ...draft, ...makeListing(load, gone) };
});
