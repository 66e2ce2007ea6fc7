import { setImmediate as others } from 'node:timers/promises';
import type { Session } from '../../core/index.ts';

/** ms of work before others have their turn */
const TURN = 3;

/** A session as JSON, made line by line, so that nobody waits for a long one. */
export async function inPieces({ tracks, ...rest }: Session): Promise<string> {
  const lines: string[] = [];
  let began = performance.now();
  for (const track of tracks) {
    lines.push(JSON.stringify(track));
    if (performance.now() - began < TURN) continue;
    await others();
    began = performance.now();
  }
  return `${JSON.stringify(rest).slice(0, -1)},"tracks":[${lines.join(',')}]}`;
}
