import { accepts, addressText } from '../../session/midi.ts';
import { instruments, onDevice, onTrack, quoted, type Rule } from '../rule.ts';

export const partPort: Rule = {
  id: 'part-port',
  severity: 'fault',
  title: 'Part that its line keeps notes from',
  why: 'The line takes other ports or channels than the part listens to, so nothing reaches it.',
  find: ({ instruments: all }) =>
    all.flatMap((i) => {
      const input = i.track.input;
      return input.kind !== 'midi'
        ? []
        : i.parts
            .filter((p) => p.address && !accepts(input, p.address.port, p.address.channel))
            .map((p) => ({
              track: i.track.id,
              slot: i.device.id,
              part: p.id,
              message: `${quoted(p)} listens to ${addressText(p.address!)}; ${quoted(i.track)} takes only ${addressText(input)}.`,
              fix:
                p.address!.port === input.port
                  ? 'Let the line take all channels'
                  : `Put the part onto port ${input.port}`,
            }));
    }),
  fix: (s, h) => {
    const i = instruments(s).find((x) => x.device.id === h.slot)!;
    const p = i.parts.find((x) => x.id === h.part)!;
    const input = i.track.input;
    if (input.kind !== 'midi') return s;
    return p.address!.port === input.port
      ? onTrack(s, h.track, () => ({ input: { ...input, channel: 0 } }))
      : onDevice(s, h, (d) => ({ params: { ...d.params, [`${h.part}.port`]: input.port } }));
  },
};
