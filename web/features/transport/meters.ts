import { ref } from 'vue';
import type { Id } from '../../../core/index.ts';
import { PER_NODE, PER_SLOT, type FromEngine } from '../../audio/messages.ts';

/** Levels of one line, dBFS: before its fader, and each side behind it. */
export interface NodeMeter {
  before: number;
  left: number;
  right: number;
  rms: number;
  /** frames into which something came that is no number */
  broken: number;
}
type Layout = Extract<FromEngine, { type: 'layout' }>;
type Block = Extract<FromEngine, { type: 'meters' }>;

/** What is not in the engine any more has no figures. */
function keepOnly(figures: Map<Id, unknown>, ids: readonly Id[]): void {
  const there = new Set(ids);
  for (const id of figures.keys()) if (!there.has(id)) figures.delete(id);
}

/**
 * Figures of the engine as pictures read them on every frame: plain objects, so that nothing re-renders for
 * them. Only what is said in words is reactive.
 */
export function makeMeters() {
  const nodes = new Map<Id, NodeMeter>();
  const slots = new Map<Id, { reduction: number; level: number }>();
  const scope: { before: Float32Array | null; after: Float32Array | null; readings: number[] | null } = {
    before: null,
    after: null,
    readings: null,
  };
  /** the master's figures in the order of METER_READINGS */
  const master: { readings: number[] } = { readings: [] };
  /** share of the time there is for each block that the engine needs, and callbacks that came late */
  const load = ref(0);
  const late = ref(0);
  /** frames from a sound to the master's output */
  const latency = ref(0);
  /** frame of the song from which what the engine was told last is heard */
  const laidOutAt = ref(0);
  let layout: { nodes: Id[]; slots: Id[] } = { nodes: [], slots: [] };

  /** Which figures of a block belong to what. */
  function laidOut(next: Layout): void {
    layout = next;
    latency.value = next.latency;
    laidOutAt.value = next.position;
    keepOnly(nodes, next.nodes);
    keepOnly(slots, next.slots);
  }
  function take(block: Block): void {
    const { values } = block;
    layout.nodes.forEach((id, i) => {
      const at = i * PER_NODE;
      const [before, left, right, rms, broken] = values.subarray(at, at + PER_NODE);
      // the object stays the same: pictures keep hold of it
      nodes.set(id, Object.assign(nodes.get(id) ?? {}, { before, left, right, rms, broken }));
    });
    const first = layout.nodes.length * PER_NODE;
    layout.slots.forEach((id, i) => {
      const at = first + i * PER_SLOT;
      slots.set(id, { reduction: values[at], level: values[at + 1] });
    });
    scope.before = block.before;
    scope.after = block.after;
    scope.readings = block.readings;
    master.readings = block.master;
    load.value = block.load;
    late.value = block.late;
  }
  function clearScope(): void {
    scope.before = scope.after = scope.readings = null;
  }
  return { nodes, slots, scope, master, load, late, latency, laidOutAt, laidOut, take, clearScope };
}
