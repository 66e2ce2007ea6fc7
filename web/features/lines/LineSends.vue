<script setup lang="ts">
/** The sends of a line as they stand on it: two of them, or one and how many more there are. */
import { computed } from 'vue';
import { formatDb, type Send } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';

const props = defineProps<{ sends: Send[] }>();
const session = useSession();
const nameOf = (send: Send) => session.nameOf(send.to);
const shown = computed(() => props.sends.slice(0, props.sends.length > 2 ? 1 : 2));
const rest = computed(() => props.sends.slice(shown.value.length));
const restText = computed(() =>
  rest.value.map((send) => `${nameOf(send)} ${formatDb(send.level)}`).join(', '),
);
</script>

<template>
  <div class="flex shrink-0 items-center gap-1">
    <span
      v-for="send in shown"
      :key="send.id"
      class="send relative w-[68px] truncate rounded bg-paper text-fine leading-[13px]"
      :class="{ 'line-through opacity-60': !send.on }"
      :title="`Send to ${nameOf(send)}, ${formatDb(send.level)}, ${send.tap}-fader`"
    >
      <span class="block truncate">↘ {{ nameOf(send) }}</span>
      <span class="block text-soft">
        {{ formatDb(send.level) }}<template v-if="send.tap === 'pre'"> pre</template>
      </span>
    </span>
    <span v-if="rest.length" class="chip relative whitespace-nowrap" :title="restText">
      +{{ rest.length }} sends
    </span>
  </div>
</template>
