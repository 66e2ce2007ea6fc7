import { formatPan } from '../../model/units.ts';
import { plainPart } from './plain.ts';

export const pan = plainPart({ id: 'pan', label: 'Pan', help: '', section: 'fader' }, [
  { key: 'pan', label: 'pan', text: formatPan },
]);
