import { computed, ref, shallowRef, watch } from 'vue';
import {
  rootsOf,
  stateOf,
  type Origin,
  type Preset,
  type Root,
  type RootState,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';

/** Something in the session that came from the shelf, and how it stands to it. */
export interface Tied {
  root: Root;
  key: string;
  name: string;
  state: RootState;
  /** the version that the shelf has now */
  current: number;
}

const versionOf = ({ origin }: Root) => `${origin.preset}/${origin.version}`;

/**
 * How everything in the open session that came from the shelf stands to it: versions are fetched once, states
 * follow the edits.
 */
export function makeStates() {
  const session = useSession();
  const current = shallowRef<Record<string, { version: number; name: string }>>({});
  /** null: taken off the shelf */
  const versions = new Map<string, Preset | null>();
  /** counts what was fetched, so that states are worked out again */
  const fetched = ref(0);
  const known = new Map<string, { root: Root; at: number; tied: Tied }>();
  let asked = '';

  const roots = computed<Root[]>(() => (session.doc ? rootsOf(session.doc) : []));
  const all = computed<Map<string, Tied>>(() => {
    const at = fetched.value;
    return new Map(
      roots.value.flatMap((root): [string, Tied][] => {
        const tied = tiedOf(root, at);
        return tied ? [[tied.key, tied]] : [];
      }),
    );
  });
  function tiedOf(root: Root, at: number): Tied | null {
    const base = versions.get(versionOf(root));
    const now = current.value[root.origin.preset];
    if (!base || !now) return null;
    const key = root.slot?.id ?? root.track.id;
    const before = known.get(key);
    // a line that is the same object as before stands as before
    if (before?.at === at && before.root.track === root.track) return before.tied;
    const state = stateOf(root, base, now.version);
    const tied = { root, key, name: now.name, state, current: now.version };
    known.set(key, { root, at, tied });
    return tied;
  }

  /** A preset that was taken off the shelf leaves its lines as they are. */
  async function fetchVersion(root: Root): Promise<void> {
    const { preset, version } = root.origin;
    const key = versionOf(root);
    if (versions.get(key)) return;
    const isThere = !!current.value[preset];
    versions.set(key, isThere ? await api.presetVersion(preset, version).catch(() => null) : null);
  }
  /** @param again asks the shelf also when nothing new came into the session */
  async function load(again = false): Promise<void> {
    const wanted = [...new Set(roots.value.map((r) => r.origin.preset))].sort();
    const isKnown = wanted.join() === asked && roots.value.every((r) => versions.has(versionOf(r)));
    if (!again && isKnown) return;
    asked = wanted.join();
    try {
      current.value = wanted.length ? await api.currentVersions(wanted) : {};
      const each = new Map(roots.value.map((r) => [versionOf(r), r]));
      await Promise.all([...each.values()].map(fetchVersion));
      fetched.value++;
    } catch {
      /* the server is away: the states show again when it is back */
    }
  }
  watch(
    () => roots.value.map(versionOf).join(),
    () => void load(),
    { immediate: true },
  );

  /** The version that something was dropped or saved as. */
  const baseOf = ({ root }: Tied): Preset => versions.get(versionOf(root))!;
  /** Whether the preset was taken off the shelf; false as long as it is not known. */
  const isGone = ({ preset, version }: Origin): boolean =>
    fetched.value > 0 && versions.get(`${preset}/${version}`) === null;
  return { all, load, isGone, baseOf };
}
