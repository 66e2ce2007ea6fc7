import { computed, ref, type Ref } from 'vue';
import { chainAt, findSlot, placeOf, type Id, type Session } from '../../core/index.ts';

/** The members between two of a list, both included. */
function between(ids: readonly Id[], from: Id, to: Id): Id[] {
  const [a, b] = [ids.indexOf(from), ids.indexOf(to)].sort((x, y) => x - y);
  return ids.slice(a, b + 1);
}
const flipped = (ids: readonly Id[], id: Id): Id[] =>
  ids.includes(id) ? ids.filter((x) => x !== id) : [...ids, id];

/** What is selected: a line, a device or rack on it, and what is chosen together with them. */
export function makeSelection(doc: Readonly<Ref<Session | null>>) {
  const selectedTrack = ref<Id | null>(null);
  const selectedDevice = ref<Id | null>(null);
  /** further lines that are chosen together with the selected one */
  const chosen = ref<Id[]>([]);
  /**
   * devices and racks of one chain that are chosen together, in the order of the chain; the selected one
   * among them
   */
  const picked = ref<Id[]>([]);

  const track = computed(() => doc.value?.tracks.find((t) => t.id === selectedTrack.value) ?? null);
  /** the selected device or rack, wherever it stands on the line */
  const slot = computed(() => {
    if (!track.value || !selectedDevice.value) return null;
    return findSlot(track.value.chain, selectedDevice.value) ?? null;
  });
  const device = computed(() => (slot.value?.kind === 'device' ? slot.value : null));
  const rack = computed(() => (slot.value?.kind === 'rack' ? slot.value : null));
  const many = computed(() => doc.value?.tracks.filter((t) => chosen.value.includes(t.id)) ?? []);
  /** ids of the lines that are chosen together, the master apart */
  const together = computed(() => many.value.filter((t) => t.role !== 'master').map((t) => t.id));

  function select(trackId: Id | null, deviceId: Id | null = null): void {
    selectedTrack.value = trackId;
    selectedDevice.value = deviceId;
    chosen.value = [];
    picked.value = [];
  }

  /** Chooses lines together; one alone is selected. */
  function selectAll(ids: readonly Id[]): void {
    select(ids[0] ?? null);
    if (ids.length > 1) chosen.value = [...ids];
  }

  /**
   * Adds a line to those that are chosen, or takes it out; with `range` everything between the selected line
   * and it.
   */
  function choose(trackId: Id, range: boolean): void {
    const shown = doc.value?.tracks.filter((t) => !t.hidden) ?? [];
    const ids = shown.map((t) => t.id);
    const from = selectedTrack.value ?? trackId;
    selectedDevice.value = null;
    const now = chosen.value.length ? chosen.value : [from];
    chosen.value = range ? between(ids, from, trackId) : flipped(now, trackId);
    if (chosen.value.length === 1) {
      selectedTrack.value = chosen.value[0];
      chosen.value = [];
    }
  }

  /**
   * Adds a device or rack to those that are chosen, or takes it out; with `range` everything between the
   * selected one and it. Only what stands in one chain can be chosen together.
   */
  function pickSlot(trackId: Id, slotId: Id, range: boolean): void {
    const t = doc.value?.tracks.find((x) => x.id === trackId);
    const at = t && placeOf(t, slotId);
    const chain = at && chainAt(t, at.container)?.map((x) => x.id);
    if (!chain) return;
    const from = selectedDevice.value;
    if (trackId !== selectedTrack.value || !from || !chain.includes(from)) {
      select(trackId, slotId);
      return;
    }
    const now = picked.value.length ? picked.value : [from];
    const next = range ? between(chain, from, slotId) : flipped(now, slotId);
    picked.value = chain.filter((x) => next.includes(x));
    if (picked.value.length === 1) select(trackId, picked.value[0]);
  }

  return {
    selectedTrack,
    selectedDevice,
    chosen,
    picked,
    track,
    slot,
    device,
    rack,
    many,
    together,
    select,
    selectAll,
    choose,
    pickSlot,
  };
}
