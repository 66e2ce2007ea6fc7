<script setup lang="ts">
/**
 * A menu that opens beside its button, outside of scrolled boxes. Items are plain data, made when the menu
 * opens; until the first use there is only a button, since a screen holds hundreds of these.
 */
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue';
import { computed, nextTick, ref } from 'vue';
import type { MenuEntry } from './menu.ts';
import { useShortcuts } from './shortcuts.ts';

const props = withDefaults(
  defineProps<{
    label: string;
    items: () => MenuEntry[];
    buttonClass?: string;
    width?: number;
    /** not on the way of the Tab key: the same can be reached otherwise */
    aside?: boolean;
  }>(),
  { buttonClass: 'btn btn-plain px-1', width: 210 },
);
const emit = defineEmits<{
  /** its entries are about to be shown: what they are made of may be asked for again */
  open: [];
}>();
/** entries that one column holds, and px that a menu is high at most */
const LONG = 17;
const MOST = 560;

const used = ref(false);
const columns = ref(1);
const button = ref<{ $el: HTMLElement } | null>(null);
/** counts how often it was opened; what comes in while it is open (a list that is still loading) shows at once */
const opened = ref(0);
const list = computed<MenuEntry[]>(() => (opened.value ? props.items() : []));
const place = ref({ left: '0px', top: '0px', bottom: 'auto', maxHeight: '60vh' });

async function first() {
  used.value = true;
  await nextTick();
  button.value?.$el.click();
}
function measure(e: Event) {
  emit('open');
  opened.value++;
  const r = (e.currentTarget as HTMLElement).getBoundingClientRect();
  // on the side with room for all of it, else on the larger side; what does not fit scrolls
  const below = window.innerHeight - r.bottom - 10;
  // a long one stands in two columns, so that its last entry is in sight too
  columns.value = list.value.length > LONG && window.innerWidth > 2 * props.width + 16 ? 2 : 1;
  const wanted = Math.min(Math.ceil(list.value.length / columns.value) * 27 + 24, MOST);
  const up = wanted > below && r.top > below;
  place.value = {
    left: Math.max(4, Math.min(r.left, window.innerWidth - columns.value * props.width - 16)) + 'px',
    top: up ? 'auto' : r.bottom + 2 + 'px',
    bottom: up ? window.innerHeight - r.top + 2 + 'px' : 'auto',
    maxHeight: Math.min(MOST, up ? r.top - 10 : below) + 'px',
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
    :tabindex="aside ? -1 : undefined"
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
      :tabindex="aside ? -1 : undefined"
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
        :style="{ ...place, minWidth: columns * width + 'px', columnCount: columns }"
        :aria-label="label"
      >
        <template v-for="(item, i) in list" :key="i">
          <div v-if="item.heading" class="break-after-avoid px-2 pb-0.5 pt-1.5 text-note text-soft">
            {{ item.heading }}
          </div>
          <MenuItem v-else v-slot="{ active }" :disabled="item.disabled">
            <button
              type="button"
              class="menu-item break-inside-avoid"
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
