<script setup lang="ts">
/** Every loose end of what is dropped and every port that it names, with what each is tied to here. */
import { formatDb, type DropPlan, type Preset } from '../../../core/index.ts';
import { chosenIn } from '../../ui/events.ts';
import { UnitChoices } from '../hardware/index.ts';
import TermNote from '../../ui/TermNote.vue';
import { useDrop } from './store.ts';
import { END_WORDS } from './words.ts';

const props = defineProps<{ plan: DropPlan; preset: Preset }>();
const drop = useDrop();
type Tied = DropPlan['ends'][number];
type Port = DropPlan['ports'][number];

/** How loud a send is that leaves. */
function sendText({ end }: Tied): string {
  if (end.kind !== 'send') return '';
  const sends = props.preset.content.tracks.flatMap((t) => t.sends);
  const send = sends.find((s) => s.to === end.id);
  return send ? `, ${formatDb(send.level)} ${send.tap}-fader` : '';
}
function choiceText(choice: Tied['choices'][number]): string {
  if (choice.kind === 'track') return `Tie to “${choice.label}”`;
  return choice.kind === 'master' ? 'To the master' : choice.label;
}
const reasonOf = (tied: Tied) => tied.choices.find((c) => c.id === tied.chosen)?.reason;
const tie = (tied: Tied, e: Event) => (drop.ties = { ...drop.ties, [tied.end.id]: chosenIn(e) });
const portText = (p: Port) => (p.side === 'input' ? 'Input from' : 'Output to');
const connect = (p: Port, e: Event) =>
  (drop.ports = { ...drop.ports, [`${p.side}/${p.port}`]: chosenIn(e) || null });
</script>

<template>
  <section v-if="plan.ends.length" aria-label="Loose ends">
    <h3 class="mb-1 font-semibold">Loose ends</h3>
    <TermNote word="loose end" />
    <table class="w-full">
      <tbody>
        <tr v-for="e in plan.ends" :key="e.end.id" class="border-t border-rule">
          <td class="w-[260px] py-1 pr-2">
            {{ END_WORDS[e.end.kind] }} <strong>{{ e.end.label }}</strong><span class="text-soft">{{
              sendText(e)
            }}</span>
          </td>
          <td class="w-[280px] py-1 pr-2">
            <select
              class="field w-full py-0.5"
              :value="e.chosen"
              :aria-label="`${END_WORDS[e.end.kind]} ${e.end.label}: tie to`"
              @change="tie(e, $event)"
            >
              <option v-for="c in e.choices" :key="c.id" :value="c.id">{{ choiceText(c) }}</option>
            </select>
          </td>
          <td class="py-1 text-soft">{{ reasonOf(e) }}<span v-if="e.decided"> · your choice</span></td>
        </tr>
      </tbody>
    </table>
  </section>

  <UnitChoices :units="plan.units" @choose="(path, id) => (drop.units = { ...drop.units, [path]: id })" />

  <section v-if="plan.ports.length" aria-label="Hardware">
    <h3 class="mb-1 font-semibold">Hardware by name</h3>
    <div
      v-for="p in plan.ports"
      :key="p.side + p.port"
      class="grid grid-cols-[260px_280px_1fr] items-center gap-2 border-t border-rule py-1"
    >
      <span
        >{{ portText(p) }} <strong>{{ p.port }}</strong></span
      >
      <select
        class="field py-0.5"
        :value="p.chosen ?? ''"
        :aria-label="`${portText(p)} ${p.port}: here`"
        @change="connect(p, $event)"
      >
        <option v-for="c in p.choices" :key="c" :value="c">{{ c }}</option>
        <option value="">not connected</option></select
      ><span class="text-soft">{{ p.reason }}</span>
    </div>
  </section>
</template>
