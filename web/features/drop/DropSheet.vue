<script setup lang="ts">
/**
 * The look before a drop: what is added, what each loose end is tied to and why, what is adapted, what is
 * renamed. Nothing happens until Drop.
 */
import { computed } from 'vue';
import { PARTS, formatDb, isPiece, togglePart, type Parts } from '../../../core/index.ts';
import { useDrop } from './store.ts';
import { useSession } from '../../document/doc.ts';
import Sheet from '../../ui/Sheet.vue';
import { FlowPicture } from '../picture/index.ts';
import { END_WORDS } from './words.ts';

const drop = useDrop();
const session = useSession();
const plan = computed(() => drop.plan!);
const preset = computed(() => drop.preset!);
const onto = computed(() =>
  drop.place.kind === 'onto'
    ? session.doc!.tracks.find((t) => t.id === (drop.place as { track: string }).track)
    : null,
);
const has = computed(
  () =>
    new Set([...preset.value.content.parts, ...Object.values(preset.value.content.trackParts ?? {}).flat()]),
);
// an input, a folder and sounds belong to lines of their own
const offered = computed(() =>
  PARTS.filter((p) => has.value.has(p.id) && (!onto.value || !['input', 'folder', 'clips'].includes(p.id))),
);
const adds = computed(() => {
  const out: string[] = [];
  for (const t of plan.value.tracks) {
    out.push(`a line “${t.name}” with ${t.chain.length} ${t.chain.length === 1 ? 'device' : 'devices'}`);
  }
  for (const t of plan.value.spares) {
    out.push(
      `a ${t.role} “${t.name}”${t.chain.length ? ` with ${t.chain.length} ${t.chain.length === 1 ? 'device' : 'devices'}` : ', empty'}`,
    );
  }
  return out;
});
const many = computed(() => 1 + drop.also.filter((id) => id !== onto.value?.id).length);
const chosen = computed(() => session.together);
const undecided = computed(
  () =>
    plan.value.ends.filter((e) => e.chosen === 'open').length +
    plan.value.ports.filter((p) => p.chosen === null).length,
);
const tie = (end: string, choice: string) => {
  drop.ties = { ...drop.ties, [end]: choice };
};
const part = (id: Parts[number]) => {
  drop.parts = togglePart(plan.value.parts, id);
};
const target = computed({
  get: () => {
    if (drop.place.kind !== 'onto') return '';
    if (drop.also.length) return '*';
    return drop.place.track;
  },
  set: (id: string) => {
    drop.parts = null;
    drop.also = id === '*' ? chosen.value : [];
    const track = id === '*' ? chosen.value[0] : id;
    drop.place = track ? { kind: 'onto', track, chain: 'replace' } : { kind: 'new' };
  },
});
const chainMode = computed({
  get: () => (drop.place.kind === 'onto' ? drop.place.chain : 'replace'),
  set: (chain: 'replace' | 'append' | 'before' | 'at') => {
    if (drop.place.kind === 'onto') drop.place = { ...drop.place, chain };
  },
});
const sendLevel = (end: string) => {
  const s = preset.value.content.tracks.flatMap((t) => t.sends).find((x) => x.to === end);
  return s ? `, ${formatDb(s.level)} ${s.tap}-fader` : '';
};
</script>

<template>
  <Sheet
    v-if="drop.preset && drop.plan"
    :title="drop.borrowed ? `Borrow ${preset.name}` : `Drop “${preset.name}”, version ${preset.version}`"
    :width="900"
    @close="drop.cancel()"
  >
    <div class="flex flex-col gap-3 text-[13px]">
      <FlowPicture :content="preset.content" :tempo="session.doc!.tempo" :piece="isPiece(preset.kind)" />
      <div class="flex flex-wrap items-center gap-x-4 gap-y-1">
        <label class="flex items-center gap-2"
          ><span class="font-semibold">Where</span>
          <select v-model="target" class="field max-w-[240px] py-0.5" aria-label="Where to drop">
            <option value="">
              {{ preset.content.tracks.length > 1 ? 'As new lines' : 'As a new line' }}
            </option>
            <option v-if="chosen.length > 1 && preset.content.tracks.length === 1" value="*">
              Onto the {{ chosen.length }} chosen lines
            </option>
            <template v-if="preset.content.tracks.length === 1"
              ><option v-for="t in session.doc!.tracks" :key="t.id" :value="t.id">
                Onto {{ t.name }}
              </option></template
            >
          </select></label
        >
        <label v-if="onto && plan.parts.includes('chain')" class="flex items-center gap-2"
          ><span>Chain</span>
          <select v-model="chainMode" class="field py-0.5" aria-label="How the chain goes in">
            <option value="replace">
              replaces {{ many > 1 ? 'their devices' : `its ${onto.chain.length} devices` }}
            </option>
            <option value="append">after its devices</option>
            <option value="before">before its devices</option>
            <option v-if="chainMode === 'at'" value="at">at the chosen spot</option>
          </select></label
        >
      </div>
      <fieldset class="flex flex-wrap items-center gap-x-3 gap-y-1">
        <legend class="float-left mr-3 font-semibold">Parts</legend>
        <label v-for="p in offered" :key="p.id" class="flex items-center gap-1" :title="p.help"
          ><input
            type="checkbox"
            class="accent-[var(--rope)]"
            :checked="plan.parts.includes(p.id)"
            @change="part(p.id)"
          />
          {{ p.label }}</label
        >
      </fieldset>

      <section aria-label="Added">
        <h3 class="font-semibold">Added</h3>
        <ul class="list-disc pl-5" :class="{ 'columns-2': adds.length > 6 }">
          <li v-for="a in adds" :key="a">{{ a }}</li>
          <li v-if="onto">
            to {{ many > 1 ? `${many} lines` : `“${onto.name}”` }}:
            {{
              plan.parts.map((p) => PARTS.find((x) => x.id === p)!.label.toLowerCase()).join(', ') ||
              'nothing'
            }}
          </li>
        </ul>
      </section>

      <section v-if="plan.ends.length" aria-label="Loose ends">
        <h3 class="mb-1 font-semibold">Loose ends</h3>
        <table class="w-full">
          <tbody>
            <tr v-for="e in plan.ends" :key="e.end.id" class="border-t border-rule">
              <td class="w-[260px] py-1 pr-2">
                {{ END_WORDS[e.end.kind] }} <strong>{{ e.end.label }}</strong><span class="text-soft">{{
                  e.end.kind === 'send' ? sendLevel(e.end.id) : ''
                }}</span>
              </td>
              <td class="w-[280px] py-1 pr-2">
                <select
                  class="field w-full py-0.5"
                  :value="e.chosen"
                  :aria-label="`${END_WORDS[e.end.kind]} ${e.end.label}: tie to`"
                  @change="tie(e.end.id, ($event.target as HTMLSelectElement).value)"
                >
                  <option v-for="c in e.choices" :key="c.id" :value="c.id">
                    {{
                      c.kind === 'track'
                        ? `Tie to “${c.label}”`
                        : c.kind === 'master'
                          ? 'To the master'
                          : c.label
                    }}
                  </option>
                </select>
              </td>
              <td class="py-1 text-soft">
                {{ e.choices.find((c) => c.id === e.chosen)?.reason
                }}<span v-if="e.decided"> · your choice</span>
              </td>
            </tr>
          </tbody>
        </table>
      </section>

      <section v-if="plan.ports.length" aria-label="Hardware">
        <h3 class="mb-1 font-semibold">Hardware by name</h3>
        <div
          v-for="p in plan.ports"
          :key="p.side + p.port"
          class="grid grid-cols-[260px_280px_1fr] items-center gap-2 border-t border-rule py-1"
        >
          <span
            >{{ p.side === 'input' ? 'Input from' : 'Output to' }} <strong>{{ p.port }}</strong></span
          >
          <select
            class="field py-0.5"
            :value="p.chosen ?? ''"
            :aria-label="`${p.side === 'input' ? 'Input from' : 'Output to'} ${p.port}: here`"
            @change="
              drop.ports = {
                ...drop.ports,
                [`${p.side}/${p.port}`]: ($event.target as HTMLSelectElement).value || null,
              }
            "
          >
            <option v-for="c in p.choices" :key="c" :value="c">{{ c }}</option>
            <option value="">not connected</option></select
          ><span class="text-soft">{{ p.reason }}</span>
        </div>
      </section>
      <section v-if="plan.standIns.length" aria-label="Not built in">
        <h3 class="mb-1 font-semibold">Devices that this program cannot run</h3>
        <label
          v-for="x in plan.standIns"
          :key="x.path"
          class="flex items-baseline gap-2 border-t border-rule py-1"
          ><input
            type="checkbox"
            class="accent-[var(--rope)]"
            :checked="x.on"
            @change="drop.standIns = { ...drop.standIns, [x.path]: !x.on }"
          /><span class="w-[230px]">{{ x.label }}</span
          ><span class="w-[230px]">{{
            x.on ? `${x.typeLabel} takes its place` : 'kept as it is, its sound passed through'
          }}</span
          ><span class="text-soft">{{ x.reason }}</span></label
        >
      </section>
      <section v-if="plan.adaptations.length" aria-label="Adapted">
        <h3 class="mb-1 font-semibold">Adapted to this session</h3>
        <label
          v-for="a in plan.adaptations"
          :key="a.path"
          class="flex items-baseline gap-2 border-t border-rule py-1"
          ><input
            type="checkbox"
            class="accent-[var(--rope)]"
            :checked="a.on"
            @change="drop.adapt = { ...drop.adapt, [a.path]: !a.on }"
          /><span class="w-[230px]">{{ a.label }}</span
          ><span class="w-[170px] whitespace-nowrap"
            >{{ a.fromText }} → <strong>{{ a.on ? a.toText : a.fromText }}</strong></span
          ><span class="text-soft">{{ a.on ? a.reason : 'kept as it was saved' }}</span></label
        >
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
      <section v-if="preset.note" aria-label="Note">
        <h3 class="font-semibold">What to touch first</h3>
        <p>{{ preset.note }}</p>
      </section>
      <p
        v-for="p in plan.problems"
        :key="p.message"
        role="alert"
        class="rounded border border-bad px-2 py-1 text-bad"
      >
        {{ p.message }}
      </p>
    </div>
    <template #actions>
      <span v-if="undecided" class="mr-auto text-[13px] text-warn"
        >{{ undecided === 1 ? 'One loose end is left open' : `${undecided} loose ends are left open` }}; it
        can be tied later.</span
      >
      <button type="button" class="btn" @click="drop.cancel()">Cancel</button>
      <button
        type="button"
        class="btn btn-main"
        :disabled="plan.problems.length > 0 || plan.parts.length === 0"
        @click="drop.apply()"
      >
        Drop
      </button>
    </template>
  </Sheet>
</template>
