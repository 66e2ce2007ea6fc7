<script setup lang="ts">
/** The sends of a line, one row each: on, level, tap, whether it follows the line's pan. */
import { GripVertical, Pin, PinOff, Plus, Trash2 } from '@lucide/vue';
import { computed, ref } from 'vue';
import {
  addSend,
  arranged,
  destinations,
  freed,
  movedSend,
  onSend,
  onTrack,
  removeSend,
  type Id,
  type Send,
  type Track,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { chosenIn } from '../../ui/events.ts';
import { PAN, SEND_LEVEL } from '../../ui/specs.ts';
import PopMenu from '../../ui/PopMenu.vue';
import ValueField from '../../ui/ValueField.vue';

const props = defineProps<{ track: Track }>();
const session = useSession();
const nameOf = (send: Send) => session.nameOf(send.to);
const edit = (send: Send, label: string, change: Partial<Send>, key?: string) =>
  session.edit(
    `${label} of ${props.track.name}`,
    onSend(props.track.id, send.id, change),
    key ? key + send.id : undefined,
  );
const setTap = (send: Send, e: Event) => edit(send, 'Send tap', { tap: chosenIn(e) as Send['tap'] });
const setPanMode = (send: Send, e: Event) =>
  edit(send, 'Send pan', { panMode: chosenIn(e) as Send['panMode'] });
const remove = (send: Send) =>
  session.edit(`Remove a send of ${props.track.name}`, removeSend(props.track.id, send.id));

/** The send that is dragged, and the row that it is over. */
const dragging = ref<Id | null>(null);
const over = ref<number | null>(null);
function move(id: Id, to: number) {
  session.edit(
    `Order of the sends of ${props.track.name}`,
    onTrack(props.track.id, (t) => ({ sends: movedSend(t.sends, id, to) })),
  );
}
function take(e: DragEvent, send: Send) {
  dragging.value = send.id;
  e.dataTransfer?.setData('text/plain', nameOf(send));
}
function pass(e: DragEvent, i: number) {
  if (!dragging.value) return;
  e.preventDefault();
  over.value = i;
}
function letGo(e: DragEvent, i: number) {
  if (!dragging.value) return;
  e.preventDefault();
  move(dragging.value, i);
  end();
}
function end() {
  dragging.value = over.value = null;
}
/** Holds a send at its place among the sends, or lets it go again. */
function hold(send: Send, i: number) {
  const isHeld = send.place !== undefined;
  const now = (s: Send) => (isHeld ? freed(s) : { ...s, place: i + 1 });
  session.edit(
    isHeld ? `Free place for ${nameOf(send)}` : `${nameOf(send)} always as send ${i + 1}`,
    onTrack(props.track.id, (t) => ({
      sends: arranged(t.sends.map((s) => (s.id === send.id ? now(s) : s))),
    })),
  );
}
const holdText = (send: Send, i: number) =>
  send.place ? `${nameOf(send)} is always send ${send.place}` : `Always as send ${i + 1}`;

const sendable = computed(() =>
  destinations(session.doc!, props.track, true).filter(
    (to) => !props.track.sends.some((send) => send.to === to.id),
  ),
);
const places = () =>
  sendable.value.map((to) => ({
    label: to.name,
    run: () => {
      session.edit(`Send ${props.track.name} to ${to.name}`, addSend(props.track.id, to.id));
    },
  }));
</script>

<template>
  <fieldset class="min-w-0">
    <legend class="mb-1 text-note font-semibold">Sends</legend>
    <p v-if="!track.sends.length" class="text-note text-soft">No sends. A new one starts at −18 dB.</p>
    <div
      v-for="(s, i) in track.sends"
      :key="s.id"
      class="grid grid-cols-[24px_minmax(84px,1fr)_104px_60px_68px_24px_24px] items-center gap-0.5 py-0.5"
      :class="{ 'rounded bg-rope-wash': over === i }"
      role="group"
      :aria-label="`Send to ${nameOf(s)}`"
      @dragover="pass($event, i)"
      @drop="letGo($event, i)"
      @dragend="end"
    >
      <button
        type="button"
        class="grid h-6 w-6 cursor-grab place-items-center text-soft"
        draggable="true"
        :aria-label="`Move the send to ${nameOf(s)}`"
        title="Drag it, or arrow keys"
        data-arrows
        @dragstart="take($event, s)"
        @keydown.up.prevent.stop="move(s.id, i - 1)"
        @keydown.down.prevent.stop="move(s.id, i + 1)"
      >
        <GripVertical :size="13" aria-hidden="true" />
      </button>
      <label class="flex items-center gap-1 truncate"
        ><input
          type="checkbox"
          class="m-1 accent-[var(--rope)]"
          :checked="s.on"
          :aria-label="`Send to ${nameOf(s)} on`"
          @change="edit(s, 'Send', { on: !s.on })"
        /><span class="truncate" :title="nameOf(s)">{{ nameOf(s) }}</span></label
      >
      <ValueField
        compact
        :spec="SEND_LEVEL"
        :value="s.level"
        :name="`Send to ${nameOf(s)}`"
        @change="(v, sliding) => edit(s, 'Send level', { level: v as number }, sliding ? 'send' : undefined)"
      />
      <select
        class="field h-[22px] px-1 py-0 text-note"
        :aria-label="`Tap of the send to ${nameOf(s)}`"
        :value="s.tap"
        @change="setTap(s, $event)"
      >
        <option value="post">post</option>
        <option value="pre">pre</option>
      </select>
      <select
        class="field h-[22px] px-1 py-0 text-note"
        :aria-label="`Pan of the send to ${nameOf(s)}`"
        :value="s.panMode"
        title="follows the line’s pan, or its own"
        @change="setPanMode(s, $event)"
      >
        <option value="follow">follow</option>
        <option value="own">own</option>
      </select>
      <button
        type="button"
        class="btn btn-plain px-1 py-0"
        :aria-pressed="s.place !== undefined"
        :aria-label="holdText(s, i)"
        :title="holdText(s, i)"
        @click="hold(s, i)"
      >
        <component :is="s.place ? Pin : PinOff" :size="13" aria-hidden="true" />
      </button>
      <button
        type="button"
        class="btn btn-plain px-1 py-0"
        :aria-label="`Remove the send to ${nameOf(s)}`"
        @click="remove(s)"
      >
        <Trash2 :size="13" aria-hidden="true" />
      </button>
      <ValueField
        v-if="s.panMode === 'own'"
        class="col-start-3"
        compact
        :spec="PAN"
        :value="s.pan"
        :name="`Pan of the send to ${nameOf(s)}`"
        @change="(v, sliding) => edit(s, 'Send pan', { pan: v as number }, sliding ? 'sendpan' : undefined)"
      />
    </div>
    <PopMenu
      v-if="sendable.length"
      label="Add a send"
      :items="places"
      button-class="btn mt-1 px-2 py-0.5 text-note"
      ><Plus :size="13" aria-hidden="true" /> Add a send</PopMenu
    >
    <slot />
  </fieldset>
</template>
