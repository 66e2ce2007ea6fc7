import { mkdir, mkdtemp, readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';

/** Where work lies that needs a disk and is gone when it is done. */
export interface WorkDisk {
  folder: string;
  /** bytes that are free on it */
  free?: () => Promise<number>;
}

/** what each of them is called, with something of its own */
const MINE = 'work-';
/** ms after which what a process left behind there is nobody's any more */
const OLD = 24 * 3600 * 1000;

/** A folder for one piece of work, which goes with it. */
export async function withFolder<T>(disk: WorkDisk, work: (folder: string) => Promise<T>): Promise<T> {
  await mkdir(disk.folder, { recursive: true });
  const folder = await mkdtemp(join(disk.folder, MINE));
  try {
    return await work(folder);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Takes away what processes left behind that ended in the middle of their work. */
export async function sweepWork({ folder }: WorkDisk): Promise<void> {
  for (const name of await readdir(folder).catch(() => [])) {
    if (!name.startsWith(MINE)) continue;
    const path = join(folder, name);
    const made = await stat(path).catch(() => null);
    if (made && Date.now() - made.mtimeMs > OLD) await rm(path, { recursive: true, force: true });
  }
}
