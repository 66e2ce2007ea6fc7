import { compressor } from './compressor.ts';
import { delay } from './delay.ts';
import { eq } from './eq.ts';
import { opaque } from './opaque.ts';
import { reverb } from './reverb.ts';
import { trim } from './trim.ts';
import type { DeviceType } from './spec.ts';

/** Every device this program knows, by type; a new one is one file and one line here. */
export const DEVICE_TYPES: Record<string, DeviceType> = Object.fromEntries([trim, eq, compressor, delay, reverb, opaque].map((d) => [d.type, d]));

/** Those that a person can add. */
export const ADDABLE = Object.values(DEVICE_TYPES).filter((d) => d.type !== 'opaque');
