<script setup lang="ts">
/** What will be other than it was saved: stand-ins, adaptations, names, and what is good to know. */
import { computed } from 'vue';
import type { DropPlan } from '../../../core/index.ts';
import { useDrop } from './store.ts';

const props = defineProps<{ plan: DropPlan }>();
const drop = useDrop();
type StandIn = DropPlan['standIns'][number];
type Adaptation = DropPlan['adaptations'][number];
const turnStandIn = (s: StandIn) => (drop.standIns = { ...drop.standIns, [s.path]: !s.on });
const turnAdaptation = (a: Adaptation) => (drop.adapt = { ...drop.adapt, [a.path]: !a.on });
/** What fits the voice is the person's to tick; what the session asks for is made unless it is taken back. */
const isFit = (a: Adaptation) => drop.fit.some((value) => a.path.endsWith(`/${value.path}`));
const fits = computed(() => props.plan.adaptations.filter(isFit));
const adapted = computed(() => props.plan.adaptations.filter((a) => !isFit(a)));
const standInText = (s: StandIn) =>
  s.on ? `${s.typeLabel} takes its place` : 'kept as it is, its sound passed through';
</script>

<template>
  <section v-if="plan.standIns.length" aria-label="Not built in">
    <h3 class="mb-1 font-semibold">Devices that this program cannot run</h3>
    <label
      v-for="s in plan.standIns"
      :key="s.path"
      class="flex items-baseline gap-2 border-t border-rule py-1"
      ><input type="checkbox" class="accent-[var(--rope)]" :checked="s.on" @change="turnStandIn(s)" /><span
        class="w-[230px]"
        >{{ s.label }}</span
      ><span class="w-[230px]">{{ standInText(s) }}</span
      ><span class="text-soft">{{ s.reason }}</span></label
    >
  </section>
  <section v-if="fits.length" aria-label="What fits its sound">
    <h3 class="mb-1 font-semibold">Would fit the sound on this line</h3>
    <label v-for="a in fits" :key="a.path" class="flex items-baseline gap-2 border-t border-rule py-1"
      ><input type="checkbox" class="accent-[var(--rope)]" :checked="a.on" @change="turnAdaptation(a)" /><span
        class="w-[230px]"
        >{{ a.label }}</span
      ><span class="w-[170px] whitespace-nowrap"
        >{{ a.fromText }} → <strong>{{ a.toText }}</strong></span
      ><span class="flex-1 text-soft">{{ a.reason }}</span></label
    >
  </section>
  <section v-if="adapted.length" aria-label="Adapted">
    <h3 class="mb-1 font-semibold">Adapted to this session</h3>
    <label v-for="a in adapted" :key="a.path" class="flex items-baseline gap-2 border-t border-rule py-1"
      ><input type="checkbox" class="accent-[var(--rope)]" :checked="a.on" @change="turnAdaptation(a)" /><span
        class="w-[230px]"
        >{{ a.label }}</span
      ><span class="w-[170px] whitespace-nowrap"
        >{{ a.fromText }} → <strong>{{ a.on ? a.toText : a.fromText }}</strong></span
      ><span class="text-soft">{{ a.on ? a.reason : 'kept as it was saved' }}</span></label
    >
  </section>
  <p v-if="drop.isFitting" role="status" class="text-soft">Listening to the line, for what fits it …</p>
  <section v-if="drop.notFitted.length" aria-label="Not fitted">
    <h3 class="font-semibold">Not fitted to its sound</h3>
    <p v-for="r in drop.notFitted" :key="r.label + r.reason" class="text-soft">
      {{ r.label }}: {{ r.reason }}
    </p>
  </section>
  <section v-if="plan.renames.length" aria-label="Renamed">
    <h3 class="font-semibold">Renamed</h3>
    <p v-for="r in plan.renames" :key="r.local">
      “{{ r.from }}” → <strong>“{{ r.to }}”</strong>{{ ' ' }}
      <span class="text-soft">the name is taken in this session</span>
    </p>
  </section>
  <section v-if="plan.facts.length" aria-label="Good to know">
    <h3 class="font-semibold">Good to know</h3>
    <p v-for="f in plan.facts" :key="f" class="text-soft">{{ f }}</p>
  </section>
</template>
