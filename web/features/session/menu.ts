import { useSession } from '../../document/doc.ts';
import { useMe } from '../../document/me.ts';
import { useSheets } from '../../ui/sheets.ts';

/** What can be done with the whole session; the palette has the same. */
export function sessionMenu(): { label: string; run: () => void }[] {
  const sheets = useSheets();
  const me = useMe();
  const canShare = me.signIn && useSession().owner?.id === me.person?.id;
  return [
    { label: 'History …', run: () => sheets.open('history', {}) },
    ...(canShare ? [{ label: 'Work together on it …', run: () => sheets.open('share', {}) }] : []),
    { label: 'Save as a starter …', run: () => sheets.open('save', { lines: 'starter' }) },
    { label: 'Borrow lines from another session …', run: () => sheets.open('borrow', {}) },
    { label: 'Hardware of this session …', run: () => sheets.open('ports', {}) },
    { label: 'What is newer on the shelf, what was changed', run: () => sheets.open('overview', {}) },
    { label: 'What was dropped here', run: () => sheets.open('dropList', {}) },
  ];
}
