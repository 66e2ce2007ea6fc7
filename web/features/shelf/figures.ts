import {
  DEVICE_TYPES,
  controllerName,
  formatDb,
  formatPan,
  formatValue,
  isListed,
  positionText,
  positionsOf,
  tieTarget,
  type Device,
  type Handle,
  type Rack,
  type Slot,
  type Strand,
  type UnitUse,
  valueIn,
} from '../../../core/index.ts';

/** One value of a device or rack, in words and units. */
export interface Figure {
  id: string;
  label: string;
  text: string;
}

/** What a device or rack is set to. */
export const figuresOf = (slot: Slot): Figure[] =>
  slot.kind === 'rack' ? rackFigures(slot) : deviceFigures(slot);

const deviceFigures = (d: Device): Figure[] => [
  ...(d.hardware?.units ?? []).flatMap(unitFigures),
  ...DEVICE_TYPES[d.type].params
    // what sounds without a unit says nothing beside one
    .filter((p) => isListed(d, p.id) && !(d.hardware?.units.length && p.id === 'unit'))
    .map((p) => ({ id: p.id, label: p.label, text: formatValue(p, valueIn(d, p)) })),
];

/** A unit of hardware with where its controls stand. */
function unitFigures(use: UnitUse): Figure[] {
  const stands = positionsOf(use);
  return [
    { id: `${use.id}/unit`, label: 'unit', text: `${use.unit.name}, ${use.unit.family}` },
    ...use.unit.panel.map((c) => ({
      id: `${use.id}/${c.id}`,
      label: c.label,
      text: positionText(c, stands[c.id]),
    })),
  ];
}

function rackFigures(r: Rack): Figure[] {
  const figures = r.strands.map(strandFigure);
  if (r.strands.length > 1 && r.blend.mode !== 'off') {
    const mode = r.blend.mode === 'power' ? 'equal power' : 'linear';
    figures.push({ id: 'blend', label: 'blend', text: `${Math.round(r.blend.position)} % (${mode})` });
  }
  return [...figures, ...r.handles.map((h) => handleFigure(r, h))];
}

function strandFigure(s: Strand): Figure {
  const pan = s.pan ? `, pan ${formatPan(s.pan)}` : '';
  const mute = s.mute ? ', muted' : '';
  return { id: s.id, label: `strand ${s.name}`, text: `${formatDb(s.level)}${pan}${mute}` };
}

function handleFigure(r: Rack, h: Handle): Figure {
  const controller = h.cc === null ? '' : `, ${controllerName(h.cc)}`;
  const moved = h.ties.map((tie) => tieTarget(r, tie)?.label ?? '?').join(' and ');
  return { id: h.id, label: `handle ${h.name}`, text: `${h.value} %${controller}, moves ${moved}` };
}
