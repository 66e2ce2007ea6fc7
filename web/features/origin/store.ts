import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import {
  letGo,
  putBack,
  rootAgain,
  rootsOf,
  stateOf,
  updateFromShelf,
  type Id,
  type Preset,
  type Root,
  type RootState,
  type Session,
  type Update,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';

export interface Tied {
  root: Root;
  key: string;
  name: string;
  state: RootState;
  current: number;
}

/**
 * How everything in the open session that came from the shelf stands to it: versions are fetched once, states
 * follow the edits.
 */
export const useOrigins = defineStore('origins', () => {
  const session = useSession();
  const ui = useUi();
  const current = shallowRef<Record<string, { version: number; name: string }>>({});
  const versions = new Map<string, Preset | null>();
  /** counts what was fetched, so that states are worked out again */
  const fetched = ref(0);
  let asked = '';

  const keyOf = (r: Root) => r.slot?.id ?? r.track.id;
  const roots = computed<Root[]>(() => (session.doc ? rootsOf(session.doc) : []));
  const states = new Map<string, { root: Root; at: number; tied: Tied }>();
  const all = computed<Map<string, Tied>>(() => {
    const n = fetched.value;
    const out = new Map<string, Tied>();
    for (const root of roots.value) {
      const key = keyOf(root);
      const o = root.origin;
      const base = versions.get(`${o.preset}/${o.version}`);
      const now = current.value[o.preset];
      if (!base || !now) continue;
      const known = states.get(key);
      // a line that is the same object as before stands as before
      if (known?.at === n && known.root.track === root.track) {
        out.set(key, known.tied);
        continue;
      }
      const tied: Tied = {
        root,
        key,
        name: now.name,
        state: stateOf(root, base, now.version),
        current: now.version,
      };
      states.set(key, { root, at: n, tied });
      out.set(key, tied);
    }
    return out;
  });
  const of = (id: Id | undefined) => (id ? all.value.get(id) : undefined);
  const newer = computed(() => [...all.value.values()].filter((t) => t.state.newer));

  async function load(again = false): Promise<void> {
    const wanted = [...new Set(roots.value.map((r) => r.origin.preset))].sort();
    if (
      !again &&
      wanted.join() === asked &&
      roots.value.every((r) => versions.has(`${r.origin.preset}/${r.origin.version}`))
    ) {
      return;
    }
    asked = wanted.join();
    try {
      current.value = wanted.length ? await api.currentVersions(wanted) : {};
      await Promise.all(
        [
          ...new Map(roots.value.map((r) => [`${r.origin.preset}/${r.origin.version}`, r.origin])).entries(),
        ].map(async ([key, o]) => {
          // a preset that was taken off the shelf leaves its lines as they are
          if (!versions.get(key)) {
            versions.set(
              key,
              current.value[o.preset] ? await api.presetVersion(o.preset, o.version).catch(() => null) : null,
            );
          }
        }),
      );
      fetched.value++;
    } catch {
      /* the server is away: the states show again when it is back */
    }
  }
  watch(
    () => roots.value.map((r) => `${r.origin.preset}/${r.origin.version}`).join(),
    () => void load(),
    { immediate: true },
  );

  const latest = async (t: Tied): Promise<Preset> => ({
    ...(await api.presetVersion(t.root.origin.preset, t.current)),
    name: t.name,
  });
  const baseOf = (t: Tied): Preset => versions.get(`${t.root.origin.preset}/${t.root.origin.version}`)!;
  const fresh = (s: Session, t: Tied): Root | undefined => rootAgain(s, t.root);

  /** What an update of one line would do. */
  function lookAt(t: Tied, next: Preset, choices: Record<string, 'mine' | 'theirs'>): Update | null {
    const root = session.doc && fresh(session.doc, t);
    return root ? updateFromShelf(session.doc!, root, baseOf(t), next, { choices }) : null;
  }
  function take(t: Tied, next: Preset, choices: Record<string, 'mine' | 'theirs'>): void {
    session.edit(`Update ${nameOf(t)} to version ${next.version}`, (s) => {
      const root = fresh(s, t);
      return root ? updateFromShelf(s, root, baseOf(t), next, { choices }).session : s;
    });
  }
  /** Several at once, each keeping its own value where both sides changed it. */
  async function takeAll(list: Tied[]): Promise<void> {
    try {
      const nexts = await Promise.all(list.map(latest));
      session.edit(`Update ${list.length} from the shelf`, (s) =>
        list.reduce((now, t, i) => {
          const root = fresh(now, t);
          return root ? updateFromShelf(now, root, baseOf(t), nexts[i]).session : now;
        }, s),
      );
    } catch (e) {
      ui.fail(e);
    }
  }
  function restore(t: Tied, paths: string[] | null): void {
    session.edit(
      paths?.length === 1
        ? `Put back ${t.state.changes.find((c) => c.path === paths[0])?.label ?? 'a value'}`
        : `Put back the saved values of ${nameOf(t)}`,
      (s) => {
        const root = fresh(s, t);
        return root ? putBack(s, root, baseOf(t), paths) : s;
      },
    );
  }
  function release(t: Tied): void {
    session.edit(`Let go of ${t.name}`, (s) => {
      const root = fresh(s, t);
      return root ? letGo(s, root) : s;
    });
  }
  /** The lines that came in with the same drop and are lines of the preset, not its spares. */
  const linesOf = (t: Tied): Id[] => {
    const own = new Set(baseOf(t).content.tracks.map((x) => x.id));
    const o = t.root.origin;
    return (
      session.doc?.tracks
        .filter((x) => x.origin?.drop === o.drop && x.origin.preset === o.preset && own.has(x.origin.local))
        .map((x) => x.id) ?? []
    );
  };
  const nameOf = (t: Tied) => t.root.slot?.name ?? t.root.track.name;
  /** In a word or two. */
  const said = (t: Tied): string =>
    [
      t.state.changes.length ? `changed here (${t.state.changes.length})` : '',
      t.state.newer ? `version ${t.current} on the shelf` : '',
    ]
      .filter(Boolean)
      .join(', ') || 'as on the shelf';

  return {
    all,
    of,
    newer,
    load,
    latest,
    baseOf,
    lookAt,
    take,
    takeAll,
    restore,
    release,
    linesOf,
    nameOf,
    said,
  };
});
