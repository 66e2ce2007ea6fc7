<script setup lang="ts">
/** Shows the sheet that lies on top, whichever feature it is of. */
import { computed, type Component } from 'vue';
import { dropSheets } from '../features/drop/index.ts';
import { hardwareSheets } from '../features/hardware/index.ts';
import { kitSheets } from '../features/kit/index.ts';
import { guideSheets } from '../features/guide/index.ts';
import { fitSheets } from '../features/fit/index.ts';
import { lineSheets } from '../features/lines/index.ts';
import { originSheets } from '../features/origin/index.ts';
import { packSheets } from '../features/packs/index.ts';
import { peopleSheets } from '../features/people/index.ts';
import { portSheets } from '../features/ports/index.ts';
import { printSheets } from '../features/print/index.ts';
import { rackSheets } from '../features/rack/index.ts';
import { sessionSheets } from '../features/session/index.ts';
import { shelfSheets } from '../features/shelf/index.ts';
import { useSheets, type SheetName } from '../ui/sheets.ts';
import ShortcutsSheet from './ShortcutsSheet.vue';

const SHEETS: Record<SheetName, Component> = {
  shortcuts: ShortcutsSheet,
  ...dropSheets,
  ...hardwareSheets,
  ...kitSheets,
  ...fitSheets,
  ...guideSheets,
  ...lineSheets,
  ...originSheets,
  ...packSheets,
  ...peopleSheets,
  ...portSheets,
  ...printSheets,
  ...rackSheets,
  ...sessionSheets,
  ...shelfSheets,
};
const sheets = useSheets();
const top = computed(() => sheets.top);
</script>

<template>
  <component
    :is="SHEETS[top.name]"
    v-if="top"
    :key="top.id"
    v-bind="top.props"
    @close="sheets.close(top.name)"
  />
</template>
