import {
  BLEND_SPEC,
  DEVICE_TYPES,
  tieTargets,
  valueIn,
  walkSlots,
  type Device,
  type Rack,
} from '../../../core/index.ts';

export interface TypicalHandle {
  label: string;
  name: string;
  ties: { slot: string; param: string; from: number; to: number }[];
}

/** Parameters that make something louder, and those that take it back; dB, a threshold drives on its way down. */
const DRIVES: Record<string, { up: string; span: number; down: string }> = {
  saturator: { up: 'drive', span: 12, down: 'output' },
  clipper: { up: 'drive', span: 12, down: 'output' },
  limiter: { up: 'threshold', span: -12, down: 'output' },
  outboard: { up: 'send', span: 12, down: 'return' },
  eq: { up: 'input', span: 12, down: 'output' },
};

/** One value up and another down by the same, as far as both ranges reach; null where they do not. */
function driveOf(d: Device): TypicalHandle | null {
  const known = DRIVES[d.type];
  const { byId } = DEVICE_TYPES[d.type];
  const [up, down] = [byId[known?.up], byId[known?.down]];
  if (!up || !down) return null;
  const [now, back] = [valueIn(d, up) as number, valueIn(d, down) as number];
  const sign = Math.sign(known.span);
  const room = sign > 0 ? up.max! - now : now - up.min!;
  const span = Math.min(Math.abs(known.span), room, back - down.min!);
  if (span <= 0) return null;
  const way = sign > 0 ? 'up' : 'down';
  return {
    label: `${d.name}: ${up.label.toLowerCase()} ${way}, ${down.label.toLowerCase()} down by the same`,
    name: sign > 0 ? up.label : 'Drive',
    ties: [
      { slot: d.id, param: up.id, from: now, to: now + sign * span },
      { slot: d.id, param: down.id, from: back, to: back - span },
    ],
  };
}

/**
 * The handles that practitioners make most, for what is in this rack; each from where the values stand now.
 */
export function typicalHandles(rack: Rack): TypicalHandle[] {
  const out: TypicalHandle[] = [];
  if (rack.strands.length > 1 && rack.blend.mode !== 'off') {
    out.push({
      label: `${rack.strands[0].name} to ${rack.strands[1].name}`,
      name: 'Blend',
      ties: [{ slot: rack.id, param: 'blend', from: 0, to: 100 }],
    });
  }
  const devices = [...walkSlots([rack])].filter((s) => s.kind === 'device');
  for (const d of devices) {
    const t = DEVICE_TYPES[d.type];
    const drive = driveOf(d);
    if (drive) out.push(drive);
    if (t.byId.threshold && t.byId.makeup) {
      const th = d.params.threshold as number;
      const mk = d.params.makeup as number;
      const span = Math.min(18, th - t.byId.threshold.min!, (t.byId.makeup.max! - mk) * 2);
      if (span > 0) {
        out.push({
          label: `${d.name}: threshold down, makeup up`,
          name: 'Squeeze',
          ties: [
            { slot: d.id, param: 'threshold', from: th, to: th - span },
            { slot: d.id, param: 'makeup', from: mk, to: mk + span / 2 },
          ],
        });
      }
    }
  }
  const mixes = tieTargets(rack).filter((t) => t.param === 'mix');
  if (mixes.length > 1) {
    out.push({
      label: 'All mixes together',
      name: 'Wet',
      ties: mixes.map((t) => ({ slot: t.slot, param: t.param, from: BLEND_SPEC.min!, to: t.value })),
    });
  }
  return out;
}
