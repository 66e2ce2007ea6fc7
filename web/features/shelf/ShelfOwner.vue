<script setup lang="ts">
/** Whose shelf is shown: the own one, or one that somebody shares. */
import { onMounted } from 'vue';
import { useMe } from '../../document/me.ts';
import { useShelf } from './store.ts';

const me = useMe();
const shelf = useShelf();
onMounted(() => void me.loadShares());
</script>

<template>
  <select
    v-if="me.shelves.length"
    v-model="shelf.filter.of"
    class="field px-1 text-note"
    aria-label="Whose shelf"
  >
    <option value="">My shelf</option>
    <option v-for="s in me.shelves" :key="s.id" :value="s.owner.id">Shelf of {{ s.owner.name }}</option>
  </select>
</template>
