import { ref } from 'vue';

/** Counts up when a pack or the trash brought something, so that lists look again. */
export const takenIn = ref(0);
