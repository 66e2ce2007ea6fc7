import { DEVICE_TYPES } from '../../devices/index.ts';
import { devicesIn } from '../../session/slots.ts';
import type { Device, Session } from '../../model/types.ts';

/** Devices that the format has elements for, and what is said of each. */
const BUILT_IN: Record<string, string> = {
  eq: '',
  compressor:
    'Compressors carry threshold, ratio, attack, release and gain; knee, lookahead, detector, link, key filter and mix are this program’s own values.',
  gate: 'Gates carry threshold, ratio, range, attack and release; hysteresis, hold, lookahead and key filter are this program’s own values.',
  limiter:
    'Limiters carry threshold, ceiling (as an output gain), release and attack (as lookahead); the true-peak mode is this program’s own.',
};

/** What another program will not see of a session, in plain words. */
export function plainNotes(s: Session): string[] {
  const out: string[] = [];
  const devices = s.tracks.flatMap((t) => t.chain).filter((d): d is Device => d.kind === 'device');
  const racks = s.tracks.flatMap((t) => t.chain).filter((d) => d.kind === 'rack');
  const types = [...new Set(devices.map((d) => d.type))];
  const own = types.filter((type) => !(type in BUILT_IN) && !DEVICE_TYPES[type].foreign);
  if (own.length) {
    const labels = own.map((type) => DEVICE_TYPES[type].label).join(', ');
    const what = `Devices of this program (${labels}) are written with all their values`;
    out.push(`${what}; another program shows them as unknown devices.`);
  }
  for (const [type, note] of Object.entries(BUILT_IN)) {
    if (note && types.includes(type)) out.push(note);
  }
  if (racks.length) {
    const names = racks.map((r) => r.name).join(', ');
    const seen = `Racks (${names}) are one unknown device each for another program`;
    out.push(`${seen}; strands, blend and handles travel in an entry of this program’s own.`);
  }
  if (s.tracks.some((t) => devicesIn(t.chain).some((d) => d.key.kind === 'track'))) {
    out.push('Key inputs have no place in the format; they travel in an entry of this program’s own.');
  }
  if (s.tracks.some((t) => t.polarity || t.soloSafe)) {
    out.push(
      'Polarity and solo safe have no place in the format; they travel in an entry of this program’s own.',
    );
  }
  if (s.tracks.some((t) => t.input.kind === 'deviceOutput')) {
    out.push(
      'Separate outputs of instruments have no place in the format; which line takes which output travels in an entry of this program’s own.',
    );
  }
  if (s.tracks.some((t) => t.automation?.length)) {
    out.push(
      'Automation of levels, pans, mutes and sends goes out as points; that of devices, strands and handles travels in an entry of our own.',
    );
  }
  if (s.tracks.some((t) => t.input.kind === 'midi' || t.output.kind === 'midi' || t.notes?.length)) {
    out.push(
      'MIDI ports, channels and notes travel in an entry of this program’s own; notes can also be saved as a MIDI file.',
    );
  }
  return out;
}
