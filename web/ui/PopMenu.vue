<script setup lang="ts">
/**
 * A menu that opens beside its button, outside of scrolled boxes. Items are plain data, made when the menu
 * opens; until the first use there is only a button, since a screen holds hundreds of these.
 */
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue';
import { nextTick, ref, shallowRef } from 'vue';
import type { MenuEntry } from './menu.ts';
import { useShortcuts } from './shortcuts.ts';

const props = withDefaults(
  defineProps<{ label: string; items: () => MenuEntry[]; buttonClass?: string; width?: number }>(),
  { buttonClass: 'btn btn-plain px-1', width: 210 },
);
const used = ref(false);
const button = ref<{ $el: HTMLElement } | null>(null);
const list = shallowRef<MenuEntry[]>([]);
const place = ref({ left: '0px', top: '0px', bottom: 'auto', maxHeight: '60vh' });

async function first() {
  used.value = true;
  await nextTick();
  button.value?.$el.click();
}
function measure(e: Event) {
  list.value = props.items();
  const r = (e.currentTarget as HTMLElement).getBoundingClientRect();
  // on the side with room for all of it, else on the larger side; what does not fit scrolls
  const below = window.innerHeight - r.bottom - 10;
  const wanted = Math.min(list.value.length * 27 + 12, 480);
  const up = wanted > below && r.top > below;
  place.value = {
    left: Math.max(4, Math.min(r.left, window.innerWidth - props.width - 8)) + 'px',
    top: up ? 'auto' : r.bottom + 2 + 'px',
    bottom: up ? window.innerHeight - r.top + 2 + 'px' : 'auto',
    maxHeight: Math.min(480, up ? r.top - 10 : below) + 'px',
  };
}
const shortcuts = useShortcuts();
const keysOf = (entry: MenuEntry) => (entry.keys ? shortcuts.keyOf(entry.keys) : '');
</script>

<template>
  <button
    v-if="!used"
    type="button"
    :class="buttonClass"
    :aria-label="label"
    :title="label"
    aria-haspopup="menu"
    aria-expanded="false"
    @click="first"
    @keydown.down.prevent="first"
  >
    <slot />
  </button>
  <Menu v-else v-slot="{ open }" as="div" class="inline-block">
    <MenuButton
      ref="button"
      :class="buttonClass"
      :aria-label="label"
      :title="label"
      @click="measure"
      @keydown.capture="measure"
      ><slot
    /></MenuButton>
    <Teleport to="body">
      <MenuItems
        v-if="open"
        static
        class="menu fixed"
        :style="{ ...place, minWidth: width + 'px' }"
        :aria-label="label"
      >
        <template v-for="(item, i) in list" :key="i">
          <div v-if="item.heading" class="px-2 pb-0.5 pt-1.5 text-note text-soft">{{ item.heading }}</div>
          <MenuItem v-else v-slot="{ active }" :disabled="item.disabled">
            <button
              type="button"
              class="menu-item"
              :data-active="active"
              :class="{ 'opacity-50': item.disabled, 'text-bad': item.danger }"
              @click="item.run?.()"
            >
              <span v-if="item.swatch" class="h-3 w-3 rounded-sm" :style="{ background: item.swatch }" />
              <component :is="item.icon" v-else-if="item.icon" :size="14" aria-hidden="true" />
              <span class="flex-1">{{ item.label }}</span>
              <span v-if="item.checked" aria-label="chosen">✓</span>
              <kbd v-if="keysOf(item)" class="text-fine text-soft">{{ keysOf(item) }}</kbd>
            </button>
          </MenuItem>
        </template>
      </MenuItems>
    </Teleport>
  </Menu>
</template>
