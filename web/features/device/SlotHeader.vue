<script setup lang="ts">
/**
 * Head of the panel of a device or rack: name, where it stands, comparison, state, place in the chain, and
 * what can be done with it.
 */
import { ChevronLeft, ChevronRight, Copy, Ellipsis, Package, Trash2 } from '@lucide/vue';
import { computed, nextTick, ref } from 'vue';
import {
  DEVICE_TYPES,
  chainAt,
  newestRevision,
  placeOf,
  revisionOf,
  racksAround,
  type Slot,
  type Track,
  moveSlot,
  renameSlot,
  setState,
} from '../../../core/index.ts';
import { useAudio, CompareButton } from '../transport/index.ts';
import { useDrop } from '../drop/index.ts';
import type { PresetEntry } from '../../../contract/index.ts';
import { useSession } from '../../document/doc.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import PopMenu from '../../ui/PopMenu.vue';
import { OriginMark } from '../origin/index.ts';
import StateSwitch from './StateSwitch.vue';
import { slotMenu } from './menus.ts';
import { useSheets } from '../../ui/sheets.ts';
import { duplicate, remove } from './slots.ts';

const props = defineProps<{ track: Track; slotData: Slot }>();
const sheets = useSheets();
const session = useSession();
const audio = useAudio();
const drop = useDrop();
const x = computed(() => props.slotData);
const place = computed(() => placeOf(props.track, x.value.id) ?? { container: props.track.id, at: 0 });
const chain = computed(() => chainAt(props.track, place.value.container) ?? []);
const around = computed(() => racksAround(props.track.chain, x.value.id));
const typeLabel = computed(() => (x.value.kind === 'rack' ? 'Rack' : DEVICE_TYPES[x.value.type].label));
/** said where it is not the present one */
const revision = computed(() => {
  const d = x.value;
  if (d.kind === 'rack' || revisionOf(d) === newestRevision(d.type)) return '';
  return `revision ${revisionOf(d)}, `;
});
const isForeign = computed(() => x.value.kind === 'device' && !!DEVICE_TYPES[x.value.type].foreign);
const what = computed(() => (x.value.kind === 'rack' ? 'rack' : 'device'));
const keyed = computed(() => audio.keyHearings(props.track, x.value));
const listening = computed(() => audio.compare?.id === `key ${x.value.id}`);
const trial = computed(() => (drop.trial?.slot === x.value.id ? drop.trial : null));

const shift = (by: number) =>
  session.edit(
    `Move ${x.value.name}`,
    moveSlot(props.track.id, x.value.id, {
      track: props.track.id,
      container: place.value.container,
      at: place.value.at + (by < 0 ? -1 : 2),
    }),
  );
/** What is of the same sort stands first: the same device, or a rack in a rack's place. */
function isAlike({ kind, summary }: PresetEntry): boolean {
  const own = x.value;
  if (own.kind === 'rack') return kind === 'rack';
  return kind === 'device' && summary.devices[0]?.type === own.type;
}
function others(): MenuEntry[] {
  const entry = (p: PresetEntry) => ({
    label: p.name,
    run: () => void drop.tryInstead(p.id, props.track.id, x.value.id),
  });
  const [alike, rest] = [drop.pieces.filter(isAlike), drop.pieces.filter((p) => !isAlike(p))];
  if (!drop.pieces.length) return [{ label: 'No racks or devices on the shelf yet', disabled: true }];
  return [
    { heading: `In place of ${x.value.name}, to listen first` },
    ...alike.map(entry),
    ...(alike.length && rest.length ? [{ heading: 'Of another kind' }] : []),
    ...rest.map(entry),
  ];
}

const renaming = ref(false);
const name = ref('');
const nameInput = ref<HTMLInputElement | null>(null);
function rename() {
  renaming.value = true;
  name.value = x.value.name;
  void nextTick(() => nameInput.value?.select());
}
function renamed() {
  if (!renaming.value) return;
  renaming.value = false;
  const n = name.value.trim();
  if (n && n !== x.value.name) {
    session.edit(`Rename ${x.value.name}`, renameSlot(props.track.id, x.value.id, n));
  }
}
</script>

<template>
  <header class="flex items-center gap-2 border-b border-rule px-3 py-1">
    <input
      v-if="renaming"
      ref="nameInput"
      v-model="name"
      class="field py-0"
      :aria-label="`New ${what} name`"
      @keydown.enter="renamed"
      @keydown.esc.stop="renaming = false"
      @blur="renamed"
    />
    <h2 v-else class="min-w-[70px] truncate text-head font-semibold" @dblclick="rename">{{ x.name }}</h2>
    <button
      v-if="!renaming && !trial && !listening"
      type="button"
      class="text-note text-soft underline"
      @click="rename"
    >
      rename
    </button>
    <span v-if="!trial && !listening" class="flex min-w-0 items-center gap-1 truncate text-note text-soft"
      >{{ x.name === typeLabel ? '' : typeLabel + ' ' }}{{ revision
      }}<template v-for="r in around" :key="r.id"
        >in
        <button type="button" class="min-h-6 underline" @click="session.select(track.id, r.id)">
          {{ r.name }}
        </button></template
      >
      on {{ track.name }}</span
    >
    <OriginMark v-if="x.origin?.ids && !trial && !listening" :id="x.id" :origin="x.origin" />
    <span class="flex-1" />
    <template v-if="trial">
      <span class="text-note whitespace-nowrap"
        >Trying <strong>{{ trial.name }}</strong></span
      >
      <button type="button" class="btn btn-main px-2 py-0.5 text-note" @click="drop.keepTrial()">
        Keep it
      </button>
      <button type="button" class="btn px-2 py-0.5 text-note" @click="drop.endTrial()">Go back</button>
    </template>
    <PopMenu
      v-else-if="!listening && (what === 'rack' || drop.pieces.length)"
      label="Try another from the shelf"
      :items="others"
      button-class="btn px-2 py-0.5 text-note"
      ><Package :size="13" aria-hidden="true" /> Try another</PopMenu
    >
    <button
      v-if="keyed.length && !listening"
      type="button"
      class="btn px-2 py-0.5 text-note"
      title="As it is, key off, trigger muted, trigger alone, chain bypassed: at equal loudness, with the keys 1 to 5"
      @click="audio.compareHearings(`key ${x.id}`, track, x.id, x.name, keyed)"
    >
      Compare the key
    </button>
    <CompareButton v-if="!isForeign" :track="track" :device="x.id" :short="listening" />
    <StateSwitch
      :state="x.state"
      :name="x.name"
      @set="(s) => session.edit(`${x.name}: ${s}`, setState(track.id, x.id, s))"
    />
    <button
      type="button"
      class="btn btn-plain px-1 py-0.5"
      :aria-label="`Move ${what} earlier`"
      :disabled="place.at === 0"
      @click="shift(-1)"
    >
      <ChevronLeft :size="15" aria-hidden="true" />
    </button>
    <button
      type="button"
      class="btn btn-plain px-1 py-0.5"
      :aria-label="`Move ${what} later`"
      :disabled="place.at === chain.length - 1"
      @click="shift(1)"
    >
      <ChevronRight :size="15" aria-hidden="true" />
    </button>
    <button
      type="button"
      class="btn btn-plain px-1 py-0.5"
      :aria-label="`Duplicate ${what}`"
      @click="duplicate(track, x)"
    >
      <Copy :size="14" aria-hidden="true" />
    </button>
    <button
      type="button"
      class="btn btn-plain px-1 py-0.5"
      :aria-label="`Remove ${what}`"
      @click="remove(track, x)"
    >
      <Trash2 :size="14" aria-hidden="true" />
    </button>
    <PopMenu
      :label="`More for ${x.name}`"
      :items="
        () =>
          slotMenu(track, x, () => {
            sheets.open('save', { slot: { track: track.id, slot: x.id } });
          })
      "
      button-class="btn btn-plain px-0.5 py-0.5"
      :width="250"
      ><Ellipsis :size="15" aria-hidden="true"
    /></PopMenu>
  </header>
</template>
