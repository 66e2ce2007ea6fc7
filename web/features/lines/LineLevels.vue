<script setup lang="ts">
/** Mute, solo, level, pan and meter of a line; of a MIDI line, mute and what it plays. */
import { computed } from 'vue';
import { formatPan, onTrack, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { LEVEL } from '../../ui/specs.ts';
import ValueField from '../../ui/ValueField.vue';
import { Meter } from '../transport/index.ts';
import { notesText } from './ends.ts';

/** `now`: the line as its lanes have it at the song's place. */
const props = defineProps<{ track: Track; now: Track }>();
const session = useSession();
/** What a lane moves can't be moved by hand. */
const moved = computed(() => {
  const lanes = props.track.automation ?? [];
  const own = lanes.filter((lane) => lane.on && lane.of === props.track.id && lane.points.length);
  return new Set(own.map((lane) => lane.param));
});
const WORDS = { mute: ['Mute', 'Unmute'], solo: ['Solo', 'Unsolo'] };
const flip = (key: 'mute' | 'solo') =>
  session.edit(
    `${WORDS[key][Number(props.track[key])]} ${props.track.name}`,
    onTrack(props.track.id, (track) => ({ [key]: !track[key] })),
  );
const level = (value: number, sliding: boolean) =>
  session.edit(
    `Level of ${props.track.name}`,
    onTrack(props.track.id, { level: value }),
    sliding ? 'level' + props.track.id : undefined,
  );
const pan = (value: number, sliding: boolean) =>
  session.edit(
    `Pan of ${props.track.name}`,
    onTrack(props.track.id, { pan: Math.max(-100, Math.min(100, value)) }),
    sliding ? 'pan' + props.track.id : undefined,
  );
</script>

<template>
  <div class="shrink-0" @click.stop>
    <div class="flex items-center gap-1.5">
      <button
        type="button"
        class="switch"
        :aria-pressed="now.mute"
        :disabled="moved.has('mute')"
        :aria-label="`Mute ${track.name}`"
        :title="moved.has('mute') ? 'Mute is moved by its lane' : 'Mute'"
        @click="flip('mute')"
      >
        M
      </button>
      <span v-if="track.role === 'midi'" class="truncate text-note text-soft">{{ notesText(track) }}</span>
      <template v-else>
        <button
          type="button"
          class="switch"
          :aria-pressed="track.solo"
          :aria-label="`Solo ${track.name}`"
          title="Solo"
          @click="flip('solo')"
        >
          S
        </button>
        <ValueField
          class="min-w-0 flex-1"
          compact
          :spec="LEVEL"
          :value="now.level"
          :disabled="moved.has('level')"
          :name="`Level of ${track.name}`"
          @change="(value, sliding) => level(value as number, sliding)"
        />
        <button
          type="button"
          class="w-[34px] truncate rounded text-note text-soft"
          :title="`Pan ${formatPan(track.pan)}; arrow keys move it`"
          :disabled="moved.has('pan')"
          :aria-label="`Pan of ${track.name}: ${formatPan(now.pan)}`"
          @keydown.left.prevent="pan(track.pan - 5, true)"
          @keydown.right.prevent="pan(track.pan + 5, true)"
          @keydown.backspace.prevent="pan(0, false)"
          @click="session.select(track.id, null)"
        >
          {{ formatPan(now.pan) }}
        </button>
      </template>
    </div>
    <Meter v-if="track.role !== 'midi'" :track="track.id" :name="track.name" />
  </div>
</template>
