import { computed, ref, watch } from 'vue';
import { signalGraph, type Flow, type FlowNode, type Id, type SignalGraph } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';

/** Above this many lines the map opens with its folders folded: first the whole, then what is asked for. */
const MANY = 60;
/** deeper nests of folders are not looked through */
const DEEPEST = 20;

/** The session's graph, with folded folders standing for everything in them. */
export function useFoldedGraph() {
  const session = useSession();
  const folders = computed(() => session.doc?.tracks.filter((t) => t.role === 'folder') ?? []);
  const folded = ref<Id[]>([]);
  watch(
    () => session.id,
    () => {
      const isLarge = (session.doc?.tracks.length ?? 0) > MANY;
      folded.value = isLarge ? folders.value.map((t) => t.id) : [];
    },
    { immediate: true },
  );
  const fold = (id: Id) => {
    const others = folded.value.filter((other) => other !== id);
    folded.value = others.length < folded.value.length ? others : [...others, id];
  };

  const full = computed<SignalGraph | null>(() => (session.doc ? signalGraph(session.doc) : null));
  const folderOf = computed(() => new Map(session.doc?.tracks.map((t) => [t.id, t.folder])));
  /** The outermost folded folder that a node lies in, or the node itself. */
  function standIn(id: Id): Id {
    let found = id;
    let folder = folderOf.value.get(id) ?? null;
    for (let depth = 0; folder && depth < DEEPEST; depth++) {
      if (folded.value.includes(folder)) found = folder;
      folder = folderOf.value.get(folder) ?? null;
    }
    return found;
  }
  const shown = computed(() => {
    if (!full.value) return null;
    const nodes = full.value.nodes.filter((n) => standIn(n.id) === n.id);
    return { nodes, flows: between(full.value.flows, standIn) };
  });
  /** Folders that are open, as frames around what lies in them. */
  const frames = computed(() => {
    const open = (shown.value?.nodes ?? []).filter(
      (n) => n.track?.role === 'folder' && !folded.value.includes(n.id),
    );
    return new Map(open.map((n): [Id, string] => [n.id, n.label]));
  });
  return { folders, folded, fold, full, shown, frames };
}

export interface Shown {
  nodes: FlowNode[];
  flows: Flow[];
}

/** Flows between what is shown: those inside one folded folder are gone, those beside each other are one. */
function between(flows: readonly Flow[], standIn: (id: Id) => Id): Flow[] {
  const seen = new Set<string>();
  return flows.flatMap((f): Flow[] => {
    const [from, to] = [standIn(f.from), standIn(f.to)];
    const moved = from !== f.from || to !== f.to;
    const key = `${from}>${to}>${f.kind}`;
    const isInside = from === to && f.from !== f.to;
    if (isInside || (moved && seen.has(key))) return [];
    if (moved) seen.add(key);
    return [{ ...f, from, to }];
  });
}
