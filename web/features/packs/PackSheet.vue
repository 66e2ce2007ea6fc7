<script setup lang="ts">
/** What a pack would bring: each thing with what becomes of it, ticked or left out; taken in as one step. */
import { computed, ref } from 'vue';
import type { PackItem, PackTaken } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useAttempt } from '../../ui/attempt.ts';
import { when } from '../../ui/format.ts';
import Sheet from '../../ui/Sheet.vue';
import { useUi } from '../../ui/window.ts';
import VirtualRows from '../../ui/VirtualRows.vue';
import { takenIn } from './news.ts';
import { fateText, isIdle, type SentPack } from './packs.ts';

const props = defineProps<SentPack>();
const emit = defineEmits<{ close: [] }>();
const ui = useUi();
const { busy, attempt } = useAttempt();
const keyOf = (i: PackItem) => `${i.kind}/${i.id}`;
const left = ref(new Set<string>());
/** those that something happens with first */
const items = computed(() => props.plan.items.toSorted((a, b) => Number(isIdle(a)) - Number(isIdle(b))));
const coming = computed(() => items.value.filter((i) => !isIdle(i) && !left.value.has(keyOf(i))));
const idle = computed(() => props.plan.items.filter(isIdle).length);
const counted = (n: number, one: string, many: string) => (n === 1 ? `1 ${one}` : `${n} ${many}`);
const sums = computed(() => {
  const of = (kind: PackItem['kind']) => coming.value.filter((i) => i.kind === kind).length;
  const parts = [
    of('preset') && counted(of('preset'), 'preset', 'presets'),
    of('setup') && counted(of('setup'), 'studio', 'studios'),
    of('session') && counted(of('session'), 'session', 'sessions'),
  ].filter(Boolean);
  return parts.join(', ') || 'nothing';
});
const soundText = computed(() => {
  const { files, bytes } = props.plan;
  return files
    ? `${counted(files, 'sound or file', 'sounds and files')} (${(bytes / 1e6).toFixed(1)} MB) come with them.`
    : '';
});
function flip(item: PackItem) {
  const key = keyOf(item);
  const next = new Set(left.value);
  if (!next.delete(key)) next.add(key);
  left.value = next;
}
let isTaken = false;
const take = () =>
  attempt('Taking it in …', async () => {
    const taken = await api.takePack({ upload: props.upload, leave: [...left.value] });
    isTaken = true;
    say(taken);
    takenIn.value++;
    emit('close');
  });
function say(taken: PackTaken) {
  const text = `${sums.value} came from “${props.plan.name}”.`;
  ui.say(text, 'done', [{ label: 'Take it back', run: () => void takeBack(taken.id) }], 30000);
}
async function takeBack(id: string) {
  try {
    const { kept } = await api.takePackBack(id);
    const rest = kept.length ? ` Kept, because they went on since or are used: ${kept.join(', ')}.` : '';
    ui.say(`What came is in the trash, and histories end where they did.${rest}`);
    takenIn.value++;
  } catch (e) {
    ui.fail(e);
  }
}
function close() {
  if (!isTaken) void api.dropUpload(props.upload).catch(() => undefined);
  emit('close');
}
</script>

<template>
  <Sheet :title="`What is in “${plan.name}”`" :width="780" @close="close">
    <div class="flex flex-col gap-2 text-body">
      <p role="status">
        Taken in, it brings {{ sums }}. {{ soundText }}
        <template v-if="idle">{{ counted(idle, 'thing is', 'things are') }} here already.</template>
      </p>
      <p v-for="note in plan.notes" :key="note" class="text-warn">{{ note }}</p>
      <p v-if="plan.madeAt" class="text-note text-soft">Made {{ when(plan.madeAt) }}.</p>
      <div class="max-h-[46vh] overflow-auto">
        <table class="w-full">
          <thead>
            <tr class="text-left text-note text-soft">
              <th class="w-[34px] font-normal"><span class="sr-only">Take it in</span></th>
              <th class="font-normal">Name</th>
              <th class="font-normal">What it is</th>
              <th class="font-normal">What happens</th>
            </tr>
          </thead>
          <VirtualRows
            as="tbody"
            row-class="border-t border-rule"
            :items="items"
            :key-of="keyOf"
            :estimate="29"
          >
            <template #default="{ item }">
              <td class="py-1">
                <label class="grid h-6 w-6 place-items-center"
                  ><input
                    type="checkbox"
                    class="accent-[var(--rope)]"
                    :aria-label="`Take in ${item.name}`"
                    :checked="!isIdle(item) && !left.has(keyOf(item))"
                    :disabled="isIdle(item)"
                    @change="flip(item)"
                /></label>
              </td>
              <td class="max-w-[260px] truncate pr-2" :title="item.name">{{ item.name }}</td>
              <td class="pr-2 text-soft">{{ item.kind === 'setup' ? 'studio' : item.kind }}</td>
              <td :class="{ 'text-soft': isIdle(item) }">{{ fateText(item) }}</td>
            </template>
          </VirtualRows>
        </table>
      </div>
    </div>
    <template #actions>
      <span v-if="busy" class="mr-auto text-soft" role="status">{{ busy }}</span>
      <button type="button" class="btn" @click="close">Leave it</button>
      <button type="button" class="btn btn-main" :disabled="busy !== '' || !coming.length" @click="take">
        Take in {{ coming.length }}
      </button>
    </template>
  </Sheet>
</template>
