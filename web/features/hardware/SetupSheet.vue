<script setup lang="ts">
/**
 * The ports of the studio that this session is in, by name: what inputs, outputs and loops are checked
 * against, and what a drop chooses from.
 */
import { ref } from 'vue';
import { DEVICE_TYPES, type Session, type Slot } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import Sheet from '../../ui/Sheet.vue';

const emit = defineEmits<{ close: [] }>();
const session = useSession();
const was = session.doc!.setup;
const portsOfLoop = (slot: Slot, side: 'input' | 'output'): string[] => {
  const loop = slot.kind === 'device' ? DEVICE_TYPES[slot.type].loop : undefined;
  if (slot.kind !== 'device' || !loop) return [];
  return [String(slot.params[side === 'input' ? loop.back : loop.send])];
};
/** Names that lines and loops use already, for a beginning. */
const used = (side: 'input' | 'output') => [
  ...new Set(
    session.doc!.tracks.flatMap((t) => [
      ...(t[side].kind === 'hardware' ? [(t[side] as { port: string }).port] : []),
      ...t.chain.flatMap((d) => portsOfLoop(d, side)),
    ]),
  ),
];
const name = ref(was?.name ?? '');
const inputs = ref((was?.inputs ?? used('input')).join('\n'));
const outputs = ref((was?.outputs ?? used('output')).join('\n'));
const list = (text: string) =>
  [
    ...new Set(
      text
        .split('\n')
        .map((x) => x.trim().slice(0, 80))
        .filter(Boolean),
    ),
  ].slice(0, 256);
function number(side: 'In' | 'Out', n: number) {
  const all = Array.from({ length: n }, (_, i) => `${side} ${i + 1}`).join('\n');
  if (side === 'In') inputs.value = all;
  else outputs.value = all;
}
function keep() {
  if (
    session.edit('Hardware of this session', (s) => ({
      ...s,
      setup: {
        name: name.value.trim() || 'Studio',
        inputs: list(inputs.value),
        outputs: list(outputs.value),
      },
    }))
  ) {
    emit('close');
  }
}
function forget() {
  if (
    session.edit('Forget the hardware of this session', (s: Session) => {
      const { setup: _s, ...rest } = s;
      return rest;
    })
  ) {
    emit('close');
  }
}
</script>

<template>
  <Sheet title="Hardware of this session" :width="620" @close="emit('close')">
    <div class="flex flex-col gap-2 text-body">
      <label class="flex items-center gap-2"
        >Studio <input v-model="name" class="field flex-1" placeholder="Lightship cabin" maxlength="200"
      /></label>
      <div class="grid grid-cols-2 gap-4">
        <label class="flex flex-col"
          ><span class="mb-1 font-semibold">Inputs, one to a line</span
          ><textarea v-model="inputs" class="field h-[230px] resize-none" />
        </label>
        <label class="flex flex-col"
          ><span class="mb-1 font-semibold">Outputs, one to a line</span
          ><textarea v-model="outputs" class="field h-[230px] resize-none" />
        </label>
      </div>
      <p class="flex flex-wrap gap-2">
        <button
          v-for="n in [8, 16]"
          :key="n"
          type="button"
          class="btn px-2 py-0.5"
          @click="
            number('In', n);
            number('Out', n);
          "
        >
          Number {{ n }} in, {{ n }} out
        </button>
      </p>
      <p class="text-soft">
        The line check tells every line and loop that uses a port which is not here; a drop offers these
        names.
      </p>
    </div>
    <template #actions
      ><button v-if="was" type="button" class="btn mr-auto" @click="forget">Forget it</button
      ><button type="button" class="btn" @click="emit('close')">Cancel</button
      ><button type="button" class="btn btn-main" @click="keep">Keep it</button></template
    >
  </Sheet>
</template>
