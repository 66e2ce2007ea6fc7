import { closeSync, openSync, readSync, rmSync, statSync, writeSync } from 'node:fs';
import type { Unpacking } from '../../core/formats/zip.ts';

/** Where bytes lie in a file. */
export interface Place {
  path: string;
  at: number;
  size: number;
}

/** A file that is written in order and read from anywhere, while this thread waits for it. */
export class OpenFile implements Unpacking {
  private readonly fd: number;
  private at = 0;

  constructor(
    readonly path: string,
    flags: 'r' | 'w+',
  ) {
    this.fd = openSync(path, flags);
  }
  get size(): number {
    return statSync(this.path).size;
  }
  get place(): { path: string; at: number } {
    return { path: this.path, at: 0 };
  }
  write(bytes: Uint8Array): void {
    this.put(this.at, bytes);
    this.at += bytes.length;
  }
  put(at: number, bytes: Uint8Array): void {
    for (let done = 0; done < bytes.length;) {
      done += writeSync(this.fd, bytes, done, bytes.length - done, at + done);
    }
  }
  /** So many bytes from a place on, fewer at the end of the file, in a buffer of their own. */
  read(at: number, n: number): Uint8Array<ArrayBuffer> {
    const bytes = new Uint8Array(n);
    let done = 0;
    for (let got = 1; got > 0 && done < n; done += got) {
      got = readSync(this.fd, bytes, done, n - done, at + done);
    }
    return done === n ? bytes : bytes.slice(0, done);
  }
  close(): void {
    closeSync(this.fd);
  }
  remove(): void {
    this.close();
    rmSync(this.path, { force: true });
  }
}
