import { parentPort } from 'node:worker_threads';
import {
  NEAR,
  chainShapes,
  chainsOfShape,
  nearGroups,
  nearest,
  presetShape,
  shapesApart,
  type LineChain,
  type Preset,
  type PresetShape,
  type Session,
} from '../../core/index.ts';

/** Things by their ids, with their documents as JSON: what is told once is known from then on. */
export interface NearRow {
  id: string;
  text: string;
}
export type NearTask =
  | { kind: 'presets' | 'sessions'; rows: NearRow[] }
  | { kind: 'forget'; of: 'presets' | 'sessions'; ids: string[] }
  | { kind: 'near'; key: number; to: string; count: number }
  | { kind: 'groups'; key: number; within: number }
  | { kind: 'byHand'; key: number };

export interface NearOne {
  id: string;
  distance: number;
}
/** A chain that several sessions have, and no preset. */
export interface BuiltByHand {
  devices: string[];
  places: { session: string; track: string; name: string }[];
}
export type NearAnswer = { key: number } & (
  { near: NearOne[] } | { groups: NearOne[][] } | { byHand: BuiltByHand[] } | { failed: string }
);

/** chains of one device are built in a moment */
const WORTH_KEEPING = 2;

const presets = new Map<string, PresetShape>();
const sessions = new Map<string, LineChain[]>();

function learnPreset(id: string, preset: Preset): void {
  presets.set(id, presetShape(preset));
}
/** What came from the shelf is on the shelf. */
function learnSession(id: string, session: Session): void {
  sessions.set(id, chainShapes(session.tracks.filter((t) => !t.origin)));
}

function learn(kind: 'presets' | 'sessions', rows: NearRow[]): void {
  for (const { id, text } of rows) {
    try {
      if (kind === 'sessions') learnSession(id, JSON.parse(text) as Session);
      else learnPreset(id, JSON.parse(text) as Preset);
    } catch {
      // one that can't be read keeps no other from being compared
      (kind === 'sessions' ? sessions : presets).delete(id);
    }
  }
}

function nearTo(to: string, count: number): NearOne[] {
  const own = presets.get(to);
  if (!own) return [];
  const ids = [...presets.keys()].filter((id) => id !== to);
  const shapes = ids.map((id) => presets.get(id)!);
  return nearest(own, shapes, count).map(({ index, distance }) => ({ id: ids[index], distance }));
}

function groupsOf(within: number): NearOne[][] {
  const ids = [...presets.keys()];
  const shapes = ids.map((id) => presets.get(id)!);
  return nearGroups(shapes, within).map((group) =>
    group.map((i) => ({ id: ids[i], distance: shapesApart(shapes[group[0]], shapes[i]) })),
  );
}

/** Chains that several sessions have and no preset is near to, those of most sessions first. */
function builtByHand(): BuiltByHand[] {
  const lines = [...sessions].flatMap(([session, chains]) =>
    chains.filter((l) => l.devices.length >= WORTH_KEEPING).map((l) => ({ ...l, session })),
  );
  const onShelf = [...presets.values()].flatMap(chainsOfShape);
  const count = (places: readonly { session: string }[]) => new Set(places.map((p) => p.session)).size;
  return nearGroups(lines.map((l) => l.shape))
    .map((group) => group.map((i) => lines[i]))
    .filter((group) => count(group) > 1)
    .filter(([first]) => !onShelf.some((shape) => shapesApart(first.shape, shape, NEAR) <= NEAR))
    .sort((a, b) => count(b) - count(a))
    .map((group) => ({
      devices: group[0].devices,
      places: group.map(({ session, track, name }) => ({ session, track, name })),
    }));
}

function answer(task: Extract<NearTask, { key: number }>): NearAnswer {
  const { key } = task;
  if (task.kind === 'near') return { key, near: nearTo(task.to, task.count) };
  if (task.kind === 'groups') return { key, groups: groupsOf(task.within) };
  return { key, byHand: builtByHand() };
}

parentPort!.on('message', (task: NearTask) => {
  if ('rows' in task) {
    learn(task.kind, task.rows);
    return;
  }
  if (task.kind === 'forget') {
    const from = task.of === 'presets' ? presets : sessions;
    for (const id of task.ids) from.delete(id);
    return;
  }
  try {
    parentPort!.postMessage(answer(task));
  } catch (e) {
    parentPort!.postMessage({ key: task.key, failed: (e as Error).message } satisfies NearAnswer);
  }
});
