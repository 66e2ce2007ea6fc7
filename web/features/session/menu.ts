import { useSheets } from '../../ui/sheets.ts';

/** What can be done with the whole session; the palette has the same. */
export function sessionMenu(): { label: string; run: () => void }[] {
  const sheets = useSheets();
  return [
    { label: 'History …', run: () => sheets.open('history', {}) },
    { label: 'Save as a starter …', run: () => sheets.open('save', { lines: 'starter' }) },
    { label: 'Borrow lines from another session …', run: () => sheets.open('borrow', {}) },
    { label: 'Hardware of this session …', run: () => sheets.open('ports', {}) },
    { label: 'What is newer on the shelf, what was changed', run: () => sheets.open('overview', {}) },
    { label: 'What was dropped here', run: () => sheets.open('dropList', {}) },
  ];
}
