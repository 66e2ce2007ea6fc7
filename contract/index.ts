/** What the server and the interface say to each other: plain types and constants, used by both. */
export * from './codes.ts';
export * from './requests.ts';
export * from './responses.ts';
export { PRESET_KINDS, ROLES } from '../core/model/types.ts';
