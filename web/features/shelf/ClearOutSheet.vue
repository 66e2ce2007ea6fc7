<script setup lang="ts">
/** Presets that could go, each with its reasons; what is ticked goes to the trash in one step. */
import { onMounted, ref, shallowRef } from 'vue';
import type { ClearOutItem, ClearOutReason } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useAttempt } from '../../ui/attempt.ts';
import EmptyNote from '../../ui/EmptyNote.vue';
import Sheet from '../../ui/Sheet.vue';
import VirtualRows from '../../ui/VirtualRows.vue';
import { useMany } from './many.ts';

const emit = defineEmits<{ close: [] }>();
const { busy, attempt } = useAttempt();
const many = useMany();
const items = shallowRef<ClearOutItem[] | null>(null);
const next = ref<string | null>(null);
const ticked = ref(new Set<string>());

const REASONS: Record<Exclude<ClearOutReason, 'same'>, string> = {
  empty: 'no device in it',
  unnamed: 'no name of its own',
  broken: 'a device of it is gone',
  never: 'never dropped since it was saved',
  unused: 'not dropped for a year',
};
const reasonsOf = ({ reasons, like }: ClearOutItem) =>
  reasons.map((r) => (r === 'same' ? `the same as “${like}”` : REASONS[r])).join('; ');

const load = (after = '') =>
  attempt('Looking …', async () => {
    const page = await api.clearOut(after);
    items.value = after ? [...(items.value ?? []), ...page.items] : page.items;
    next.value = page.next;
  });
onMounted(() => load());
function flip(id: string) {
  const now = new Set(ticked.value);
  if (!now.delete(id)) now.add(id);
  ticked.value = now;
}
const flipAll = () => {
  const isAll = ticked.value.size === items.value?.length;
  ticked.value = new Set(isAll ? [] : items.value?.map((i) => i.id));
};
async function takeOff() {
  if (await many.remove([...ticked.value])) emit('close');
}
</script>

<template>
  <Sheet title="Clear out" :width="760" @close="emit('close')">
    <p class="mb-2 text-body text-soft">
      No session has these, and none of them is pinned. What you tick goes to the trash.
    </p>
    <EmptyNote v-if="items && !items.length" text="Nothing on the shelf stands about unused." />
    <div v-else-if="items" class="max-h-[46vh] overflow-auto">
      <table class="w-full text-body">
        <thead>
          <tr class="text-left text-note text-soft">
            <th class="w-[34px] font-normal">
              <input
                type="checkbox"
                class="accent-[var(--rope)]"
                aria-label="Tick all of them"
                :checked="ticked.size > 0 && ticked.size === items.length"
                @change="flipAll"
              />
            </th>
            <th class="font-normal">Name</th>
            <th class="font-normal">Category</th>
            <th class="font-normal">Why it could go</th>
          </tr>
        </thead>
        <VirtualRows
          as="tbody"
          row-class="border-t border-rule"
          :items="items"
          :key-of="(i) => i.id"
          :estimate="29"
        >
          <template #default="{ item }">
            <td class="py-1">
              <label class="grid h-6 w-6 place-items-center"
                ><input
                  type="checkbox"
                  class="accent-[var(--rope)]"
                  :aria-label="`Take off ${item.name || 'the one without a name'}`"
                  :checked="ticked.has(item.id)"
                  @change="flip(item.id)"
              /></label>
            </td>
            <td class="max-w-[240px] truncate pr-2" :title="item.name">{{ item.name }}</td>
            <td class="max-w-[160px] truncate pr-2 text-soft" :title="item.category">{{ item.category }}</td>
            <td>{{ reasonsOf(item) }}</td>
          </template>
        </VirtualRows>
      </table>
      <button v-if="next" type="button" class="btn mt-2" @click="load(next)">More</button>
    </div>
    <template #actions>
      <span v-if="busy" class="mr-auto text-soft" role="status">{{ busy }}</span>
      <button type="button" class="btn" @click="emit('close')">Close</button>
      <button type="button" class="btn btn-main" :disabled="!ticked.size" @click="takeOff">
        Take {{ ticked.size }} off the shelf
      </button>
    </template>
  </Sheet>
</template>
