<script setup lang="ts">
/** Chains that several sessions have and the shelf has not: each can be saved from any of its lines. */
import { onMounted, shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import type { ByHand } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import { useAttempt } from '../../ui/attempt.ts';
import EmptyNote from '../../ui/EmptyNote.vue';
import Sheet from '../../ui/Sheet.vue';
import { useSheets } from '../../ui/sheets.ts';

const emit = defineEmits<{ close: [] }>();
const router = useRouter();
const session = useSession();
const sheets = useSheets();
const { busy, attempt } = useAttempt();
const chains = shallowRef<ByHand[] | null>(null);
onMounted(() =>
  attempt('Looking through all sessions …', async () => {
    chains.value = await api.builtByHand();
  }),
);
const save = ({ session: id, track }: ByHand['places'][number]) =>
  attempt('Opening the session …', async () => {
    await session.open(id);
    await router.push(`/session/${id}`);
    sheets.instead('byHand', 'save', { lines: [track], mode: 'new' });
  });
</script>

<template>
  <Sheet title="Built by hand" :width="720" @close="emit('close')">
    <p class="mb-2 text-body text-soft">
      Chains that more than one session has, nearly alike, and no preset. Save one, and the next session drops
      it.
    </p>
    <p v-if="busy" role="status" class="text-soft">{{ busy }}</p>
    <EmptyNote
      v-else-if="chains && !chains.length"
      text="No session builds what another one has built and the shelf has not."
    />
    <ul v-else-if="chains">
      <li v-for="(c, i) in chains" :key="i" class="border-t border-rule py-2 text-body">
        <h3 class="font-semibold">{{ c.devices.join(' → ') }}</h3>
        <ul class="mt-1">
          <li v-for="p in c.places" :key="p.session + p.track" class="flex items-center gap-2 py-0.5">
            <span class="min-w-0 flex-1 truncate"
              >{{ p.name }} <span class="text-soft">in {{ p.sessionName }}</span></span
            >
            <button
              type="button"
              class="btn px-2 py-0.5"
              :aria-label="`Save this one …: ${p.name} of ${p.sessionName}`"
              @click="save(p)"
            >
              Save this one …
            </button>
          </li>
        </ul>
      </li>
    </ul>
    <template #actions>
      <button type="button" class="btn" @click="emit('close')">Close</button>
    </template>
  </Sheet>
</template>
