<script setup lang="ts">
/** Presets that do nearly the same, in groups, to be merged: sessions that use them keep working. */
import { onMounted, shallowRef } from 'vue';
import type { NearGroups } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useAttempt } from '../../ui/attempt.ts';
import EmptyNote from '../../ui/EmptyNote.vue';
import Sheet from '../../ui/Sheet.vue';
import NearGroupBox from './NearGroupBox.vue';

const emit = defineEmits<{ close: [] }>();
const { busy, attempt } = useAttempt();
const found = shallowRef<NearGroups | null>(null);
const look = () =>
  attempt('Comparing all presets …', async () => {
    found.value = await api.nearGroups();
  });
onMounted(look);
</script>

<template>
  <Sheet title="Nearly the same" :width="860" steady @close="emit('close')">
    <p class="mb-2 text-body text-soft">
      Compared by what they do, not by their names. Merged ones become versions of the one that stays, and
      sessions that use them go on with those; or they stay on the shelf as its variants.
    </p>
    <p v-if="busy" role="status" class="text-soft">{{ busy }}</p>
    <EmptyNote v-else-if="found && !found.groups.length" text="No two presets do nearly the same." />
    <template v-else-if="found">
      <NearGroupBox
        v-for="g in found.groups"
        :key="g.map((n) => n.preset.id).join()"
        :group="g"
        @merged="look"
      />
      <p v-if="found.more" class="text-soft">
        {{ found.more }} more groups are shown when some of these are merged.
      </p>
    </template>
    <template #actions>
      <button type="button" class="btn" @click="emit('close')">Close</button>
    </template>
  </Sheet>
</template>
