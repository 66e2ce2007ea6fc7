import { computed, ref, shallowRef, watch } from 'vue';
import {
  rootsOf,
  stateOf,
  type Origin,
  type Preset,
  type Root,
  type RootState,
  type Session,
} from '../../../core/index.ts';
import type { api } from '../../api/index.ts';

/** Something in the session that came from the shelf, and how it stands to it. */
export interface Tied {
  root: Root;
  key: string;
  name: string;
  state: RootState;
  /** the version that the shelf has now */
  current: number;
}

/** ms until a shelf that did not answer is asked again */
const AGAIN_AFTER = 5000;

/** How something stood, and after how many fetches that was worked out. */
interface Known {
  at: number;
  tied: Tied;
}

/** What is asked of the shelf. */
export type Shelf = Pick<typeof api, 'currentVersions' | 'presetVersion'>;

const rootsIn = (s: Session | null): Root[] => (s ? rootsOf(s) : []);
/** What is not there is null; that the server is away says nothing of it. */
function nullIfGone(e: unknown): null {
  if ((e as { code?: string }).code === 'not-found') return null;
  throw e;
}
const versionOf = ({ origin }: Root) => `${origin.preset}/${origin.version}`;

/**
 * How everything in the open session that came from the shelf stands to it: versions are fetched once, states
 * follow the edits.
 */
export function makeStates(doc: () => Session | null, shelf: Shelf) {
  const current = shallowRef<Record<string, { version: number; name: string }>>({});
  /** null: taken off the shelf */
  const versions = new Map<string, Preset | null>();
  /** counts what was fetched, so that states are worked out again */
  const fetched = ref(0);
  /** of what is in the session now */
  let known = new Map<string, Known>();
  let asked = '';
  let loads = 0;
  let timer: ReturnType<typeof setTimeout> | undefined;

  const roots = computed<Root[]>(() => rootsIn(doc()));
  const all = computed<Map<string, Tied>>(() => {
    const found = roots.value.flatMap((root) => knownOf(root, fetched.value) ?? []);
    known = new Map(found.map((x) => [x.tied.key, x]));
    return new Map(found.map(({ tied }) => [tied.key, tied]));
  });
  function knownOf(root: Root, at: number): Known | null {
    const base = versions.get(versionOf(root));
    const now = current.value[root.origin.preset];
    if (!base || !now) return null;
    const key = root.slot?.id ?? root.track.id;
    const before = known.get(key);
    // a line that is the same object as before stands as before
    if (before?.at === at && before.tied.root.track === root.track) return before;
    const state = stateOf(root, base, now.version);
    return { at, tied: { root, key, name: now.name, state, current: now.version } };
  }

  /** A preset that was taken off the shelf leaves its lines as they are. */
  async function fetchVersion({ preset, version }: Origin, isThere: boolean): Promise<void> {
    const key = `${preset}/${version}`;
    if (versions.get(key)) return;
    versions.set(key, isThere ? await shelf.presetVersion(preset, version).catch(nullIfGone) : null);
  }
  /** @param again asks the shelf also when nothing new came into the session */
  async function load(again = false): Promise<void> {
    const origins = [...new Map(roots.value.map((r) => [versionOf(r), r.origin])).values()];
    const wanted = [...new Set(origins.map((o) => o.preset))].sort();
    const isKnown = wanted.join() === asked && roots.value.every((r) => versions.has(versionOf(r)));
    if (!again && isKnown) return;
    const mine = ++loads;
    clearTimeout(timer);
    asked = wanted.join();
    try {
      const now = wanted.length ? await shelf.currentVersions(wanted) : {};
      await Promise.all(origins.map((o) => fetchVersion(o, !!now[o.preset])));
      // an answer that is late tells of what was in the session before
      if (mine !== loads) return;
      current.value = now;
      fetched.value++;
    } catch {
      // the server is away: it is asked again until it is back
      if (mine === loads) timer = setTimeout(() => void load(true), AGAIN_AFTER);
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
