<script setup lang="ts">
/** What a list can be narrowed to, each with how many there are; pressed once more, it is not narrowed. */
defineProps<{
  items: readonly { name: string; n: number }[];
  /** without the numbers */
  bare?: boolean;
}>();
const chosen = defineModel<string>({ required: true });
const flip = (name: string) => {
  chosen.value = chosen.value === name ? '' : name;
};
</script>

<template>
  <button
    v-for="item in items"
    :key="item.name"
    type="button"
    class="chip min-h-6"
    :class="{ 'border-rope bg-rope-wash': chosen === item.name }"
    :aria-pressed="chosen === item.name"
    @click="flip(item.name)"
  >
    {{ item.name }} <span v-if="!bare" class="text-soft">{{ item.n }}</span>
  </button>
</template>
