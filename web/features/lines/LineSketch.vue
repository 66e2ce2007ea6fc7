<script setup lang="ts">
/** A line while the list flies past: its colour, its name and the places of its devices, and nothing that works. */
import { computed } from 'vue';
import type { Track } from '../../../core/index.ts';
import { useUi } from '../../ui/window.ts';
import { NAME } from './measure.ts';

const props = defineProps<{ track: Track; depth: number }>();
const ui = useUi();
const devices = computed(() => props.track.chain.map((slot) => slot.name).join(' · '));
</script>

<template>
  <div class="flex h-full items-center gap-2 border-b border-rule bg-sheet pl-[19px]">
    <span
      class="h-9 w-[5px] shrink-0 rounded-sm"
      :style="{ background: ui.swatch(track.colour), marginLeft: depth * 14 + 'px' }"
    />
    <span class="shrink-0 truncate font-semibold" :style="{ width: NAME + 'px' }">{{ track.name }}</span>
    <span class="min-w-0 truncate text-fine text-soft">{{ devices }}</span>
  </div>
</template>
