import { STRAND_LEVEL, STRAND_PAN, type ParamSpec } from '../../core/index.ts';

/** The values of lines, as the value fields take them. */
export const LEVEL: ParamSpec = { ...STRAND_LEVEL, group: 'Line' };
export const SEND_LEVEL: ParamSpec = { ...LEVEL, id: 'send', label: 'Send level', default: -18 };
export const PAN: ParamSpec = { ...STRAND_PAN, group: 'Line' };
export const TEMPO: ParamSpec = { id: 'tempo', label: 'Tempo', group: 'Session', kind: 'number', unit: '', min: 10, max: 999, default: 120, taper: 'log', step: 0.1 };
export const HANDLE_VALUE: ParamSpec = { id: 'handle', label: 'Handle', group: 'Rack', kind: 'number', unit: '%', min: 0, max: 100, default: 0, taper: 'linear', step: 0.5 };
export const TIE_CURVE: ParamSpec = { id: 'curve', label: 'curve', group: 'Rack', kind: 'number', unit: '', min: -100, max: 100, default: 0, taper: 'linear', step: 1, help: '0 moves evenly, positive comes late, negative early' };
