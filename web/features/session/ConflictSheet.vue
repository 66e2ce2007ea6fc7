<script setup lang="ts">
/** Two windows changed the same value: both are shown, one is chosen; nothing is overwritten silently. */
import { computed } from 'vue';
import {
  DEVICE_TYPES,
  devicesIn,
  formatDb,
  formatPan,
  formatValue,
  type Session,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import Sheet from '../../ui/Sheet.vue';

const session = useSession();
const rows = computed(() =>
  (session.conflicts?.list ?? []).map((c) => ({
    label: nameOf(c.path, session.conflicts!.theirs),
    mine: show(c.path, c.mine),
    theirs: show(c.path, c.theirs),
  })),
);
function paramOf(path: string) {
  const m = /\/([^/]+)\/params\/(.+)$/.exec(path);
  const d = m
    ? session.conflicts?.theirs.tracks.flatMap((t) => devicesIn(t.chain)).find((x) => x.id === m[1])
    : undefined;
  return d && m ? { device: d, spec: DEVICE_TYPES[d.type].byId[m[2]] } : null;
}
function nameOf(path: string, s: Session): string {
  const track = s.tracks.find((t) => path.includes(`/tracks/${t.id}`))?.name;
  const p = paramOf(path);
  return [track, p ? `${p.device.name} · ${p.spec?.label}` : path.split('/').pop()]
    .filter(Boolean)
    .join(' · ');
}
function show(path: string, v: unknown): string {
  if (v === undefined) return 'deleted';
  const p = paramOf(path);
  if (p?.spec) return formatValue(p.spec, v as never);
  const key = path.split('/').pop();
  if (typeof v === 'object') return 'changed';
  if (typeof v === 'number' && key === 'level') return formatDb(v);
  if (typeof v === 'number' && key === 'pan') return formatPan(v);
  return String(v);
}
</script>

<template>
  <Sheet v-if="session.conflicts" title="Changed in two windows" @close="session.settle('mine')">
    <p class="mb-2">
      Another window changed the same values. Everything else from both windows is in; for these, choose one.
    </p>
    <table class="w-full text-body">
      <thead>
        <tr class="text-left text-soft">
          <th class="font-normal">Value</th>
          <th class="font-normal">This window</th>
          <th class="font-normal">The other</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.label" class="border-t border-rule">
          <td class="py-1 pr-2">{{ r.label }}</td>
          <td class="pr-2">{{ r.mine }}</td>
          <td>{{ r.theirs }}</td>
        </tr>
      </tbody>
    </table>
    <template #actions
      ><button type="button" class="btn" @click="session.settle('theirs')">Take the other window’s</button
      ><button type="button" class="btn btn-main" @click="session.settle('mine')">
        Keep this window’s
      </button></template
    >
  </Sheet>
</template>
