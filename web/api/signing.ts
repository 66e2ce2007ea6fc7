import { ref } from 'vue';

/** Whether the server wants to know who asks: the way in lies over the screen until somebody signed in. */
export const signInNeeded = ref(false);
