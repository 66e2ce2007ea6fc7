<script setup lang="ts">
/** The first look: what this is in a sentence and a picture, and three ways to begin. */
import CarriedPicture from './CarriedPicture.vue';
import StartDoors from './StartDoors.vue';
</script>

<template>
  <main class="min-h-0 flex-1 overflow-auto">
    <div class="mx-auto flex max-w-[880px] flex-col gap-6 p-6">
      <h1 class="text-title font-semibold">
        Set a track up once, keep it on your shelf, and drop it into any session with every setting intact.
      </h1>
      <CarriedPicture />
      <section aria-label="Ways to begin" data-panel="ways to begin"><StartDoors /></section>
    </div>
  </main>
</template>
