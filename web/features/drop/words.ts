import type { LooseEnd } from '../../../core/index.ts';

/** What a loose end is, before the name of its far side. */
export const END_WORDS: Record<LooseEnd['kind'], string> = {
  output: 'Output to',
  send: 'Send to',
  key: 'Key from',
  input: 'Input from',
  folder: 'Folder',
};
