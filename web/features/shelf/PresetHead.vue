<script setup lang="ts">
/** Name, category, tags and pin of a preset, and what can be done with it. */
import { Download, Pin, Trash2 } from '@lucide/vue';
import { computed, onMounted, shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import type { Preset } from '../../../core/index.ts';
import type { PresetDetail, SessionEntry } from '../../../contract/index.ts';
import { ApiError, api } from '../../api/index.ts';
import { chosenIn } from '../../ui/events.ts';
import { listed, toldApart } from '../../ui/format.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import PopMenu from '../../ui/PopMenu.vue';
import { saveFrom } from '../../ui/save.ts';
import { useSheets } from '../../ui/sheets.ts';
import { useUi } from '../../ui/window.ts';
import { useDefaults } from '../defaults/index.ts';
import { useDrop } from '../drop/index.ts';
import { savePack } from '../packs/index.ts';
import { saveSettings, takeSettings } from './settings-table.ts';
import { useShelf } from './store.ts';

const props = defineProps<{ detail: PresetDetail; shown: Preset }>();
const emit = defineEmits<{ changed: [detail: Partial<PresetDetail>]; saved: [] }>();
const ui = useUi();
const sheets = useSheets();
const shelf = useShelf();
const drop = useDrop();
const defaults = useDefaults();
const router = useRouter();
const id = computed(() => props.detail.id);
const isMine = computed(() => props.detail.right === 'own');
const sharedText = computed(() => {
  const may = props.detail.right === 'add' ? 'you can read it and add versions' : 'you can read it';
  return `On the shelf of ${props.detail.owner.name}: ${may}`;
});
/** A preset of another shelf, as one's own from here on. */
async function copyHere() {
  try {
    const own: Preset = { ...props.shown, id: crypto.randomUUID(), name: props.detail.name, version: 1 };
    const made = await api.createPreset({ ...own, parent: null });
    shelf.filter.of = '';
    await router.push(`/shelf/${made.id}`);
    ui.say(`A copy of “${props.detail.name}” is on your shelf.`, 'done');
  } catch (e) {
    ui.fail(e);
  }
}
const savedAt = computed(() => {
  const { tempo, sampleRate } = props.shown.reference;
  return `saved at ${tempo} bpm, ${sampleRate / 1000} kHz`;
});
const sessions = shallowRef<SessionEntry[]>([]);
onMounted(async () => {
  void defaults.load();
  try {
    sessions.value = (await api.sessions()).items;
  } catch (e) {
    ui.fail(e);
  }
});

async function change(over: Parameters<typeof api.presetMeta>[1]) {
  try {
    // another version may have been saved meanwhile, under another name
    const seen = 'pinned' in over ? undefined : props.detail.version;
    emit('changed', await api.presetMeta(id.value, over, seen));
    await shelf.refresh();
  } catch (e) {
    ui.fail(e);
    if (e instanceof ApiError && e.code === 'changed-elsewhere') emit('changed', await api.preset(id.value));
  }
}
const rename = (e: Event) => change({ name: chosenIn(e).trim() || props.detail.name });
const leave = (e: KeyboardEvent) => (e.target as HTMLElement).blur();

function sideBySide() {
  const parent = props.detail.parent;
  sheets.open('compare', {
    a: { preset: id.value, version: props.shown.version },
    b: parent ? { preset: parent } : null,
  });
}

async function startNew() {
  try {
    const { version } = props.shown;
    const made = await api.createSession({ name: props.detail.name, preset: id.value, version });
    await router.push(`/session/${made.id}`);
  } catch (e) {
    ui.fail(e);
  }
}
function starterMenu(): MenuEntry[] {
  if (props.detail.kind !== 'starter') return [];
  if (defaults.presetOf('session:new') === id.value) {
    return [{ label: 'New sessions begin empty', run: () => void defaults.clear('session:new') }];
  }
  const name = `“${props.detail.name}”`;
  return [
    { label: 'New sessions begin with it', run: () => void defaults.set('session:new', id.value, name) },
  ];
}
const dropText = computed(() => {
  const earlier = props.shown.version !== props.detail.preset.version;
  return earlier ? `Drop version ${props.shown.version} into …` : 'Drop into …';
});
const places = (): MenuEntry[] => [
  { label: 'A new session', run: () => void startNew() },
  ...starterMenu(),
  { heading: 'Drop into' },
  ...sessions.value.map((s) => ({
    label: toldApart(s, sessions.value),
    run: () => void drop.versionIntoSession(s.id, id.value, props.shown.version),
  })),
];

const savePacked = () =>
  isMine.value ? void savePack({ presets: [id.value] }) : saveFrom(`/api/packs/of/${id.value}`);
const files = (): MenuEntry[] => [
  { heading: 'Save it as a file' },
  { label: 'A pack, with its sounds and versions', run: savePacked },
  { label: 'Its settings as a table (CSV)', run: () => saveSettings(props.shown, props.detail.name) },
  { label: 'Readable JSON', run: () => saveFrom(`/api/packs/of/${id.value}/json`) },
  ...(props.detail.right === 'read' ? [] : versions()),
];
const versions = (): MenuEntry[] => [
  { heading: 'As its next version' },
  { label: 'Settings from a table (CSV) …', run: () => takeSettings(props.detail, saved) },
];
async function saved() {
  emit('saved');
  await shelf.refresh();
}
async function remove() {
  const { id: preset, name } = props.detail;
  try {
    await api.deletePreset(preset);
    // whoever went on meanwhile stays there
    if (router.currentRoute.value.path === `/shelf/${preset}`) await router.replace('/shelf');
    await shelf.refresh();
    const bringBack = () => void api.restorePreset(preset).then(() => shelf.refresh(), ui.fail);
    ui.say(
      `“${name}” was taken off the shelf, into the trash. Sessions that use it keep their lines.`,
      'info',
      [{ label: 'Bring it back', run: bringBack }],
      15000,
    );
  } catch (e) {
    ui.fail(e);
  }
}
</script>

<template>
  <header class="mb-2 flex flex-wrap items-start gap-2">
    <div class="min-w-[220px] flex-1">
      <input
        class="w-full rounded bg-transparent text-title font-semibold"
        :value="detail.name"
        aria-label="Name of the preset"
        :readonly="!isMine"
        @change="rename"
        @keydown.enter="leave"
      />
      <div class="flex flex-wrap items-center gap-1.5 text-body text-soft">
        <span v-if="!isMine" class="font-semibold text-ink">{{ sharedText }}</span>
        <span>{{ detail.kind }} · version {{ shown.version }} · {{ savedAt }}</span>
        <template v-if="isMine"
          ><input
            class="field min-h-6 w-[150px] py-0 text-note"
            :value="detail.category"
            aria-label="Category"
            @change="change({ category: chosenIn($event) })" />
          <input
            class="field min-h-6 w-[170px] py-0 text-note"
            :value="detail.summary.tags.join(', ')"
            aria-label="Tags"
            @change="change({ tags: listed(chosenIn($event)) })"
        /></template>
        <span v-else>{{ [detail.category, ...detail.summary.tags].join(' · ') }}</span>
      </div>
    </div>
    <button v-if="!isMine" type="button" class="btn" @click="copyHere">Put a copy on my shelf</button>
    <button
      v-if="isMine"
      type="button"
      class="btn px-1.5"
      :aria-pressed="detail.pinned"
      :aria-label="detail.pinned ? 'Unpin' : 'Pin'"
      :class="{ 'border-rope text-rope': detail.pinned }"
      @click="change({ pinned: !detail.pinned })"
    >
      <Pin :size="15" aria-hidden="true" />
    </button>
    <button v-if="isMine" type="button" class="btn px-1.5" aria-label="Take off the shelf" @click="remove">
      <Trash2 :size="15" aria-hidden="true" />
    </button>
    <PopMenu label="Save it as a file, or take settings in" :items="files" button-class="btn px-1.5"
      ><Download :size="15" aria-hidden="true"
    /></PopMenu>
    <button type="button" class="btn" @click="sideBySide">Side by side …</button>
    <PopMenu label="Drop into a session" :items="places" button-class="btn btn-main">{{ dropText }}</PopMenu>
  </header>
</template>
