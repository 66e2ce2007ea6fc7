<script setup lang="ts">
/**
 * One line or piece against the shelf: what is changed here, what a newer version brings, and the ways
 * between the two.
 */
import { computed, ref, shallowRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import { newLines, type Preset } from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useDrop } from '../drop/index.ts';
import AdaptedHere from './AdaptedHere.vue';
import { useOrigins } from './store.ts';
import { useUi } from '../../ui/window.ts';
import Sheet from '../../ui/Sheet.vue';
import { useSheets, type Sheets } from '../../ui/sheets.ts';

const props = defineProps<{ at: string }>();
const emit = defineEmits<{ close: [] }>();
const origins = useOrigins();
const sheets = useSheets();
const drop = useDrop();
const ui = useUi();
const router = useRouter();
const tied = computed(() => origins.of(props.at));
const next = shallowRef<Preset | null>(null);
/** versions that it can be taken to, the latest first, and the one that is looked at */
const versions = shallowRef<number[]>([]);
const wanted = ref(0);
const choices = ref<Record<string, 'mine' | 'theirs'>>({});
watch(
  tied,
  async (t, old) => {
    if (!t || (old?.key === t.key && old.current === t.current)) return;
    wanted.value = t.state.newer ? t.current : 0;
    try {
      const { versions: all } = await api.preset(t.root.origin.preset);
      versions.value = all.map((v) => v.version).filter((v) => v !== t.root.origin.version);
    } catch {
      // taken off the shelf: there is nothing to go to
      versions.value = [];
    }
  },
  { immediate: true },
);
watch(
  wanted,
  async (n) => {
    next.value = null;
    choices.value = {};
    if (!tied.value || !n) return;
    try {
      const preset = await origins.version(tied.value, n);
      if (wanted.value === n) next.value = preset;
    } catch (e) {
      ui.fail(e);
    }
  },
  { immediate: true },
);
const isBack = computed(() => !!tied.value && wanted.value < tied.value.root.origin.version);
const versionText = (n: number) => `Version ${n}${n === tied.value?.current ? ', the latest' : ''}`;
const update = computed(() =>
  tied.value && next.value ? origins.lookAt(tied.value, next.value, choices.value) : null,
);
const more = computed(() =>
  tied.value && next.value ? newLines(origins.baseOf(tied.value), next.value).map((t) => `“${t.name}”`) : [],
);
const close = () => emit('close');
function save(mode: 'version' | 'new') {
  const t = tied.value!;
  // a rig or starter is saved whole: all lines that came with this drop
  const lines: Sheets['save']['lines'] =
    origins.baseOf(t).kind === 'starter' ? 'starter' : origins.linesOf(t);
  const what = t.root.slot ? { slot: { track: t.root.track.id, slot: t.root.slot.id } } : { lines };
  sheets.instead('origin', 'save', { ...what, mode });
}
</script>

<template>
  <Sheet v-if="tied" :title="`“${origins.nameOf(tied)}” and the shelf`" :width="820" @close="close">
    <div class="flex flex-col gap-4 text-body">
      <p>
        From <strong>“{{ tied.name }}”</strong>, version {{ tied.root.origin.version }}:
        {{ origins.said(tied) }}.
        <button type="button" class="underline" @click="router.push(`/shelf/${tied.root.origin.preset}`)">
          Look at it on the shelf
        </button>
        ·
        <button
          type="button"
          class="underline"
          @click="
            drop.reopen(tied.root.origin.drop);
            close();
          "
        >
          Intact report
        </button>
        ·
        <button
          type="button"
          class="underline"
          @click="
            sheets.instead('origin', 'compare', {
              a: { preset: tied.root.origin.preset, version: tied.root.origin.version },
              b: { line: tied.root.track.id },
            })
          "
        >
          Hear and see both
        </button>
      </p>
      <section aria-label="Changed here">
        <h3 class="mb-1 font-semibold">Changed here</h3>
        <p v-if="!tied.state.changes.length" class="text-soft">
          Nothing: every value is as the drop left it. Ties to this session’s own tracks do not count.
        </p>
        <table v-else class="w-full">
          <thead>
            <tr class="text-left text-soft">
              <th class="font-normal">Value</th>
              <th class="font-normal">As dropped</th>
              <th class="font-normal">Now</th>
              <th />
            </tr>
          </thead>
          <tbody>
            <tr v-for="c in tied.state.changes" :key="c.path" class="border-t border-rule">
              <td class="py-1 pr-2">{{ c.label }}</td>
              <td class="pr-2">{{ c.from }}</td>
              <td class="pr-2 font-semibold">{{ c.to }}</td>
              <td class="text-right">
                <button
                  type="button"
                  class="btn min-h-6 px-2 py-0.5 text-note"
                  :aria-label="`Put back ${c.label}`"
                  @click="origins.restore(tied!, [c.path])"
                >
                  Put back
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <div v-if="tied.state.changes.length" class="mt-2 flex flex-wrap gap-2">
          <button type="button" class="btn px-2 py-0.5" @click="origins.restore(tied!, null)">
            Put back all</button
          ><button type="button" class="btn px-2 py-0.5" @click="save('version')">
            Save as the next version …</button
          ><button type="button" class="btn px-2 py-0.5" @click="save('new')">Make it a variant …</button>
        </div>
      </section>
      <AdaptedHere :tied="tied" />
      <section v-if="versions.length" aria-label="Another version">
        <h3 class="mb-1 flex items-center gap-2 font-semibold">
          Another version
          <select v-model.number="wanted" class="field py-0.5 font-normal" aria-label="Version to go to">
            <option :value="0">Stay at version {{ tied.root.origin.version }}</option>
            <option v-for="v in versions" :key="v" :value="v">{{ versionText(v) }}</option>
          </select>
        </h3>
        <p v-if="!wanted" class="text-soft">Choose one to see what it would change on this line.</p>
        <p v-else-if="!update" class="text-soft">Looking …</p>
        <template v-else>
          <p v-if="!update.taken.length && !update.conflicts.length" class="text-soft">
            It brings nothing that is not here already.
          </p>
          <table v-if="update.taken.length" class="w-full">
            <tbody>
              <tr v-for="c in update.taken" :key="c.path" class="border-t border-rule">
                <td class="py-1 pr-2">{{ c.label }}</td>
                <td class="pr-2">{{ c.from }}</td>
                <td>
                  → <strong>{{ c.to }}</strong>
                </td>
              </tr>
            </tbody>
          </table>
          <fieldset v-if="update.conflicts.length" class="mt-2">
            <legend class="font-semibold">Both sides changed these: whose value?</legend>
            <div
              v-for="c in update.conflicts"
              :key="c.path"
              class="grid grid-cols-[1fr_110px_190px_190px] items-center gap-2 border-t border-rule py-1"
              role="radiogroup"
              :aria-label="c.label"
            >
              <span>{{ c.label }}</span><span class="text-soft">was {{ c.base }}</span>
              <label class="flex items-center gap-1.5"
                ><input
                  type="radio"
                  class="accent-[var(--rope)]"
                  :name="c.path"
                  :checked="c.chosen === 'mine'"
                  @change="choices = { ...choices, [c.path]: 'mine' }"
                />
                here: {{ c.mine }}</label
              >
              <label class="flex items-center gap-1.5"
                ><input
                  type="radio"
                  class="accent-[var(--rope)]"
                  :name="c.path"
                  :checked="c.chosen === 'theirs'"
                  @change="choices = { ...choices, [c.path]: 'theirs' }"
                />
                shelf: {{ c.theirs }}</label
              >
            </div>
          </fieldset>
          <p v-if="update.kept.length" class="mt-1 text-soft">
            Stays as it was changed here: {{ update.kept.map((c) => c.label).join(', ') }}.
          </p>
          <p v-if="more.length" class="mt-1 text-soft">
            The preset has {{ more.length === 1 ? 'a line' : 'lines' }} more by now: {{ more.join(', ') }}.
            Drop it again to get {{ more.length === 1 ? 'it' : 'them' }}.
          </p>
          <p v-for="n in update.notes" :key="n" class="mt-1 text-warn">{{ n }}</p>
        </template>
      </section>
    </div>
    <template #actions>
      <button
        type="button"
        class="btn mr-auto"
        title="It stays as it is and remembers the preset no more"
        @click="origins.release(tied!)"
      >
        Let go of the tie
      </button>
      <button type="button" class="btn" @click="close">Close</button>
      <button
        v-if="wanted"
        type="button"
        class="btn btn-main"
        :disabled="!update"
        @click="
          origins.take(tied!, next!, choices);
          close();
        "
      >
        {{ isBack ? 'Go back' : 'Update' }} to version {{ wanted }}
      </button>
    </template>
  </Sheet>
</template>
