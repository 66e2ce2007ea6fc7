<script setup lang="ts">
/** What differs, value by value, in words and units. */
import type { Difference } from '../../../core/index.ts';

defineProps<{ list: Difference[] }>();
</script>

<template>
  <p v-if="!list.length" class="text-soft">Nothing in the settings.</p>
  <table v-else class="w-full">
    <tbody>
      <tr v-for="d in list" :key="d.label + d.kind" class="border-t border-rule">
        <td class="py-0.5 pr-2">{{ d.label }}</td>
        <td class="pr-2">{{ d.from }}</td>
        <td>
          → <strong>{{ d.to }}</strong>
        </td>
      </tr>
    </tbody>
  </table>
</template>
