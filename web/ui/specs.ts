import type { ParamSpec } from '../../core/index.ts';

export { HANDLE_VALUE, LEVEL, PAN, SEND_LEVEL } from '../../core/session/automation.ts';

/** Further values, as the value fields take them. */
export const TEMPO: ParamSpec = {
  id: 'tempo',
  label: 'Tempo',
  group: 'Session',
  kind: 'number',
  unit: '',
  min: 10,
  max: 999,
  default: 120,
  taper: 'log',
  step: 0.1,
};
/** A line's own trim before its chain. */
export const INPUT_TRIM: ParamSpec = {
  id: 'inputTrim',
  label: 'Trim before the chain',
  group: 'Line',
  kind: 'number',
  unit: 'dB',
  min: -36,
  max: 36,
  default: 0,
  taper: 'linear',
  step: 0.1,
};
export const TIE_CURVE: ParamSpec = {
  id: 'curve',
  label: 'curve',
  group: 'Rack',
  kind: 'number',
  unit: '',
  min: -100,
  max: 100,
  default: 0,
  taper: 'linear',
  step: 1,
  help: '0 moves evenly, positive comes late, negative early',
};
