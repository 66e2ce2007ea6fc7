<script setup lang="ts">
/**
 * One preset: flow picture, values, note, versions and what differs, where it is used, listening, dropping.
 */
import { Pin, Play, Square, Trash2 } from '@lucide/vue';
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import {
  DEVICE_TYPES,
  diffPresets,
  formatDb,
  controllerName,
  formatPan,
  formatValue,
  isPiece,
  laneTarget,
  racksAround,
  tieTarget,
  walkSlots,
  type Device,
  type Rack,
  type MediaRef,
  type Preset,
  type Track,
  isUsed,
} from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import type { PresetDetail, PresetEntry, SessionEntry } from '../../../contract/index.ts';
import { CompareButton, useAudio, Meter } from '../transport/index.ts';
import { useDrop } from '../drop/index.ts';
import { useShelf } from './store.ts';
import { useUi } from '../../ui/window.ts';
import PopMenu from '../../ui/PopMenu.vue';
import { when } from '../../ui/format.ts';
import { useSheets } from '../../ui/sheets.ts';
import { useDefaults } from '../defaults/index.ts';
import DifferenceTable from './DifferenceTable.vue';
import { FlowPicture } from '../picture/index.ts';
import UsesSheet from './UsesSheet.vue';
import { listeningSession } from './listening.ts';

const props = defineProps<{ id: string }>();
const sheets = useSheets();
const ui = useUi();
const audio = useAudio();
const shelf = useShelf();
const drop = useDrop();
const router = useRouter();
const detail = shallowRef<PresetDetail | null>(null);
const shown = shallowRef<Preset | null>(null);
const against = shallowRef<Preset | null>(null);
const uses = shallowRef<{ id: string; session: string; name: string; version: number; at: string }[]>([]);
const sounds = shallowRef<MediaRef[]>([]);
const sessions = shallowRef<SessionEntry[]>([]);
const material = ref('');
const failed = ref('');

async function load() {
  failed.value = '';
  try {
    detail.value = await api.preset(props.id);
    shown.value = detail.value.preset;
    against.value = null;
    [uses.value, sounds.value, sessions.value] = await Promise.all([
      api.presetUses(props.id),
      api.media(),
      api.sessions(),
    ]);
    const first =
      props.id &&
      (sounds.value.find((m) =>
        shown
          .value!.content.tracks[0].name.toLowerCase()
          .split(' ')
          .some((w) => m.name.toLowerCase().includes(w)),
      ) ??
        sounds.value.find((m) => m.name.includes('lead')) ??
        sounds.value[0]);
    if (first) material.value = first.id;
  } catch (e) {
    failed.value = (e as Error).message;
  }
}
onMounted(load);
onBeforeUnmount(() => audio.endListening());

const content = computed(() => shown.value!.content);
const differences = computed(() =>
  against.value && shown.value ? diffPresets(against.value.content, shown.value.content) : [],
);
async function pick(v: number) {
  try {
    shown.value = await api.presetVersion(props.id, v);
  } catch (e) {
    ui.fail(e);
  }
}
async function compareTo(v: number) {
  try {
    against.value = v ? await api.presetVersion(props.id, v) : null;
  } catch (e) {
    ui.fail(e);
  }
}
const values = (d: Device) =>
  DEVICE_TYPES[d.type].params
    .filter(
      (p) =>
        isUsed(d, p.id) &&
        (d.type !== 'eq' || p.group.startsWith('Band') ? relevant(d, p.id) : d.params[p.id] !== 0),
    )
    .map((p) => ({ id: p.id, label: p.label, text: formatValue(p, d.params[p.id]) }));
const endName = (id: string) =>
  content.value.looseEnds.find((e) => e.id === id)?.label ??
  content.value.tracks.find((t) => t.id === id)?.name ??
  '?';
const lanesOf = (t: Track) => t.automation!.map((l) => laneTarget(t, l, endName)?.label ?? '?').join(', ');
/** Strands, blend and handles in words. */
const rackValues = (r: Rack) => [
  ...r.strands.map((s) => ({
    id: s.id,
    label: `strand ${s.name}`,
    text: `${formatDb(s.level)}${s.pan ? `, pan ${formatPan(s.pan)}` : ''}${s.mute ? ', muted' : ''}`,
  })),
  ...(r.strands.length > 1 && r.blend.mode !== 'off'
    ? [
        {
          id: 'blend',
          label: 'blend',
          text: `${Math.round(r.blend.position)} % (${r.blend.mode === 'power' ? 'equal power' : 'linear'})`,
        },
      ]
    : []),
  ...r.handles.map((h) => ({
    id: h.id,
    label: `handle ${h.name}`,
    text: `${h.value} %${h.cc === null ? '' : `, ${controllerName(h.cc)}`}, moves ${h.ties.map((t) => tieTarget(r, t)?.label ?? '?').join(' and ')}`,
  })),
];
function relevant(d: Device, id: string): boolean {
  if (d.type === 'compressor') {
    return d.params.keyFilter === true || !['keyLow', 'keyHigh', 'listen'].includes(id);
  }
  const m = /^(b\d)\.(.+)$/.exec(id);
  if (!m) return true;
  const pass = ['highPass', 'lowPass'].includes(String(d.params[`${m[1]}.type`]));
  if (m[2] === 'on') return false;
  if (m[2] === 'slope') return pass;
  return m[2] === 'gain' || m[2] === 'q' ? !pass : true;
}

const piece = computed(() => !!shown.value && isPiece(shown.value.kind));
/** the line of a rig or starter that is listened to: the first that a sound comes from */
const heard = ref('');
watch(shown, (p) => {
  heard.value =
    (p?.content.tracks.find((t) => t.role === 'audio' && t.chain.length) ?? p?.content.tracks[0])?.id ?? '';
});
const mine = computed(() => audio.listening?.preset === props.id);
const playingTrack = computed(() =>
  mine.value ? (audio.listening!.session.tracks.find((t) => t.id === audio.listening!.track) ?? null) : null,
);
/** The preset alone with its spares, on the chosen sound. */
async function listen() {
  const ref = sounds.value.find((m) => m.id === material.value);
  const p = shown.value;
  if (!ref || !p) {
    ui.say('Choose a sound to listen on first.');
    return;
  }
  const { session: s, track } = listeningSession(p, ref, heard.value);
  await audio.listen(props.id, s, track);
}
watch([material, heard], () => {
  if (mine.value && audio.playing) void listen();
});

const defaults = useDefaults();
void defaults.load();
const isDefault = computed(() => defaults.presetOf('session:new') === props.id);
/** the preset that this one is a variant of */
const parentId = computed(() => detail.value?.parent ?? null);
const family = shallowRef<PresetEntry[]>([]);
const parentName = ref('');
watch(
  detail,
  async (d, old) => {
    if (!d || d.id === old?.id) return;
    try {
      family.value = (await api.presets({ parent: d.id, limit: 60 })).items;
      parentName.value = d.parent ? (await api.preset(d.parent)).name : '';
    } catch {
      parentName.value = '';
    }
  },
  { immediate: true },
);
const usesOpen = ref(false);
async function startNew() {
  try {
    await router.push(
      `/session/${(await api.createSession({ name: detail.value!.name, preset: props.id })).id}`,
    );
  } catch (e) {
    ui.fail(e);
  }
}
const meta = async (o: Parameters<typeof api.presetMeta>[1]) => {
  try {
    const r = await api.presetMeta(props.id, o);
    detail.value = { ...detail.value!, ...r };
    await shelf.refresh();
  } catch (e) {
    ui.fail(e);
  }
};
async function remove() {
  const name = detail.value!.name;
  try {
    await api.deletePreset(props.id);
    await router.replace('/shelf');
    await shelf.refresh();
    ui.say(
      `“${name}” was taken off the shelf. Sessions that use it keep their lines.`,
      'info',
      [
        {
          label: 'Bring it back',
          run: () => {
            void api.restorePreset(props.id).then(() => shelf.refresh(), ui.fail);
          },
        },
      ],
      15000,
    );
  } catch (e) {
    ui.fail(e);
  }
}
const title = ref<HTMLInputElement | null>(null);
</script>

<template>
  <article v-if="detail && shown" class="min-h-0 overflow-auto p-4" :aria-label="detail.name">
    <header class="mb-2 flex items-start gap-2">
      <div class="min-w-0 flex-1">
        <input
          ref="title"
          class="w-full rounded bg-transparent text-[20px] font-semibold"
          :value="detail.name"
          aria-label="Name of the preset"
          @change="meta({ name: ($event.target as HTMLInputElement).value.trim() || detail!.name })"
          @keydown.enter="title?.blur()"
        />
        <div class="flex flex-wrap items-center gap-1.5 text-[13px] text-soft">
          <span
            >{{ detail.kind }} · version {{ shown.version }} · saved at {{ shown.reference.tempo }} bpm,
            {{ shown.reference.sampleRate / 1000 }} kHz</span
          >
          <input
            class="field min-h-6 w-[150px] py-0 text-[12px]"
            :value="detail.category"
            aria-label="Category"
            @change="meta({ category: ($event.target as HTMLInputElement).value })"
          />
          <input
            class="field min-h-6 w-[170px] py-0 text-[12px]"
            :value="detail.summary.tags.join(', ')"
            aria-label="Tags"
            @change="
              meta({
                tags: ($event.target as HTMLInputElement).value
                  .split(',')
                  .map((t) => t.trim())
                  .filter(Boolean),
              })
            "
          />
        </div>
      </div>
      <button
        type="button"
        class="btn px-1.5"
        :aria-pressed="detail.pinned"
        :aria-label="detail.pinned ? 'Unpin' : 'Pin'"
        :class="{ 'border-rope text-rope': detail.pinned }"
        @click="meta({ pinned: !detail!.pinned })"
      >
        <Pin :size="15" aria-hidden="true" />
      </button>
      <button type="button" class="btn px-1.5" aria-label="Take off the shelf" @click="remove">
        <Trash2 :size="15" aria-hidden="true" />
      </button>
      <button
        type="button"
        class="btn"
        @click="
          sheets.open('compare', {
            a: { preset: id, version: shown.version },
            b: parentId ? { preset: parentId } : null,
          })
        "
      >
        Side by side …
      </button>
      <PopMenu
        label="Drop into a session"
        :items="
          () => [
            { label: 'A new session', run: () => void startNew() },
            ...(detail!.kind === 'starter'
              ? [
                  isDefault
                    ? { label: 'New sessions begin empty', run: () => void defaults.clear('session:new') }
                    : {
                        label: 'New sessions begin with it',
                        run: () => void defaults.set('session:new', id, `“${detail!.name}”`),
                      },
                ]
              : []),
            { heading: 'Drop into' },
            ...sessions.map((s) => ({ label: s.name, run: () => void drop.intoSession(s.id, [id]) })),
          ]
        "
        button-class="btn btn-main"
        >Drop into …</PopMenu
      >
    </header>
    <FlowPicture :content="content" :tempo="shown.reference.tempo" :piece="piece" />
    <div
      class="mt-2 flex flex-wrap items-center gap-2 rounded border border-rule bg-sheet p-2 text-[13px]"
      role="group"
      aria-label="Listen"
    >
      <label class="flex items-center gap-2"
        >Listen on
        <select v-model="material" class="field max-w-[220px] py-0.5" aria-label="Sound to listen on">
          <option v-for="m in sounds" :key="m.id" :value="m.id">{{ m.name.replace(/\.wav$/, '') }}</option>
        </select></label
      >
      <label v-if="content.tracks.length > 1" class="flex items-center gap-2"
        >through
        <select v-model="heard" class="field max-w-[160px] py-0.5" aria-label="Line to listen through">
          <option
            v-for="t in content.tracks.filter((x) => x.role !== 'master' && x.role !== 'folder')"
            :key="t.id"
            :value="t.id"
          >
            {{ t.name }}
          </option>
        </select></label
      >
      <button
        v-if="!mine || !audio.playing"
        type="button"
        class="btn btn-main px-2 py-0.5"
        :disabled="!sounds.length || audio.starting"
        @click="listen"
      >
        <Play :size="14" aria-hidden="true" /> Listen
      </button>
      <button v-else type="button" class="btn px-2 py-0.5" @click="audio.endListening()">
        <Square :size="13" aria-hidden="true" /> Stop
      </button>
      <template v-if="mine && playingTrack"
        ><CompareButton :track="playingTrack" /><Meter
          class="w-[150px]"
          :track="playingTrack.id"
          :name="detail.name"
      /></template>
      <span v-if="!sounds.length" class="text-soft"
        >Put a WAV file on a line of a session first; it can be chosen here.</span
      >
    </div>
    <div class="mt-3 grid grid-cols-[minmax(0,1fr)_232px] gap-4 text-[13px]">
      <div class="min-w-0">
        <section v-if="shown.note" class="mb-3" aria-label="What to touch first">
          <h2 class="font-semibold">What to touch first</h2>
          <p>{{ shown.note }}</p>
        </section>
        <section v-if="against" class="mb-3" aria-label="Differences">
          <h2 class="font-semibold">What differs from version {{ against.version }}</h2>
          <DifferenceTable :list="differences" />
        </section>
        <section
          v-for="t in [...content.tracks, ...content.spares]"
          :key="t.id"
          class="mb-2"
          :aria-label="t.name"
        >
          <h2 v-if="!piece" class="font-semibold">
            {{ t.name }}
            <span class="font-normal text-soft">{{
              content.spares.includes(t)
                ? `${t.role}, travels along`
                : `${t.channels === 1 ? 'mono' : 'stereo'}, level ${formatDb(t.level)}, pan ${formatPan(t.pan)}`
            }}</span>
          </h2>
          <p v-if="t.automation?.length" class="text-[13px] text-soft">
            Moves along the song: {{ lanesOf(t) }}
          </p>
          <div
            v-for="d in walkSlots(t.chain)"
            :key="d.id"
            class="border-t border-rule py-1"
            :style="{ paddingLeft: racksAround(t.chain, d.id).length * 14 + 'px' }"
          >
            <span class="font-semibold">{{ d.name }}</span>{{ ' ' }}
            <span class="text-soft"
              >{{ d.kind === 'rack' ? 'Rack' : DEVICE_TYPES[d.type].label
              }}{{ d.state === 'on' ? '' : `, ${d.state}` }}</span
            >
            <span
              v-for="v in d.kind === 'rack' ? rackValues(d) : values(d)"
              :key="v.id"
              class="ml-3 inline-block whitespace-nowrap text-[12px]"
              ><span class="text-soft">{{ v.label }}</span> {{ v.text }}</span
            >
          </div>
        </section>
      </div>
      <aside aria-label="Versions and uses">
        <h2 class="font-semibold">Versions</h2>
        <ul>
          <li v-for="v in detail.versions" :key="v.version" class="flex items-center gap-1 py-0.5">
            <button
              type="button"
              class="flex-1 rounded px-1 text-left hover:bg-sunk"
              :class="{ 'bg-rope-wash font-semibold': v.version === shown.version }"
              :aria-current="v.version === shown.version"
              @click="pick(v.version)"
            >
              {{ v.version }} <span class="font-normal text-soft">{{ when(v.createdAt) }}</span>
            </button>
            <button
              v-if="v.version !== shown.version"
              type="button"
              class="text-[12px] underline"
              :aria-label="`Compare with version ${v.version}`"
              @click="compareTo(against?.version === v.version ? 0 : v.version)"
            >
              {{ against?.version === v.version ? 'close' : 'differs?' }}
            </button>
          </li>
        </ul>
        <template v-if="parentName || family.length"
          ><h2 class="mt-3 font-semibold">Variants</h2>
          <p v-if="parentName">
            of <RouterLink :to="`/shelf/${parentId}`" class="underline">{{ parentName }}</RouterLink> ·
            <button
              type="button"
              class="underline"
              @click="sheets.open('compare', { a: { preset: parentId! }, b: { preset: id } })"
            >
              what differs
            </button>
          </p>
          <ul>
            <li v-for="v in family" :key="v.id" class="py-0.5">
              <RouterLink :to="`/shelf/${v.id}`" class="underline">{{ v.name }}</RouterLink> ·
              <button
                type="button"
                class="underline"
                :aria-label="`What differs in ${v.name}`"
                @click="sheets.open('compare', { a: { preset: id }, b: { preset: v.id } })"
              >
                differs?
              </button>
            </li>
          </ul></template
        >
        <h2 class="mt-3 font-semibold">Where used</h2>
        <button type="button" class="btn my-1 px-2 py-0.5 text-[12px]" @click="usesOpen = true">
          All sessions that use this …
        </button>
        <p v-if="!uses.length" class="text-soft">Not dropped anywhere yet.</p>
        <ul>
          <li v-for="u in uses" :key="u.id" class="py-0.5">
            <RouterLink :to="`/session/${u.session}`" class="underline">{{ u.name }}</RouterLink>{{ ' ' }}
            <span class="text-soft">version {{ u.version }}, {{ when(u.at) }}</span>
          </li>
        </ul>
      </aside>
    </div>
    <UsesSheet
      v-if="usesOpen"
      :preset="id"
      :name="detail.name"
      @close="
        usesOpen = false;
        load();
      "
    />
  </article>
  <p v-else-if="failed" class="m-auto" role="alert">
    {{ failed }} <button type="button" class="btn ml-2" @click="load">Try again</button>
  </p>
  <p v-else class="m-auto text-soft">Loading …</p>
</template>
