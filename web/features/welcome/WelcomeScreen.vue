<script setup lang="ts">
/** The first look: what this is in a sentence and a picture, three ways to begin, and a guide along the first one. */
import { onMounted } from 'vue';
import { api } from '../../api/index.ts';
import { hasBegun } from '../../ui/begun.ts';
import { useTour } from '../../ui/tour.ts';
import CarriedPicture from './CarriedPicture.vue';
import StartDoors from './StartDoors.vue';

const tour = useTour();
/** Where nothing is yet, the first steps are shown by themselves, once. */
onMounted(async () => {
  if (hasBegun() || tour.isOn) return;
  const [sessions, presets] = await Promise.all([api.sessions(), api.presets({ limit: 1 })]).catch(() => []);
  if (sessions && presets && !sessions.items.length && !presets.items.length) tour.begin();
});
</script>

<template>
  <main class="min-h-0 flex-1 overflow-auto">
    <div class="mx-auto flex max-w-[880px] flex-col gap-6 p-6">
      <h1 class="text-title font-semibold">
        Set a track up once, keep it on your shelf, and drop it into any session with every setting intact.
      </h1>
      <CarriedPicture />
      <section aria-label="Ways to begin" data-panel="ways to begin"><StartDoors /></section>
      <p v-if="!tour.isOn" class="text-body">
        <button type="button" class="btn" @click="tour.begin()">Lead me through the first steps</button>
        Four of them: open, keep, drop, and see that nothing was lost. They can be left at any point.
      </p>
    </div>
  </main>
</template>
