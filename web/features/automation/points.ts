import { computed, nextTick, ref, watch, type Ref } from 'vue';
import {
  fromPosition,
  onLane,
  tidyPoints,
  toPosition,
  type Lane,
  type LanePoint,
  type LaneTarget,
  type ParamSpec,
  type Track,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';

/** s between two points at least, and within which a tidied point is still the same one */
const APART = 0.005;
const SAME = 0.002;
const milliseconds = (seconds: number) => Math.round(seconds * 1000) / 1000;

/** Where the picture says that the pointer is. */
interface Places {
  span: Ref<number>;
  timeAt(px: number): number;
  valueAt(px: number): number;
}

/** The points of a lane, set, dragged and typed; one of them is at hand (`at`). */
export function usePoints(
  track: () => Track,
  lane: Ref<Lane | null>,
  target: Ref<LaneTarget | null>,
  box: Ref<HTMLElement | null>,
  places: Places,
) {
  const session = useSession();
  const at = ref(0);
  watch(
    () => lane.value?.id,
    () => {
      at.value = 0;
    },
  );
  const point = computed((): LanePoint | null => lane.value?.points[at.value] ?? null);
  const others = () => lane.value!.points.filter((_p, i) => i !== at.value);

  /** Puts points in and keeps hold of the one at hand. */
  function put(points: LanePoint[], held: LanePoint | null, sliding: boolean): void {
    if (!lane.value || !target.value) return;
    const tidy = tidyPoints(target.value.spec, points);
    if (held) {
      const found = tidy.findIndex((p) => Math.abs(p.at - held.at) < SAME);
      at.value = Math.max(0, found);
    }
    session.edit(
      `Automation of ${target.value.label} of ${track().name}`,
      onLane(track().id, lane.value.id, { points: tidy }),
      sliding ? 'lane' + lane.value.id : undefined,
    );
  }
  function move(over: Partial<LanePoint>, sliding = false): void {
    if (!point.value) return;
    const moved = { ...point.value, ...over };
    put([...others(), moved], moved, sliding);
  }
  function setHold(on: boolean): void {
    const { hold: _hold, ...free } = point.value!;
    put([...others(), on ? { ...free, hold: true } : free], free, false);
  }
  const focusPoint = () =>
    void nextTick(() => {
      const points = box.value?.querySelectorAll<HTMLElement>('[data-point]');
      (points?.[at.value] ?? box.value)?.focus();
    });
  function remove(): void {
    put(others(), null, false);
    at.value = Math.max(0, at.value - 1);
    focusPoint();
  }

  const press = makePress(box, lane, places, { at, put, move, focusPoint });

  function keys(e: KeyboardEvent, index: number): void {
    const p = lane.value!.points[index];
    const by = ARROWS[e.key];
    const takesAway = e.key === 'Delete' || e.key === 'Backspace';
    if (!by && !takesAway) return;
    e.preventDefault();
    // Delete and the arrows also mean the line itself
    e.stopPropagation();
    at.value = index;
    if (takesAway) {
      remove();
      return;
    }
    const fine = e.shiftKey ? 0.1 : 1;
    if (!by) return;
    if (by.seconds) move({ at: p.at + by.seconds * fine }, true);
    else move({ value: stepped(target.value!.spec, p.value, by.share, fine) }, true);
  }
  return { at, point, move, setHold, remove, press, keys };
}

/** What a press needs of the points around it. */
interface Held {
  at: Ref<number>;
  put(points: LanePoint[], held: LanePoint | null, sliding: boolean): void;
  move(over: Partial<LanePoint>, sliding?: boolean): void;
  focusPoint(): void;
}

/** Setting a point with the pointer, and dragging one until it is let go. */
function makePress(box: Ref<HTMLElement | null>, lane: Ref<Lane | null>, places: Places, held: Held) {
  /** A press on the empty curve (no index) sets a point there and takes hold of it. */
  function press(e: PointerEvent, index: number | null): void {
    if (e.button !== 0 || !lane.value) return;
    e.preventDefault();
    const curve = box.value!;
    const edge = curve.getBoundingClientRect();
    if (index === null) {
      const set = { at: places.timeAt(e.clientX - edge.left), value: places.valueAt(e.clientY - edge.top) };
      held.put([...lane.value.points, set], { ...set, at: milliseconds(set.at) }, true);
    } else held.at.value = index;
    held.focusPoint();
    curve.setPointerCapture(e.pointerId);
    curve.onpointermove = (m) => {
      const time = between(places.timeAt(m.clientX - edge.left));
      held.move({ at: milliseconds(time), value: places.valueAt(m.clientY - edge.top) }, true);
    };
    curve.onpointerup = curve.onpointercancel = () => {
      curve.onpointermove = null;
    };
  }
  /** A point that is dragged stays between its neighbours. */
  function between(seconds: number): number {
    const points = lane.value!.points;
    const at = held.at.value;
    const low = at > 0 ? points[at - 1].at + APART : 0;
    const high = at < points.length - 1 ? points[at + 1].at - APART : places.span.value;
    return Math.min(high, Math.max(low, seconds));
  }
  return press;
}

/** What the arrow keys move a point by: s, and the share of the range. */
const ARROWS: Record<string, { seconds: number; share: number } | undefined> = {
  ArrowLeft: { seconds: -0.1, share: 0 },
  ArrowRight: { seconds: 0.1, share: 0 },
  ArrowUp: { seconds: 0, share: 0.02 },
  ArrowDown: { seconds: 0, share: -0.02 },
};

/** A value a share of its range further; at least one step of its table. */
function stepped(spec: ParamSpec, value: number, by: number, fine: number): number {
  if (spec.kind === 'switch') return by > 0 ? 1 : 0;
  const share = Math.min(1, Math.max(0, toPosition(spec, value) + by * fine));
  const tidy = tidyPoints(spec, [{ at: 0, value: fromPosition(spec, share) }])[0].value;
  return tidy === value ? value + Math.sign(by) * (spec.step ?? 0.01) : tidy;
}
