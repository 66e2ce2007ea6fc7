import { computed, ref, type Ref } from 'vue';
import { useResizeObserver } from '@vueuse/core';
import { fromPosition, sessionLength, toPosition, type Lane, type LaneTarget } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';

/** px kept free at each edge, so that a point there can be taken hold of */
const EDGE = 12;
/** at most about so many bars are numbered */
const NUMBERED = 16;

/** Where times (s) and values of a lane lie in its picture, in px, and back. */
export function useCurve(
  box: Ref<HTMLElement | null>,
  lane: Ref<Lane | null>,
  target: Ref<LaneTarget | null>,
) {
  const session = useSession();
  const size = ref({ w: 600, h: 120 });
  useResizeObserver(box, () => {
    if (box.value) size.value = { w: box.value.clientWidth, h: box.value.clientHeight };
  });
  const isSwitch = computed(() => target.value?.spec.kind === 'switch');
  /** s that the picture is wide */
  const span = computed(() =>
    Math.max(1, sessionLength(session.doc!), ...(lane.value?.points.map((p) => p.at) ?? [])),
  );
  const inner = computed(() => ({ w: size.value.w - 2 * EDGE, h: size.value.h - 2 * EDGE }));

  const x = (seconds: number) => EDGE + (seconds / span.value) * inner.value.w;
  const timeAt = (px: number) =>
    Math.min(span.value, Math.max(0, ((px - EDGE) / inner.value.w) * span.value));
  const yOfShare = (share: number) => size.value.h - EDGE - share * inner.value.h;
  const shareOf = (value: number) => (isSwitch.value ? value : toPosition(target.value!.spec, value));
  const valueOfShare = (share: number) =>
    isSwitch.value ? Math.round(share) : fromPosition(target.value!.spec, share);
  const y = (value: number) => (target.value ? yOfShare(shareOf(value)) : 0);
  const valueAt = (px: number) =>
    valueOfShare(Math.min(1, Math.max(0, (size.value.h - EDGE - px) / inner.value.h)));

  /** The height is the taper's own, so that every stretch between two points is straight. */
  const path = computed(() => {
    const points = lane.value?.points ?? [];
    if (!points.length || !target.value) return '';
    const first = points[0];
    let d = `M 0 ${y(first.value)} L ${x(first.at)} ${y(first.value)}`;
    for (let i = 1; i < points.length; i++) {
      const [before, here] = [points[i - 1], points[i]];
      if (before.hold || isSwitch.value) d += ` L ${x(here.at)} ${y(before.value)}`;
      d += ` L ${x(here.at)} ${y(here.value)}`;
    }
    return `${d} L ${size.value.w} ${y(points.at(-1)!.value)}`;
  });

  /** s of one bar */
  const bar = computed(() => {
    const { tempo, meter } = session.doc!;
    return (60 / tempo) * meter[0] * (4 / meter[1]);
  });
  const bars = computed(() => {
    const every = Math.max(1, 2 ** Math.ceil(Math.log2(span.value / bar.value / NUMBERED)));
    const count = Math.floor(span.value / bar.value / every) + 1;
    return Array.from({ length: count }, (_, i) => ({ n: i * every + 1, at: i * every * bar.value }));
  });
  /** Bar and beat of a time, from 1.1. */
  function place(seconds: number): string {
    const beats = session.doc!.meter[0];
    const beat = Math.floor(((seconds / bar.value) * beats) % beats) + 1;
    return `${Math.floor(seconds / bar.value) + 1}.${beat}`;
  }
  const scale = computed(() =>
    (isSwitch.value ? [0, 1] : [0.1, 0.3, 0.5, 0.7, 0.9]).map((share) => ({
      y: yOfShare(share),
      value: isSwitch.value ? share : valueOfShare(share),
    })),
  );
  return { size, span, isSwitch, x, y, timeAt, valueAt, path, bars, place, scale };
}
