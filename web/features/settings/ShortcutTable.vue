<script setup lang="ts">
/** The keys of the whole window: each can be changed; one that is taken is told before. */
import { computed, ref } from 'vue';
import { isOneKey, nameOfKey, useShortcuts } from '../../ui/shortcuts.ts';

const shortcuts = useShortcuts();
/** the key that is being changed, by the one that it comes with */
const asks = ref<string | null>(null);
const clash = ref<{ of: string; key: string; others: string[] } | null>(null);
const rows = computed(() =>
  shortcuts.all.map(([keys, what]) => ({ keys, what, now: shortcuts.keyOf(keys), own: isOneKey(keys) })),
);
const whatOf = (comesWith: string) => rows.value.find((r) => r.keys === comesWith)?.what ?? comesWith;
const known = new Set(['Tab', 'Escape', 'Shift', 'Control', 'Alt', 'Meta']);

/** The next key that is pressed is the new one; Escape leaves it, Backspace takes the key away. */
function press(of: string, e: KeyboardEvent) {
  if (asks.value !== of) return;
  if (e.key === 'Escape') {
    e.preventDefault();
    e.stopPropagation();
    asks.value = null;
    return;
  }
  if (known.has(e.key)) return;
  e.preventDefault();
  e.stopPropagation();
  const key = e.key === 'Backspace' ? '' : nameOfKey(e);
  if (key === null) return;
  asks.value = null;
  const others = rows.value.filter((r) => key && r.own && r.keys !== of && r.now === key).map((r) => r.keys);
  if (others.length) clash.value = { of, key, others };
  else put(of, key);
}
function put(of: string, key: string) {
  clash.value = null;
  shortcuts.change(of, key);
}
/** The other one lets go of the key, or takes the one that is free now. */
function settle(way: 'take' | 'swap') {
  const { of, key, others } = clash.value!;
  const was = shortcuts.keyOf(of);
  for (const other of others) shortcuts.change(other, way === 'swap' ? was : '');
  put(of, key);
}
</script>

<template>
  <section aria-labelledby="keys">
    <header class="mb-1 flex items-center gap-3">
      <h2 id="keys" class="flex-1 font-semibold">Keyboard</h2>
      <button
        type="button"
        class="btn px-2 py-0 text-note"
        :disabled="!Object.keys(shortcuts.own).length"
        @click="shortcuts.reset()"
      >
        All keys as they came
      </button>
    </header>
    <ul class="text-body">
      <li v-for="r in rows" :key="r.keys" class="border-t border-rule py-0.5">
        <div class="flex min-h-7 items-center gap-2">
          <span class="min-w-0 flex-1">{{ r.what }}</span>
          <button
            v-if="r.own"
            type="button"
            class="btn min-w-[92px] px-2 py-0 text-note"
            :aria-label="`${asks === r.keys ? 'press a key' : r.now || 'no key'}: ${r.what}`"
            :aria-pressed="asks === r.keys"
            @click="asks = asks === r.keys ? null : r.keys"
            @keydown="press(r.keys, $event)"
            @blur="asks = null"
          >
            {{ asks === r.keys ? 'press a key' : r.now || 'no key' }}
          </button>
          <kbd v-else class="min-w-[92px] text-right font-sans text-note text-soft">{{ r.keys }}</kbd>
          <button
            v-if="r.own"
            type="button"
            class="btn btn-plain px-1 py-0 text-note"
            :disabled="!shortcuts.isChanged(r.keys)"
            :aria-label="`as it came (${r.keys}): ${r.what}`"
            @click="put(r.keys, r.keys)"
          >
            as it came
          </button>
        </div>
        <p v-if="clash?.of === r.keys" class="flex flex-wrap items-center gap-2 pb-1 text-note" role="alert">
          <span class="text-warn"
            >{{ clash.key }} is “{{ clash.others.map(whatOf).join('”, “') }}” already.</span
          >
          <button type="button" class="btn px-2 py-0" @click="settle('swap')">Swap the two</button>
          <button type="button" class="btn px-2 py-0" @click="settle('take')">Take it from there</button>
          <button type="button" class="btn px-2 py-0" @click="clash = null">Leave all as it is</button>
        </p>
      </li>
    </ul>
    <p class="mt-1 text-note text-soft">
      Press the key’s button, then the new key; Backspace takes it away, Escape leaves it as it is. Keys are
      kept in this browser.
    </p>
  </section>
</template>
