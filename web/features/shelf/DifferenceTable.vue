<script setup lang="ts">
/** What differs, value by value, in words and units: from what to what, or between two that are named. */
import type { Difference } from '../../../core/index.ts';
import VirtualRows from '../../ui/VirtualRows.vue';

withDefaults(defineProps<{ list: Difference[]; titles?: [string, string]; none?: string }>(), {
  titles: undefined,
  none: 'Nothing in the settings.',
});
</script>

<template>
  <p v-if="!list.length" class="text-soft">{{ none }}</p>
  <table v-else class="w-full">
    <thead v-if="titles">
      <tr class="text-left text-soft">
        <th class="font-normal">Value</th>
        <th class="font-normal">{{ titles[0] }}</th>
        <th class="font-normal">{{ titles[1] }}</th>
      </tr>
    </thead>
    <VirtualRows
      v-slot="{ item: d }"
      as="tbody"
      :items="list"
      :key-of="(d) => d.label + d.kind"
      :estimate="24"
      row-class="border-t border-rule"
    >
      <td class="py-0.5 pr-2">{{ d.label }}</td>
      <td class="pr-2">{{ d.from }}</td>
      <td>
        <template v-if="!titles">→ </template><strong class="font-semibold">{{ d.to }}</strong>
      </td>
    </VirtualRows>
  </table>
</template>
