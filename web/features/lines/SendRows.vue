<script setup lang="ts">
/** The sends of a line, one row each: on, level, tap, whether it follows the line's pan. */
import { Plus, Trash2 } from '@lucide/vue';
import { computed } from 'vue';
import { addSend, destinations, onSend, removeSend, type Send, type Track } from '../../../core/index.ts';
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
      v-for="s in track.sends"
      :key="s.id"
      class="grid grid-cols-[minmax(70px,1fr)_132px_62px_62px_24px] items-center gap-1.5 py-0.5"
      role="group"
      :aria-label="`Send to ${nameOf(s)}`"
    >
      <label class="flex items-center gap-1 truncate"
        ><input
          type="checkbox"
          class="accent-[var(--rope)]"
          :checked="s.on"
          :aria-label="`Send to ${nameOf(s)} on`"
          @change="edit(s, 'Send', { on: !s.on })"
        /><span class="truncate">{{ nameOf(s) }}</span></label
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
        :aria-label="`Remove the send to ${nameOf(s)}`"
        @click="remove(s)"
      >
        <Trash2 :size="13" aria-hidden="true" />
      </button>
      <ValueField
        v-if="s.panMode === 'own'"
        class="col-start-2"
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
