<script setup lang="ts">
/** Sessions that others share. */
import { onMounted } from 'vue';
import { api } from '../../api/index.ts';
import { useMe } from '../../document/me.ts';
import { useAttempt } from '../../ui/attempt.ts';
import { when } from '../../ui/format.ts';

const me = useMe();
const { attempt } = useAttempt();
onMounted(() => void me.loadShares());
const leave = (id: string) =>
  attempt('', async () => {
    await api.endShare(id);
    await me.loadShares();
  });
</script>

<template>
  <section v-if="me.sessions.length" class="mb-5" aria-labelledby="shared-sessions">
    <h2 id="shared-sessions" class="mb-1 font-semibold">Shared with me</h2>
    <ul class="text-body">
      <li
        v-for="s in me.sessions"
        :key="s.id"
        class="flex items-center gap-3 border-t border-rule py-1.5 hover:bg-sheet"
      >
        <RouterLink :to="`/session/${s.thing}`" class="min-w-0 flex-1 truncate font-semibold">{{
          s.name
        }}</RouterLink>
        <span class="text-soft">of {{ s.owner.name }}</span>
        <span class="text-soft">{{ when(s.openedAt) }}</span>
        <button type="button" class="btn px-2 py-0" :aria-label="`Leave ${s.name}`" @click="leave(s.id)">
          Leave
        </button>
      </li>
    </ul>
  </section>
</template>
