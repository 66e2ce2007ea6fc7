import { tickOf } from '../../hardware/ticks.ts';
import { unitsUsed } from '../../hardware/studio.ts';
import { quoted, type Rule } from '../rule.ts';

/** Units of a session whose positions are not all ticked. */
const missing = (session: Parameters<typeof unitsUsed>[0] & { setup?: { ticks?: string[] } }, at: string) => {
  const ticks = new Set(session.setup?.ticks ?? []);
  return unitsUsed(session).flatMap(({ use, track, device }) => {
    const place = device?.id ?? track.id;
    if (at && at !== `${place}/${use.id}`) return [];
    return [
      {
        use,
        track,
        device,
        ticks: use.unit.panel.map((c) => tickOf(place, use, c)).filter((k) => !ticks.has(k)),
      },
    ];
  });
};

export const positionNotTicked: Rule = {
  id: 'position-not-ticked',
  severity: 'advice',
  title: 'A panel is not set yet',
  why: 'A unit sounds as its knobs stand, whatever the session says; somebody has to turn them.',
  find({ session }) {
    if (!session.setup?.studio) return [];
    return missing(session, '').flatMap(({ use, track, device, ticks }) => {
      if (!ticks.length || track.state !== 'on') return [];
      const where = device ? `${quoted(device)} on ${quoted(track)}` : `the input of ${quoted(track)}`;
      const count = `${ticks.length} of ${use.unit.panel.length} positions`;
      return [
        {
          track: track.id,
          ...(device ? { slot: device.id } : {}),
          part: use.id,
          message: `${count} of ${quoted(use.unit)} (${where}) are not ticked on the patch list.`,
          fix: `Tick the panel of ${quoted(use.unit)}`,
        },
      ];
    });
  },
  fix(s, h) {
    const found = missing(s, `${h.slot ?? h.track}/${h.part}`).flatMap((m) => m.ticks);
    return { ...s, setup: { ...s.setup!, ticks: [...(s.setup!.ticks ?? []), ...found] } };
  },
};
