<script setup lang="ts">
/** The first way through the program: what to do next, why, and a way out at any point. */
import { X } from '@lucide/vue';
import { computed } from 'vue';
import IconButton from '../../ui/IconButton.vue';
import { useSheets } from '../../ui/sheets.ts';
import { TOUR, useTour, type TourStep } from '../../ui/tour.ts';

const tour = useTour();
const sheets = useSheets();
const WORDS: Record<TourStep | 'end', { what: string; how: string; chapter: string }> = {
  open: {
    what: 'Open a session with a line in it',
    how: 'Look at the demo, begin with your own sound, or open a session file of another program: the doors are under Sessions and on the welcome page.',
    chapter: 'Where to begin',
  },
  save: {
    what: 'Keep a line on your shelf',
    how: 'Choose a line and press “Save to the shelf” (key K), give it a name, and save it: its devices, sends, levels and note are a preset now.',
    chapter: 'Save to the shelf',
  },
  drop: {
    what: 'Drop it',
    how: 'Take the preset from the shelf on the left and let it go between two lines, or choose “Look before dropping …” from its dots. What it sends to is tied to what is here, and you see that before it happens.',
    chapter: 'Drop',
  },
  proof: {
    what: 'See that nothing was lost',
    how: 'Open the report of the drop (“What happened” at the foot), or choose “What was dropped here” in the session’s menu: every value against the preset, and both heard against each other.',
    chapter: 'Drop',
  },
  end: {
    what: 'That is the way of it',
    how: 'Set up once, keep it, drop it anywhere, and know that it is whole. The guide has the rest: rigs, racks, kits, hardware, prints.',
    chapter: 'Lines',
  },
};
const step = computed(() => (tour.at ? WORDS[tour.at] : null));
const more = () => sheets.open('guide', { about: step.value!.chapter });
</script>

<template>
  <aside
    v-if="step"
    class="no-print flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rope bg-rope-wash px-3 py-1.5 text-body"
    aria-label="First steps"
  >
    <p class="min-w-0 flex-1" role="status">
      <span v-if="tour.at !== 'end'" class="mr-1 text-note">Step {{ tour.number }} of {{ TOUR.length }}</span>
      <strong>{{ step.what }}.</strong> {{ step.how }}
    </p>
    <button type="button" class="btn px-2 py-0.5" @click="more">Read more</button>
    <IconButton :icon="X" label="Leave the first steps" @click="tour.leave()" />
  </aside>
</template>
