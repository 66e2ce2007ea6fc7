import type { Studio } from '../../../core/index.ts';
import PortsSheet from './PortsSheet.vue';

declare module '../../ui/sheets.ts' {
  interface Sheets {
    /** which devices of this computer the ports of a studio are */
    realPorts: { studio: Studio };
  }
}

export const portSheets = { realPorts: PortsSheet };
