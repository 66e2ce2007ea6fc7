import { inMemory, type ByteSource } from '../../core/formats/bytes.ts';
import { checkSound } from '../../core/formats/wav.ts';

/** What is kept of a sound beside its bytes. */
export interface SoundRead {
  sampleRate: number;
  channels: 1 | 2;
  frames: number;
}

/** Reads a sound to its last sample, so that a broken one never gets in. */
export function soundRead(from: Uint8Array | ByteSource, name: string): SoundRead {
  const { sampleRate, channels, frames } = checkSound('size' in from ? from : inMemory(from), name);
  return { sampleRate, channels: channels === 1 ? 1 : 2, frames };
}
