import { Quantiser } from './quantise.ts';
import type { MakeFlac, SoundWriter } from './print-files.ts';

/** What is used of the FLAC encoder (libflacjs: the reference encoder, compiled to JavaScript). */
export interface FlacLibrary {
  isReady(): boolean;
  on(event: 'ready', f: () => void): void;
  create_libflac_encoder(
    sampleRate: number,
    channels: number,
    bits: number,
    level: number,
    samples: number,
    verify: boolean,
  ): number;
  init_encoder_stream(
    encoder: number,
    write: (bytes: Uint8Array) => void,
    known: (about: StreamInfo) => void,
  ): number;
  FLAC__stream_encoder_process_interleaved(encoder: number, samples: Int32Array, frames: number): boolean;
  FLAC__stream_encoder_finish(encoder: number): boolean;
  FLAC__stream_encoder_delete(encoder: number): void;
}
interface StreamInfo {
  min_framesize: number;
  max_framesize: number;
  md5sum: string;
}

/** how hard it tries, 0 to 8; 5 is what the encoder does unless asked */
const LEVEL = 5;
/** where in a file the sizes of its frames and the checksum of its sound lie (RFC 9639, 8.1 and 8.2) */
const SIZES = 12;
const CHECKSUM = 26;

/**
 * FLAC (RFC 9639) through a library that has been loaded.
 * @returns waits until the library can be used; makes writers of 16 or 24 bit then
 */
export async function flacWith(library: FlacLibrary): Promise<MakeFlac> {
  if (!library.isReady()) await new Promise<void>((resolve) => library.on('ready', resolve));
  return (o) => new FlacWriter(library, o);
}

class FlacWriter implements SoundWriter {
  private readonly encoder: number;
  private readonly quantisers: Quantiser[];
  private out: Uint8Array[] = [];
  private info: StreamInfo | null = null;

  constructor(
    private readonly library: FlacLibrary,
    { channels, frames, sampleRate, bits, dither }: Parameters<MakeFlac>[0],
  ) {
    this.quantisers = Array.from({ length: channels }, (_, c) => new Quantiser(bits, dither, c + 1));
    this.encoder = library.create_libflac_encoder(sampleRate, channels, bits, LEVEL, frames, false);
    const failed = library.init_encoder_stream(
      this.encoder,
      (bytes) => this.out.push(bytes.slice()),
      (about) => {
        this.info = about;
      },
    );
    if (!this.encoder || failed) {
      throw new Error(`FLAC cannot be written at ${sampleRate} Hz and ${bits} bit.`);
    }
  }
  head(): Uint8Array {
    return this.taken();
  }
  body(channels: readonly Float32Array[]): Uint8Array {
    const frames = channels[0].length;
    const width = channels.length;
    const samples = new Int32Array(frames * width);
    channels.forEach((x, c) => {
      const numbers = this.quantisers[c].block(x);
      for (let i = 0; i < frames; i++) samples[i * width + c] = numbers[i];
    });
    if (!this.library.FLAC__stream_encoder_process_interleaved(this.encoder, samples, frames)) {
      throw new Error('The FLAC encoder stopped.');
    }
    return this.taken();
  }
  tail(): Uint8Array {
    this.library.FLAC__stream_encoder_finish(this.encoder);
    this.library.FLAC__stream_encoder_delete(this.encoder);
    return this.taken();
  }
  /** The sizes and the checksum, which a stream only knows when all of it went by. */
  mended(): { at: number; bytes: Uint8Array }[] {
    const { min_framesize: least, max_framesize: most, md5sum } = this.info!;
    const sizes = [least, most].flatMap((size) => [size >> 16, (size >> 8) & 255, size & 255]);
    const checksum = md5sum.match(/../g)!.map((x) => parseInt(x, 16));
    return [
      { at: SIZES, bytes: Uint8Array.from(sizes) },
      { at: CHECKSUM, bytes: Uint8Array.from(checksum) },
    ];
  }
  private taken(): Uint8Array {
    const bytes = new Uint8Array(this.out.reduce((sum, b) => sum + b.length, 0));
    let at = 0;
    for (const part of this.out) {
      bytes.set(part, at);
      at += part.length;
    }
    this.out = [];
    return bytes;
  }
}
