<script setup lang="ts">
/** Studios: their ports, bays with cables, units with panels, loops with what was measured. */
import { ArrowLeft, Copy, Package, Plus, Trash2, Undo2 } from '@lucide/vue';
import { computed, onMounted, ref, watch } from 'vue';
import { onBeforeRouteLeave, useRoute, useRouter } from 'vue-router';
import type { SetupEntry } from '../../../contract/index.ts';
import { nameWith } from '../../../core/index.ts';
import IconButton from '../../ui/IconButton.vue';
import Sheet from '../../ui/Sheet.vue';
import { HelpMark } from '../guide/index.ts';
import { savePack } from '../packs/index.ts';
import SharedStudios from './SharedStudios.vue';
import StudioView from './StudioView.vue';
import { useStudios } from './studios.ts';
import { summaryText } from './words.ts';

const route = useRoute();
const router = useRouter();
const studios = useStudios();
const making = ref(false);
const name = ref('');
const leaving = ref<(() => void) | null>(null);
const id = computed(() => (typeof route.params.id === 'string' ? route.params.id : ''));
onMounted(() => void studios.load());
watch(id, (now) => now && void studios.open(now), { immediate: true });
onBeforeRouteLeave((to) => {
  if (!studios.isChanged || to.name === 'hardware') return true;
  leaving.value = () => void router.push(to.fullPath);
  return false;
});

async function create() {
  const made = await studios.create(name.value.trim() || 'Studio');
  making.value = false;
  name.value = '';
  if (made) await router.push(`/hardware/${made}`);
}
async function copy(entry: SetupEntry) {
  await studios.open(entry.id);
  if (!studios.draft) return;
  const made = await studios.create({ ...studios.draft, name: nameWith(entry.name, ', copy') });
  if (made) await router.push(`/hardware/${made}`);
}
async function leave(keep: boolean) {
  const go = leaving.value;
  leaving.value = null;
  if (keep) await studios.keep();
  else studios.discard();
  if (!studios.isChanged) go?.();
}
</script>

<template>
  <main class="min-h-0 flex-1 overflow-auto">
    <div class="mx-auto max-w-[1240px] p-5">
      <p v-if="studios.failed" role="alert" class="mb-3 rounded border border-bad p-3">
        {{ studios.failed }}
        <button type="button" class="btn ml-2" @click="id ? studios.open(id) : studios.load()">
          Try again
        </button>
      </p>
      <template v-if="!id">
        <div class="mb-4 flex items-center gap-2">
          <h1 class="flex-1 text-title font-semibold">Hardware</h1>
          <HelpMark about="Hardware" />
          <button type="button" class="btn btn-main" @click="making = true">
            <Plus :size="15" aria-hidden="true" /> New studio
          </button>
        </div>
        <p class="mb-3 max-w-[720px] text-soft">
          A studio is what stands in one room: the interface’s ports, patchbays, units with their panels. A
          session names the studio that it is in; presets with hardware are matched to it when they are
          dropped.
        </p>
        <p
          v-if="studios.list && !studios.list.length"
          class="rounded border border-dashed border-edge p-8 text-center text-soft"
        >
          No studio yet. Make one, and give it the ports of your interface first.
        </p>
        <ul v-else class="flex flex-col gap-2">
          <li
            v-for="s in studios.list ?? []"
            :key="s.id"
            class="flex items-center gap-3 rounded border border-rule bg-sheet p-3"
          >
            <RouterLink :to="`/hardware/${s.id}`" class="min-w-0 flex-1 hover:underline"
              ><span class="block text-lead font-semibold">{{ s.name }}</span
              ><span class="block truncate text-soft">{{ summaryText(s) }}</span></RouterLink
            >
            <button type="button" class="btn btn-plain" :aria-label="`Copy ${s.name}`" @click="copy(s)">
              <Copy :size="15" aria-hidden="true" />
            </button>
            <IconButton
              :icon="Package"
              :label="`Save ${s.name} as a pack`"
              @click="savePack({ setups: [s.id] })"
            />
            <button
              type="button"
              class="btn btn-plain"
              :aria-label="`Delete ${s.name}`"
              @click="studios.remove(s)"
            >
              <Trash2 :size="15" aria-hidden="true" />
            </button>
          </li>
        </ul>
        <SharedStudios @copy="copy" />
      </template>
      <template v-else-if="studios.draft">
        <div class="sticky top-0 z-10 mb-3 flex flex-wrap items-center gap-2 bg-paper py-2">
          <RouterLink to="/hardware" class="btn btn-plain px-1.5" aria-label="All studios"
            ><ArrowLeft :size="16" aria-hidden="true"
          /></RouterLink>
          <h1 class="text-title font-semibold">{{ studios.draft.name }}</h1>
          <span class="text-soft">version {{ studios.draft.version }}</span>
          <span class="flex-1" />
          <span v-if="studios.isChanged" class="text-warn" role="status">changed, not kept yet</span>
          <button type="button" class="btn" :disabled="!studios.steps.length" @click="studios.undo()">
            <Undo2 :size="15" aria-hidden="true" /> Undo
          </button>
          <button type="button" class="btn" :disabled="!studios.isChanged" @click="studios.discard()">
            Take it all back
          </button>
          <button type="button" class="btn btn-main" :disabled="!studios.isChanged" @click="studios.keep()">
            Keep it
          </button>
        </div>
        <StudioView :studio="studios.draft" />
      </template>
    </div>
    <Sheet v-if="making" title="New studio" :width="420" @close="making = false">
      <label class="flex items-center gap-2"
        >Name
        <input
          v-model="name"
          class="field flex-1"
          placeholder="Back room"
          maxlength="200"
          @keydown.enter="create"
      /></label>
      <template #actions
        ><button type="button" class="btn" @click="making = false">Cancel</button
        ><button type="button" class="btn btn-main" @click="create">Make it</button></template
      >
    </Sheet>
    <Sheet v-if="leaving" title="This studio was changed" :width="460" @close="leaving = null">
      <p>“{{ studios.draft?.name }}” has changes that are not kept yet.</p>
      <template #actions
        ><button type="button" class="btn" @click="leaving = null">Stay</button
        ><button type="button" class="btn" @click="leave(false)">Leave without them</button
        ><button type="button" class="btn btn-main" @click="leave(true)">Keep them and go</button></template
      >
    </Sheet>
  </main>
</template>
