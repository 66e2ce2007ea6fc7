<script setup lang="ts">
/** The sound on a line at a glance: its clips over the length of the song, takes that are off left out. */
import { computed } from 'vue';
import { sessionLength, type Clip, type Session, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { outlineOf } from './outlines.ts';

/** px; each column is the highest peak of its stretch */
const WIDTH = 40;
const HEIGHT = 26;
/** how long sessions are, worked out once for all lines of one */
const lengths = new WeakMap<Session, number>();
function lengthOf(s: Session): number {
  if (!lengths.has(s)) lengths.set(s, Math.max(1, sessionLength(s)));
  return lengths.get(s)!;
}

const props = defineProps<{ track: Track; label: string }>();
const session = useSession();
const whole = computed(() => lengthOf(session.doc!));
const clips = computed(() => props.track.clips.filter((clip) => !clip.off));

/** The highest peak of a clip between two moments of the song, 0 … 1 with its gain. */
function peakOf(clip: Clip, from: number, to: number): number {
  const media = session.doc!.media.find((m) => m.id === clip.media);
  const peaks = outlineOf(clip.media, session.doc!.sampleRate).value;
  if (!media || !peaks.length) return 0;
  const seconds = media.frames / media.sampleRate;
  const at = (t: number) => Math.floor(((t - clip.start + clip.offset) / seconds) * peaks.length);
  const [first, last] = [Math.max(at(from), at(clip.start)), Math.min(at(to), at(clip.start + clip.length))];
  let top = 0;
  for (let i = Math.max(0, first); i <= Math.min(last, peaks.length - 1); i++) top = Math.max(top, peaks[i]);
  return Math.min(1, top * 10 ** (clip.gain / 20));
}
const path = computed(() => {
  const step = whole.value / WIDTH;
  const columns = Array.from({ length: WIDTH }, (_, x) => {
    const [from, to] = [x * step, (x + 1) * step];
    const here = clips.value.filter((c) => c.start < to && c.start + c.length > from);
    const peak = Math.max(0, ...here.map((clip) => peakOf(clip, from, to)));
    // the root lets quiet passages be seen in so little room
    const half = here.length ? Math.max(0.5, Math.sqrt(peak) * (HEIGHT / 2 - 1)) : 0;
    return half ? `M${x + 0.5} ${HEIGHT / 2 - half}V${HEIGHT / 2 + half}` : '';
  });
  return columns.join('');
});
</script>

<template>
  <svg
    :width="WIDTH"
    :height="HEIGHT"
    class="block shrink-0 text-soft"
    role="img"
    :aria-label="label"
    data-testid="wave"
  >
    <title>{{ label }}</title>
    <path :d="path" stroke="currentColor" stroke-width="1" fill="none" />
  </svg>
</template>
