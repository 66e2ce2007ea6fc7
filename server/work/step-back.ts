import { readlinkSync } from 'node:fs';
import { setPriority } from 'node:os';

/** Lets every other thread go first, where the system knows threads (Linux gives each a number of its own). */
export function stepBack(patience: number): void {
  try {
    const thread = Number(readlinkSync('/proc/thread-self').split('/').pop());
    setPriority(thread, patience);
  } catch {
    /* it works as well without */
  }
}
