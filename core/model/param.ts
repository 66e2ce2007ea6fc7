import type { ParamValue } from './types.ts';

/**
 * One value of a device. The table of these drives the interface, validation, file formats, docs and tests.
 */
export interface ParamSpec {
  id: string;
  label: string;
  group: string;
  kind: 'number' | 'choice' | 'switch' | 'text';
  unit?: 'dB' | 'Hz' | 'ms' | 's' | '%' | ':1' | 'Q' | 'pan' | 'st' | 'ct' | '';
  min?: number;
  max?: number;
  default: ParamValue;
  taper?: 'linear' | 'log' | 'level' | 'square';
  step?: number;
  /** of a choice all, of a text those that have a name */
  choices?: readonly { id: string; label: string }[];
  /** the value belongs to the tempo: a drop may adapt it */
  tempoBound?: boolean;
  /** came to the table later: a document without it has the default */
  isLater?: boolean;
  help?: string;
}
