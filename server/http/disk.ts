import { statfs } from 'node:fs/promises';
import type { RequestHandler } from 'express';
import { PACK_LIMITS, ZIP_LIMITS } from '../../core/index.ts';
import type { ZipLimits } from '../../core/formats/zip.ts';
import type { WorkDisk } from '../work/work-folder.ts';
import { HttpProblem } from './problem.ts';

/** Bytes that stay free: the database needs room for its own work, and stands still without. */
const NEEDED = 64 * 1024 * 1024;
/** ms that a look at the disk counts */
const FRESH = 1000;
/** What takes nothing more of the disk. */
const HARMLESS = new Set(['GET', 'HEAD', 'OPTIONS', 'DELETE']);

/** Room on the disk that a folder lies on, in bytes. */
export const freeOn =
  (folder: string): (() => Promise<number>) =>
  async () => {
    const { bavail, bsize } = await statfs(folder);
    return bavail * bsize;
  };

/**
 * @param what takes them, and what can be done about it
 * @throws HttpProblem when so many bytes more do not go on the disk that a folder lies on
 */
export async function roomLeft(
  { folder, free }: WorkDisk,
  bytes: number,
  what: { takes: string; way: string },
): Promise<void> {
  const room = (await free?.().catch(() => Infinity)) ?? Infinity;
  if (room - bytes >= NEEDED) return;
  const [wanted, left] = [bytes, Math.max(0, room - NEEDED)].map((x) => (x / 1e9).toFixed(1));
  throw new HttpProblem(
    'disk-full',
    `${what.takes} ${wanted} GB for a while, and the disk that ${folder} lies on has ${left} GB left. ${what.way}`,
  );
}

/**
 * Refuses what would write while the disk is nearly full, before the database stands still in the middle of it;
 * as soon as there is room again everything goes on.
 */
export function roomOnDisk(folder: string, free: () => Promise<number>): RequestHandler {
  let looked = -Infinity;
  let room = Infinity;
  return async (req, _res, next) => {
    if (HARMLESS.has(req.method)) {
      next();
      return;
    }
    if (Date.now() - looked > FRESH) {
      looked = Date.now();
      // a disk that cannot be asked is no reason to refuse
      room = await free().catch(() => Infinity);
    }
    const body = Number(req.headers['content-length'] ?? 0) || 0;
    if (room - body >= NEEDED) {
      next();
      return;
    }
    const left = Math.max(0, Math.floor(room / 1048576));
    next(
      new HttpProblem(
        'disk-full',
        `The disk that ${folder} lies on has only ${left} MB left, so this was not saved. Make room on it: what waits here is sent again by itself.`,
      ),
    );
  };
}

/** What a file may unpack to: a day of sound, as long as there is room for it. */
export async function limitsOn({ free }: WorkDisk): Promise<ZipLimits> {
  const room = (await free?.().catch(() => Infinity)) ?? Infinity;
  const most = Math.min(64e9, Math.max(ZIP_LIMITS.totalBytes, room - ZIP_LIMITS.totalBytes));
  return { entries: 20_000, entryBytes: most, totalBytes: most };
}

/** The same of a pack, which holds many small files. */
export const packLimits = async (disk: WorkDisk): Promise<ZipLimits> => ({
  ...(await limitsOn(disk)),
  entries: PACK_LIMITS.entries,
});
