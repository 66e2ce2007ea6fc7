<script setup lang="ts">
/**
 * The selected rack: its strands side by side, the blend between two of them, and its handles with what they
 * move.
 */
import { ArrowLeftRight, Plus, SlidersHorizontal, Trash2, X } from '@lucide/vue';
import { computed, ref } from 'vue';
import {
  BLEND_SPEC,
  COLOURS,
  STRAND_LEVEL,
  STRAND_PAN,
  colourOf,
  controllerName,
  controllersIn,
  findSlot,
  formatValue,
  freeController,
  handleConflicts,
  moversOf,
  racksAround,
  tieTarget,
  tieTargets,
  type Handle,
  type HandleConflict,
  type Rack,
  type Strand,
  type Tie,
  type Track,
  addHandle,
  addStrand,
  addTie,
  removeHandle,
  removeStrand,
  onHandle,
  onRack,
  onStrand,
  turnHandle,
  type Edit,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import PopMenu from '../../ui/PopMenu.vue';
import ValueField from '../../ui/ValueField.vue';
import { SlotHeader } from '../device/index.ts';
import { controllerNumber, learning } from './controller.ts';
import { typicalHandles } from './handles.ts';
import { HANDLE_VALUE, TIE_CURVE } from '../../ui/specs.ts';

const props = defineProps<{ track: Track; rack: Rack }>();
const session = useSession();
const ui = useUi();
const ids = computed(() => [props.track.id, props.rack.id] as const);
const edit = (label: string, e: Edit, key?: string) =>
  session.edit(`${label} of ${props.rack.name}`, e, key ? key + props.rack.id : undefined);
const strand = (s: Strand, label: string, change: Partial<Strand>, key?: string) =>
  edit(`${label} of ${s.name}`, onStrand(...ids.value, s.id, change), key ? key + s.id : undefined);
const handle = (h: Handle, label: string, change: Partial<Handle>, key?: string) =>
  edit(`${label} of ${h.name}`, onHandle(...ids.value, h.id, change), key ? key + h.id : undefined);
const turn = (h: Handle, v: number) => edit(h.name, turnHandle(...ids.value, h.id, v), 'turn' + h.id);
const onTie = (h: Handle, tie: Tie, change: Partial<Tie>, key?: string) =>
  edit(
    `Tie of ${h.name}`,
    (s) =>
      turnHandle(
        ...ids.value,
        h.id,
        h.value,
      )(
        onHandle(...ids.value, h.id, {
          ties: h.ties.map((t) => (t.id === tie.id ? { ...t, ...change } : t)),
        })(s),
      ),
    key ? key + tie.id : undefined,
  );

const blend = (change: Partial<Rack['blend']>, key?: string) =>
  edit('Blend', onRack(...ids.value, { blend: { ...props.rack.blend, ...change } }), key);
const movers = computed(() => [...racksAround(props.track.chain, props.rack.id), props.rack]);
const mark = (slot: string, param: string) => {
  const m = moversOf(movers.value, slot, param);
  return m.length
    ? {
        colour: m[0].handle.colour,
        text: `moved by ${m.map((x) => x.handle.name).join(' and ')}`,
        go: () => {
          open.value = m[0].handle.id;
          session.select(props.track.id, m[0].rack.id);
        },
      }
    : undefined;
};
const targets = computed(() => tieTargets(props.rack));
const open = ref<string | null>(null);
const target = (tie: Tie) => tieTarget(props.rack, tie);
function tieTo(h: Handle, key: string) {
  const t = targets.value.find((x) => `${x.slot}/${x.param}` === key);
  if (t) edit(`Tie ${t.label} to ${h.name}`, addTie(...ids.value, h, t));
}
/** An empty field takes the number off; what is no number is said, and the old one stands again. */
function setNumber(h: Handle, el: HTMLInputElement) {
  const n = el.value.trim() === '' ? undefined : controllerNumber(el.value);
  if (n === null) el.value = String(h.cc ?? '');
  else handle(h, 'Controller', { cc: n ?? null });
}
const free = (h: Handle) =>
  targets.value.filter((t) => !h.ties.some((x) => x.slot === t.slot && x.param === t.param));

function make(name: string, list: { slot: string; param: string; from: number; to: number }[]) {
  const a = addHandle(...ids.value, list, name);
  if (edit(`Add the handle ${name}`, a.edit)) open.value = a.id;
}
const newHandle = (): MenuEntry[] => [
  { heading: 'Usual ones' },
  ...typicalHandles(props.rack).map((t) => ({ label: t.label, run: () => make(t.name, t.ties) })),
  { heading: 'From one value' },
  ...targets.value.slice(0, 60).map((t) => ({
    label: t.label,
    run: () =>
      make(t.label.split(' · ').pop()!, [{ slot: t.slot, param: t.param, from: t.value, to: t.spec.max! }]),
  })),
  { heading: ' ' },
  { label: 'Empty handle', run: () => make('Handle', []) },
];

const conflicts = computed(() =>
  handleConflicts(session.doc!).filter((c) => c.handles.some((h) => h.rack === props.rack.id)),
);
/** Keeps one handle and takes the value or the controller from the others. */
function settle(c: HandleConflict, keep: string) {
  session.edit('Settle a conflict of handles', (s) =>
    c.handles
      .filter((h) => h.handle !== keep)
      .reduce(
        (x, h) =>
          onRack(h.track, h.rack, (r) => ({
            handles: r.handles.map((y) =>
              y.id === h.handle
                ? {
                    ...y,
                    ...(c.kind === 'controller'
                      ? { cc: null }
                      : { ties: y.ties.filter((t) => t.id !== h.tie) }),
                  }
                : y,
            ),
          }))(x),
        s,
      ),
  );
}
function renumber(c: HandleConflict) {
  session.edit('Give handles controllers of their own', (s) =>
    c.handles.slice(1).reduce((x, h) => {
      const cc = freeController(controllersIn(x.tracks.map((t) => t.chain)));
      return cc === null ? x : onHandle(h.track, h.rack, h.handle, { cc })(x);
    }, s),
  );
}
function learn(h: Handle) {
  learning.value =
    learning.value?.handle === h.id ? null : { track: props.track.id, rack: props.rack.id, handle: h.id };
  if (learning.value) ui.controller = true;
}
const where = (x: { track: string; rack: string }) => {
  const t = session.doc!.tracks.find((y) => y.id === x.track);
  return `${(t && findSlot(t.chain, x.rack)?.name) ?? '?'} on ${t?.name ?? '?'}`;
};
const nextColour = (c: string) => COLOURS[(COLOURS.findIndex((x) => x.id === c) + 1) % COLOURS.length].id;
</script>

<template>
  <section class="flex h-full min-h-0 flex-col" :aria-label="`${rack.name} on ${track.name}`">
    <SlotHeader :key="rack.id" :track="track" :slot-data="rack" />
    <div class="grid min-h-0 flex-1 grid-cols-[minmax(360px,2fr)_minmax(380px,3fr)] gap-4 overflow-auto p-2">
      <div class="min-w-0">
        <div class="mb-1 flex items-center gap-2">
          <h3 class="text-[12px] font-semibold">Strands</h3>
          <button
            type="button"
            class="btn px-2 py-0 text-[12px]"
            @click="edit('Add a strand', addStrand(...ids))"
          >
            <Plus :size="13" aria-hidden="true" /> Add a strand
          </button>
        </div>
        <div
          v-for="(s, i) in rack.strands"
          :key="s.id"
          class="grid grid-cols-[minmax(80px,1fr)_52px_124px_112px_24px] items-center gap-1.5 border-t border-rule py-0.5"
          role="group"
          :aria-label="`Strand ${s.name}`"
        >
          <input
            class="field h-[24px] px-1 py-0 text-[13px]"
            :value="s.name"
            :aria-label="`Name of strand ${i + 1}`"
            @change="strand(s, 'Name', { name: ($event.target as HTMLInputElement).value.trim() || s.name })"
            @keydown.enter="($event.target as HTMLInputElement).blur()"
          />
          <span class="flex gap-1"
            ><button
              type="button"
              class="switch"
              :aria-pressed="s.mute"
              :aria-label="`Mute ${s.name}`"
              @click="strand(s, 'Mute', { mute: !s.mute })"
            >
              M</button
            ><button
              type="button"
              class="switch"
              :aria-pressed="s.solo"
              :aria-label="`Solo ${s.name}`"
              @click="strand(s, 'Solo', { solo: !s.solo })"
            >
              S
            </button></span
          >
          <ValueField
            compact
            :spec="STRAND_LEVEL"
            :value="s.level"
            :name="`Level of ${s.name}`"
            :mark="mark(s.id, 'level')"
            @change="(v, sl) => strand(s, 'Level', { level: v as number }, sl ? 'level' : undefined)"
          />
          <ValueField
            compact
            :spec="STRAND_PAN"
            :value="s.pan"
            :name="`Pan of ${s.name}`"
            :mark="mark(s.id, 'pan')"
            @change="(v, sl) => strand(s, 'Pan', { pan: v as number }, sl ? 'pan' : undefined)"
          />
          <button
            type="button"
            class="btn btn-plain px-1 py-0"
            :disabled="rack.strands.length === 1"
            :aria-label="`Remove ${s.name}`"
            @click="edit(`Remove ${s.name}`, removeStrand(...ids, s.id))"
          >
            <Trash2 :size="13" aria-hidden="true" />
          </button>
        </div>
        <fieldset v-if="rack.strands.length > 1" class="mt-2 flex items-end gap-3">
          <legend class="text-[12px] font-semibold">
            Blend of {{ rack.strands[0].name }} and {{ rack.strands[1].name }}
          </legend>
          <select
            class="field h-[24px] py-0 text-[13px]"
            aria-label="How the two are blended"
            :value="rack.blend.mode"
            @change="blend({ mode: ($event.target as HTMLSelectElement).value as Rack['blend']['mode'] })"
          >
            <option value="off">by their levels only</option>
            <option value="power">equal power</option>
            <option value="linear">linear</option>
          </select>
          <ValueField
            v-if="rack.blend.mode !== 'off'"
            class="w-[190px]"
            :spec="BLEND_SPEC"
            :value="rack.blend.position"
            :label="`${rack.strands[0].name} to ${rack.strands[1].name}`"
            name="Blend"
            :mark="mark(rack.id, 'blend')"
            @change="(v, s) => blend({ position: v as number }, s ? 'blend' : undefined)"
          />
        </fieldset>
        <p class="mt-2 text-[12px] text-soft">
          Devices go into a strand on the line above: drag them there, or use the + at its end. All strands
          are lined up in time, whatever is in them.
        </p>
      </div>

      <div class="min-w-0">
        <div class="mb-1 flex items-center gap-2">
          <h3 class="text-[12px] font-semibold">Handles</h3>
          <PopMenu
            label="Add a handle"
            :items="newHandle"
            button-class="btn px-2 py-0 text-[12px]"
            :width="280"
            ><Plus :size="13" aria-hidden="true" /> Add a handle</PopMenu
          >
          <button
            type="button"
            class="btn px-2 py-0 text-[12px]"
            :aria-pressed="ui.controller"
            @click="ui.controller = !ui.controller"
          >
            <SlidersHorizontal :size="13" aria-hidden="true" /> Controller
          </button>
        </div>
        <p v-if="!rack.handles.length" class="text-[12px] text-soft">
          A handle moves several values at once, such as a drive up while an output goes down.
        </p>
        <div
          v-for="h in rack.handles"
          :key="h.id"
          class="border-t border-rule py-1"
          role="group"
          :aria-label="`Handle ${h.name}`"
        >
          <div
            class="grid grid-cols-[24px_minmax(80px,130px)_minmax(120px,1fr)_132px_24px] items-center gap-1.5"
          >
            <button
              type="button"
              class="grid h-6 w-6 place-items-center"
              :aria-label="`Colour of ${h.name}: ${colourOf(h.colour).label}; next`"
              @click="handle(h, 'Colour', { colour: nextColour(h.colour) })"
            >
              <span
                class="h-4 w-4 rounded-full border border-ink"
                :style="{ background: ui.swatch(h.colour) }"
              />
            </button>
            <input
              class="field h-[24px] px-1 py-0 text-[13px] font-semibold"
              :value="h.name"
              :aria-label="`Name of the handle ${h.name}`"
              @change="
                handle(h, 'Name', { name: ($event.target as HTMLInputElement).value.trim() || h.name })
              "
              @keydown.enter="($event.target as HTMLInputElement).blur()"
            />
            <ValueField
              compact
              :spec="HANDLE_VALUE"
              :value="h.value"
              :name="h.name"
              @change="(v) => turn(h, v as number)"
            />
            <span class="flex items-center gap-1"
              ><input
                class="field h-[24px] w-[46px] px-1 py-0 text-[12px]"
                inputmode="numeric"
                placeholder="CC"
                :value="h.cc ?? ''"
                :aria-label="`Controller number of ${h.name}`"
                @change="setNumber(h, $event.target as HTMLInputElement)"
                @keydown.enter="($event.target as HTMLInputElement).blur()"
              />
              <button
                type="button"
                class="btn px-1.5 py-0 text-[12px]"
                :aria-pressed="learning?.handle === h.id"
                :title="
                  h.cc === null ? 'Move a knob of the controller: its number is taken' : controllerName(h.cc)
                "
                @click="learn(h)"
              >
                {{ learning?.handle === h.id ? 'move …' : 'learn' }}
              </button></span
            >
            <button
              type="button"
              class="btn btn-plain px-1 py-0"
              :aria-label="`Remove the handle ${h.name}`"
              @click="edit(`Remove ${h.name}`, removeHandle(...ids, h.id))"
            >
              <Trash2 :size="13" aria-hidden="true" />
            </button>
          </div>
          <button
            type="button"
            class="ml-[30px] min-h-6 text-left text-[12px] text-soft underline"
            :aria-expanded="open === h.id"
            @click="open = open === h.id ? null : h.id"
          >
            {{
              h.ties.length
                ? h.ties
                    .map((t) => {
                      const x = target(t);
                      return x ? `${x.label} ${formatValue(x.spec, x.value)}` : 'gone';
                    })
                    .join(' · ')
                : 'moves nothing yet'
            }}
          </button>
          <div v-if="open === h.id" class="ml-[30px]">
            <div
              v-for="t in h.ties"
              :key="t.id"
              class="tie grid grid-cols-[minmax(90px,1fr)_104px_104px_96px_24px_24px] items-center gap-x-3 py-1.5 text-[12px]"
              role="group"
              :aria-label="`${h.name} moves ${target(t)?.label}`"
            >
              <span class="truncate" :title="target(t)?.label">{{ target(t)?.label ?? 'gone' }}</span>
              <template v-if="target(t)">
                <ValueField
                  :spec="target(t)!.spec"
                  :value="t.from"
                  label="from"
                  :name="`${target(t)!.label} at 0 %`"
                  @change="(v, s) => onTie(h, t, { from: v as number }, s ? 'from' : undefined)"
                />
                <ValueField
                  :spec="target(t)!.spec"
                  :value="t.to"
                  label="to"
                  :name="`${target(t)!.label} at 100 %`"
                  @change="(v, s) => onTie(h, t, { to: v as number }, s ? 'to' : undefined)"
                />
                <ValueField
                  :spec="TIE_CURVE"
                  :value="t.curve"
                  :name="`Curve of ${target(t)!.label}`"
                  @change="(v, s) => onTie(h, t, { curve: v as number }, s ? 'curve' : undefined)"
                />
                <button
                  type="button"
                  class="btn btn-plain px-0.5 py-0"
                  :aria-label="`Turn ${target(t)!.label} round`"
                  title="Inverse"
                  @click="onTie(h, t, { from: t.to, to: t.from })"
                >
                  <ArrowLeftRight :size="13" aria-hidden="true" />
                </button>
              </template>
              <button
                type="button"
                class="btn btn-plain px-0.5 py-0"
                :aria-label="`Untie ${target(t)?.label}`"
                @click="handle(h, 'Untie', { ties: h.ties.filter((y) => y.id !== t.id) })"
              >
                <X :size="13" aria-hidden="true" />
              </button>
            </div>
            <select
              class="field mt-1 h-[24px] max-w-full py-0 text-[12px]"
              :aria-label="`Tie a value to ${h.name}`"
              value=""
              @change="
                tieTo(h, ($event.target as HTMLSelectElement).value);
                ($event.target as HTMLSelectElement).value = '';
              "
            >
              <option value="">Tie another value …</option>
              <option v-for="t in free(h)" :key="t.slot + t.param" :value="`${t.slot}/${t.param}`">
                {{ t.label }}
              </option>
            </select>
          </div>
        </div>
        <div
          v-for="c in conflicts"
          :key="c.text"
          class="mt-1 rounded border border-warn px-2 py-1 text-[12px]"
          role="status"
        >
          <p class="text-warn">{{ c.text }}</p>
          <span class="flex flex-wrap gap-1"
            ><button
              v-for="h in c.handles"
              :key="h.handle"
              type="button"
              class="btn px-1.5 py-0"
              :title="where(h)"
              @click="settle(c, h.handle)"
            >
              Only {{ h.name }}</button
            ><button
              v-if="c.kind === 'controller'"
              type="button"
              class="btn px-1.5 py-0"
              @click="renumber(c)"
            >
              A controller for each
            </button></span
          >
        </div>
      </div>
    </div>
  </section>
</template>

<style scoped>
/* the numbers stand close above these sliders: both must be easy to hit */
.tie :deep(.thread) {
  height: 24px;
}
</style>
