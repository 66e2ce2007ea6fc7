import { loopsOfSession, type Id, type PortMap, type Session } from '../../../core/index.ts';

/** linear: what is sent counts as sound from here on, and what comes back as silence below */
const SENT = 10 ** (-50 / 20);
const SILENT = 10 ** (-90 / 20);
/** reports of the engine, about 30 a second, for which nothing may come back */
const PATIENCE = 90;

/**
 * Notices loops that are sent to and from which nothing comes back.
 * @param tell is told the name of such a device, once until something comes back
 */
export function makeSilenceWatch(tell: (name: string) => void) {
  const silentFor = new Map<Id, number>();

  function take(s: Session, map: PortMap, peaks: { ins: number[]; outs: number[] }): void {
    for (const { device, send, back } of loopsOfSession(s)) {
      const [outs, ins] = [map.outs[send], map.ins[back]];
      if (!outs || !ins) continue;
      const loudest = (channels: number[], of: number[]) => Math.max(...channels.map((k) => of[k] ?? 0));
      if (loudest(ins, peaks.ins) > SILENT) silentFor.set(device.id, 0);
      else if (loudest(outs, peaks.outs) > SENT) {
        const count = (silentFor.get(device.id) ?? 0) + 1;
        silentFor.set(device.id, count);
        if (count === PATIENCE) tell(device.name);
      }
    }
  }
  return { take };
}
