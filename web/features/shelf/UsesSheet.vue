<script setup lang="ts">
/**
 * All sessions that use a preset: the list first, with what an update would do in each; then those that are
 * chosen.
 */
import { computed, onMounted, ref, shallowRef } from 'vue';
import { api } from '../../api/index.ts';
import type { SessionUse, UpdateSaid } from '../../../contract/index.ts';
import Sheet from '../../ui/Sheet.vue';

const props = defineProps<{ preset: string; name: string }>();
const emit = defineEmits<{ close: [] }>();
const version = ref(0);
const list = shallowRef<SessionUse[] | null>(null);
const look = shallowRef<Map<string, UpdateSaid>>(new Map());
const off = ref<string[]>([]);
const busy = ref('');
const failed = ref('');
const behind = computed(() => list.value?.filter((s) => s.behind > 0) ?? []);
const chosen = computed(() => behind.value.filter((s) => !off.value.includes(s.id)));

async function load() {
  try {
    const r = await api.sessionsUsing(props.preset);
    version.value = r.version;
    list.value = r.sessions;
    if (!behind.value.length) return;
    busy.value = 'Looking what would change …';
    look.value = new Map(
      (
        await api.updateSessions(
          props.preset,
          behind.value.map((s) => s.id),
          true,
        )
      ).sessions.map((s) => [s.id, s]),
    );
  } catch (e) {
    failed.value = (e as Error).message;
  } finally {
    busy.value = '';
  }
}
onMounted(load);
async function update() {
  busy.value = `Updating ${chosen.value.length} …`;
  try {
    const said = (
      await api.updateSessions(
        props.preset,
        chosen.value.map((s) => s.id),
        false,
      )
    ).sessions;
    failed.value = said
      .filter((s) => s.error)
      .map((s) => `${s.name ?? s.id}: ${s.error}`)
      .join(' ');
    await load();
  } catch (e) {
    failed.value = (e as Error).message;
  } finally {
    busy.value = '';
  }
}
const words = (s: SessionUse): string => {
  const l = look.value.get(s.id);
  if (s.behind === 0) return `up to date, ${s.places === 1 ? 'one place' : `${s.places} places`}`;
  if (!l) return `version ${s.oldest}, ${s.behind} behind`;
  const change = `${l.taken} ${l.taken === 1 ? 'value' : 'values'} would change`;
  const both = l.conflicts?.length ? `, ${l.conflicts.length} changed on both sides` : '';
  const stay = l.kept ? `, ${l.kept} of its own stay` : '';
  return l.error ?? `${change}${both}${stay}`;
};
const flip = (id: string) => {
  off.value = off.value.includes(id) ? off.value.filter((x) => x !== id) : [...off.value, id];
};
</script>

<template>
  <Sheet :title="`Sessions that use “${name}”`" :width="720" @close="emit('close')">
    <p v-if="failed" role="alert" class="mb-2 text-bad">{{ failed }}</p>
    <p v-if="busy" role="status" class="text-soft">{{ busy }}</p>
    <p v-if="list && !list.length" class="text-soft">No session uses it yet.</p>
    <table v-if="list?.length" class="w-full text-body">
      <tbody>
        <tr v-for="s in list" :key="s.id" class="border-t border-rule align-top">
          <td class="w-8 py-1.5">
            <input
              v-if="s.behind"
              type="checkbox"
              class="h-4 w-4 accent-[var(--rope)]"
              :aria-label="`Update ${s.name}`"
              :checked="!off.includes(s.id)"
              @change="flip(s.id)"
            />
          </td>
          <td class="py-1.5 pr-3">
            <RouterLink :to="`/session/${s.id}`" class="underline">{{ s.name }}</RouterLink>
          </td>
          <td class="py-1.5">
            {{ words(s)
            }}<span v-for="c in look.get(s.id)?.conflicts ?? []" :key="c" class="block text-soft">{{
              c
            }}</span
            ><span v-for="n in look.get(s.id)?.notes ?? []" :key="n" class="block text-warn">{{ n }}</span>
          </td>
        </tr>
      </tbody>
    </table>
    <template #actions
      ><span v-if="behind.length" class="mr-auto text-body text-soft"
        >Each session keeps what was changed in it.</span
      ><button type="button" class="btn" @click="emit('close')">Close</button
      ><button
        v-if="behind.length"
        type="button"
        class="btn btn-main"
        :disabled="!chosen.length || !!busy"
        @click="update"
      >
        Update {{ chosen.length }} to version {{ version }}
      </button></template
    >
  </Sheet>
</template>
