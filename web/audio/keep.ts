import { cutText, writeWav, type MediaRef, type PrintedLine, type Session } from '../../core/index.ts';
import { api } from '../api/index.ts';

/** letters of each part of a file’s name: the server takes 255 in all */
const SHARE = 120;

/** A printed line as a file: mono where both sides are the same, floating point where 24 bit would clip. */
function wavOf(line: PrintedLine, session: Session): File {
  const isMono = line.l.every((v, n) => v === line.r[n]);
  const isLoud = [line.l, line.r].some((side) => side.some((v) => v > 1 || v < -1));
  const format = isLoud || session.bitDepth === 32 ? 'float' : 24;
  const bytes = writeWav(isMono ? [line.l] : [line.l, line.r], session.sampleRate, format);
  return new File(
    [bytes as Uint8Array<ArrayBuffer>],
    `${cutText(session.name, SHARE)}, ${cutText(line.name, SHARE)}.wav`,
  );
}

/** Keeps a printed sound in the database. */
export const keepPrinted = (line: PrintedLine, session: Session): Promise<MediaRef> =>
  api.upload(wavOf(line, session));
