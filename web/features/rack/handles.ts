import { BLEND_SPEC, DEVICE_TYPES, tieTargets, walkSlots, type Rack } from '../../../core/index.ts';

export interface TypicalHandle {
  label: string;
  name: string;
  ties: { slot: string; param: string; from: number; to: number }[];
}

/** Parameters that make something louder, and those that take it back. */
const DRIVES: Record<string, { up: string; span: number; down: string }> = {
  saturator: { up: 'drive', span: 12, down: 'output' },
  clipper: { up: 'drive', span: 12, down: 'output' },
  limiter: { up: 'threshold', span: -12, down: 'threshold' },
  trim: { up: 'gain', span: 12, down: 'gain' },
  outboard: { up: 'send', span: 12, down: 'return' },
  eq: { up: 'input', span: 12, down: 'output' },
};

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
    const k = DRIVES[d.type];
    const t = DEVICE_TYPES[d.type];
    const up = k && t.byId[k.up];
    const down = k && t.byId[k.down];
    if (up && down && k.up !== k.down) {
      const now = d.params[k.up] as number;
      const back = d.params[k.down] as number;
      // as far as both ranges reach, so that the output goes down by the same
      const span = Math.min(k.span, up.max! - now, back - down.min!);
      if (span > 0) {
        out.push({
          label: `${d.name}: ${up.label.toLowerCase()} up, ${down.label.toLowerCase()} down by the same`,
          name: up.label,
          ties: [
            { slot: d.id, param: k.up, from: now, to: now + span },
            { slot: d.id, param: k.down, from: back, to: back - span },
          ],
        });
      }
    }
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
