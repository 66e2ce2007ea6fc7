import { defineStore } from '../../ui/store.ts';
import { computed } from 'vue';
import {
  letGo,
  putBack,
  takeBackAdapted,
  rootAgain,
  updateFromShelf,
  type Id,
  type Origin,
  type Preset,
  type Root,
  type Session,
  type Update,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import { asksLate } from '../../ui/first.ts';
import { useUi } from '../../ui/window.ts';
import { makeStates, type Shelf, type Tied } from './states.ts';

export type { Tied } from './states.ts';

/** For each value that both sides changed: whose stays. */
type Choices = Record<string, 'mine' | 'theirs'>;

/** In a word or two. */
function said({ state, current }: Tied): string {
  const changed = state.changes.length ? `changed here (${state.changes.length})` : '';
  const newer = state.newer ? `version ${current} on the shelf` : '';
  return [changed, newer].filter(Boolean).join(', ') || 'as on the shelf';
}
/** The shelf as it is asked for the lines of a session: after they are drawn. */
const shelf: Shelf = {
  presetVersion: api.presetVersion,
  currentVersions: asksLate(api.currentVersions),
};
const nameOf = (t: Tied): string => t.root.slot?.name ?? t.root.track.name;

/** Puts a preset that was taken off the shelf back onto it. */
const makeBringBack =
  (load: (again: boolean) => Promise<void>) =>
  async (origin: Pick<Origin, 'preset' | 'name'>): Promise<void> => {
    const ui = useUi();
    try {
      await api.restorePreset(origin.preset);
      await load(true);
      ui.say(`“${origin.name}” is on the shelf again.`, 'done');
    } catch (e) {
      const isLost = (e as { code?: string }).code === 'not-found';
      if (!isLost) ui.fail(e);
      else ui.say(`“${origin.name}” is gone for good. Save the line to the shelf to have it there again.`);
    }
  };

/** What came from the shelf: how it stands to it, and taking updates, putting back, letting go. */
export const useOrigins = defineStore('origins', () => {
  const session = useSession();
  const ui = useUi();
  const { all, load, isGone, baseOf } = makeStates(() => session.doc, shelf);
  const of = (id: Id | undefined) => (id ? all.value.get(id) : undefined);
  const newer = computed(() => [...all.value.values()].filter((t) => t.state.newer));

  const version = async (t: Tied, n: number): Promise<Preset> => ({
    ...(await api.presetVersion(t.root.origin.preset, n)),
    name: t.name,
  });
  const latest = (t: Tied) => version(t, t.current);

  /** Changes the session where something stands now; it may have gone meanwhile. */
  const change = (label: string, t: Tied, how: (s: Session, root: Root) => Session) =>
    session.edit(label, (s) => {
      const root = rootAgain(s, t.root);
      return root ? how(s, root) : s;
    });
  /** What an update of one line would do. */
  function lookAt(t: Tied, next: Preset, choices: Choices): Update | null {
    const root = session.doc && rootAgain(session.doc, t.root);
    return root ? updateFromShelf(session.doc!, root, baseOf(t), next, { choices }) : null;
  }
  const take = (t: Tied, next: Preset, choices: Choices) =>
    change(
      `${next.version < t.root.origin.version ? 'Take' : 'Update'} ${nameOf(t)} to version ${next.version}`,
      t,
      (s, root) => updateFromShelf(s, root, baseOf(t), next, { choices }).session,
    );
  /** Several at once, each keeping its own value where both sides changed it. */
  async function takeAll(list: Tied[]): Promise<void> {
    try {
      const nexts = await Promise.all(list.map(latest));
      session.edit(`Update ${list.length} from the shelf`, (s) =>
        list.reduce((now, t, i) => {
          const root = rootAgain(now, t.root);
          return root ? updateFromShelf(now, root, baseOf(t), nexts[i]).session : now;
        }, s),
      );
    } catch (e) {
      ui.fail(e);
    }
  }
  /** Puts the saved values back: those at the paths, or all. */
  function restore(t: Tied, paths: string[] | null): void {
    const only = paths?.length === 1 && t.state.changes.find((c) => c.path === paths[0]);
    const all = `Put back the saved values of ${nameOf(t)}`;
    const one = `Put back ${only ? only.label : 'a value'}`;
    change(paths?.length === 1 ? one : all, t, (s, root) => putBack(s, root, baseOf(t), paths));
  }
  /** Values that were adapted or fitted go back to what was saved. */
  const unadapt = (t: Tied, paths: readonly string[]) =>
    change(`Adapted values of ${nameOf(t)} as saved`, t, (s, root) =>
      takeBackAdapted(s, root, baseOf(t), paths),
    );
  const release = (t: Tied) => change(`Let go of ${t.name}`, t, letGo);
  /** The lines that came in with the same drop and are lines of the preset, not its spares. */
  function linesOf(t: Tied): Id[] {
    const own = new Set(baseOf(t).content.tracks.map((line) => line.id));
    const { drop, preset } = t.root.origin;
    const tracks = session.doc?.tracks ?? [];
    return tracks
      .filter(({ origin: o }) => o?.drop === drop && o.preset === preset && own.has(o.local))
      .map((line) => line.id);
  }
  return {
    all,
    of,
    newer,
    load,
    version,
    baseOf,
    lookAt,
    take,
    takeAll,
    restore,
    unadapt,
    release,
    bringBack: makeBringBack(load),
    isGone,
    linesOf,
    nameOf,
    said,
  };
});
