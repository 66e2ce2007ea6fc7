import { ref } from 'vue';
import type { Id } from '../../core/index.ts';

/** The lines whose save sheet is open; all of the session for a starter. */
export const saving = ref<Id[] | 'starter' | null>(null);
/** The device or rack whose save sheet is open. */
export const savingSlot = ref<{ track: Id; slot: Id } | null>(null);
/** What the save sheet begins with: the next version of what it came from, or a variant. */
export const savingMode = ref<'version' | 'new' | null>(null);
/** The line whose duplicate sheet is open. */
export const duplicating = ref<Id | null>(null);
/** Whether lines are being borrowed from another session. */
export const borrowing = ref(false);
/** Whether the sheet of the studio's ports is open. */
export const hardware = ref(false);
/** Whether the list of what was dropped here is open. */
export const dropList = ref(false);

/** A preset's version, or a line of the open session. */
export type Side = { preset: string; version?: number } | { line: Id };
/** Two things that are looked at and listened to side by side. */
export const comparing = ref<{ a: Side; b: Side | null } | null>(null);
