import type { LooseEnd, Verdict } from '../../../core/index.ts';

/** What a loose end is, before the name of its far side. */
export const END_WORDS: Record<LooseEnd['kind'], string> = {
  output: 'Output to',
  send: 'Send to',
  key: 'Key from',
  input: 'Input from',
  folder: 'Folder',
};

/** What became of a value, as reports say it. */
export const VERDICTS: Record<Verdict, string> = {
  intact: 'as it was',
  tied: 'tied',
  adapted: 'adapted',
  'left out': 'left out',
  unexplained: 'not explained',
};
