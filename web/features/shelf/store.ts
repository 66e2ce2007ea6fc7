import { defineStore } from '../../ui/store.ts';
import { computed, reactive, ref, shallowRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import { api, type Blank } from '../../api/index.ts';
import type { Facets, PresetEntry, PresetPage, ShelfQuery, ShelfSearch } from '../../../contract/index.ts';
import { useUi } from '../../ui/window.ts';

/** presets that can be marked at once */
export const MOST_MARKED = 500;

/** Ids of all that fit, also of those that were not scrolled to yet. */
async function everyIdOf(
  filter: Blank<Omit<ShelfQuery, 'after' | 'limit'>>,
): Promise<{ ids: string[]; isCut: boolean }> {
  const ids: string[] = [];
  let after: string | null = '';
  while (after !== null && ids.length < MOST_MARKED) {
    const page = await api.presets({ ...filter, ...(after ? { after } : {}), limit: 200 });
    ids.push(...page.items.map((p) => p.id));
    after = page.next;
  }
  return { ids: ids.slice(0, MOST_MARKED), isCut: after !== null || ids.length > MOST_MARKED };
}

/** Presets as the palette knows them, and the way to look at one. */
function makeKnown() {
  const router = useRouter();
  /** presets that may be meant in the palette, whatever the list is narrowed to */
  const known = shallowRef<PresetEntry[]>([]);
  async function learn(text: string): Promise<void> {
    const wanted = text ? { q: text, limit: 20 } : { sort: 'used' as const, limit: 200 };
    const found = await api.presets(wanted).catch(() => null);
    if (!found) return;
    const ids = new Set(found.items.map((p) => p.id));
    known.value = [...found.items, ...known.value.filter((p) => !ids.has(p.id))];
  }
  const lookAt = (id: string) => void router.push(`/shelf/${id}`);
  return { known, learn, lookAt };
}

/** ms after a key until it is looked for; what is typed over is given up, so that it may be short */
const TYPING = 50;
/** what the shelf can be narrowed by */
const WAYS = ['q', 'category', 'tag', 'pinned', 'kind'] as const;

function makeNarrowing(filter: Record<(typeof WAYS)[number] | 'sort', string>) {
  /** whether anything is filtered out */
  const isNarrowed = computed(() => WAYS.some((key) => filter[key] !== ''));
  function widen(): void {
    for (const key of WAYS) filter[key] = '';
  }
  /** What the shelf is narrowed to and in what order, without what says nothing. */
  const asSearch = (): ShelfSearch =>
    Object.fromEntries(Object.entries(filter).filter(([key, value]) => key !== 'of' && value !== ''));
  /** Narrows the shelf to a search that was kept. */
  function follow(search: ShelfSearch): void {
    widen();
    Object.assign(filter, { sort: 'name', ...search });
  }
  return { isNarrowed, widen, asSearch, follow };
}

/** What it is narrowed to is looked for when nothing more is typed. */
function followTyping(filter: object, search: () => Promise<void>): void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  watch(filter, () => {
    clearTimeout(timer);
    timer = setTimeout(() => void search(), TYPING);
  });
}

/** Another shelf has other categories and tags: it is looked at from its beginning. */
function followShelf(of: () => string, widen: () => void, refresh: () => Promise<void>): void {
  watch(of, () => {
    widen();
    void refresh();
  });
}

/** What the shelf shows: a search, its pages as far as they were scrolled, and the facets. */
export const useShelf = defineStore('shelf', () => {
  const ui = useUi();
  const filter = reactive<Required<Blank<Omit<ShelfQuery, 'after' | 'limit' | 'parent'>>>>({
    q: '',
    kind: '',
    category: '',
    tag: '',
    pinned: '',
    sort: 'name',
    of: '',
  });
  const items = shallowRef<PresetEntry[]>([]);
  const next = ref<string | null>(null);
  /** misspelt words, and what was looked for in their place */
  const instead = shallowRef<NonNullable<PresetPage['instead']>>([]);
  const loading = ref(false);
  const loaded = ref(false);
  const facets = shallowRef<Facets>({ categories: [], tags: [], kinds: [] });
  const narrowing = makeNarrowing(filter);
  /** the search whose answer counts */
  let under = new AbortController();

  async function search(): Promise<void> {
    // what was asked before is not waited for any more, here and on the server
    under.abort();
    const mine = (under = new AbortController());
    loading.value = true;
    try {
      const page = await api.presets({ ...filter, limit: 60 }, mine.signal);
      if (mine !== under) return;
      items.value = page.items;
      next.value = page.next;
      instead.value = page.instead ?? [];
      loaded.value = true;
    } catch (e) {
      if (mine === under) ui.fail(e);
    } finally {
      if (mine === under) loading.value = false;
    }
  }
  async function more(): Promise<void> {
    if (!next.value || loading.value) return;
    const mine = under;
    loading.value = true;
    try {
      const page = await api.presets({ ...filter, after: next.value, limit: 60 });
      if (mine !== under) return;
      items.value = [...items.value, ...page.items];
      next.value = page.next;
    } catch (e) {
      if (mine === under) ui.fail(e);
    } finally {
      if (mine === under) loading.value = false;
    }
  }
  async function refresh(): Promise<void> {
    const { of } = filter;
    const counted = api.facets(of).then((f) => {
      // those of another shelf may be late
      if (of === filter.of) facets.value = f;
    }, ui.fail);
    await Promise.all([search(), counted]);
  }
  followShelf(() => filter.of, narrowing.widen, refresh);
  followTyping(filter, search);
  return {
    ...narrowing,
    filter,
    items,
    next,
    instead,
    loading,
    loaded,
    facets,
    search,
    more,
    everyId: () => everyIdOf(filter),
    refresh,
    ...makeKnown(),
  };
});
