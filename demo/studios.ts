import {
  UNIT_MODELS,
  bayJack,
  inputsOf,
  outputsOf,
  portJack,
  restOf,
  type Bay,
  type Cable,
  type Normal,
  type Port,
  type Studio,
  type Unit,
  type UnitUse,
  type Wire,
} from '../core/index.ts';

/** A unit of the demo's studios: an invention of ours with a simulation behind its panel. */
function unit(id: string, name: string, model: string, note: string): Unit {
  const { family, width, hasKey, nominal, panel } = UNIT_MODELS[model];
  return { id, name, family, width, hasKey, nominal, panel, simulated: model, note };
}

/** So many analogue ports each way, in pairs; the first pair of outputs feeds the loudspeakers. */
function portsOf(prefix: string, count: number, alignment: number): Port[] {
  return (['out', 'in'] as const).flatMap((side) =>
    Array.from({ length: count }, (_, i): Port => {
      const id = (n: number) => `${prefix}-${side}${n}`;
      return {
        id: id(i + 1),
        name: `${side === 'out' ? 'Out' : 'In'} ${i + 1}`,
        side,
        number: i + 1,
        pair: id(i % 2 ? i : i + 2),
        connector: i < 8 ? 'XLR' : 'jack',
        nominal: 'plus4',
        alignment,
        ...(side === 'out' && i < 2 ? { monitor: true as const } : {}),
      };
    }),
  );
}

/** What stands behind a point: its jack, and the words on it. */
interface Behind {
  jack: string;
  label: string;
}
const portAt = (ports: Port[], side: 'in' | 'out', number: number): Behind => {
  const port = ports.find((p) => p.side === side && p.number === number)!;
  return { jack: portJack(port.id), label: port.name };
};
const socketsOf = (u: Unit, jacks: string[], word: string): Behind[] =>
  jacks.map((jack, i) => {
    const side = jacks.length > 1 ? ` ${['left', 'right'][i]}` : '';
    return { jack, label: `${u.name} ${word}${side}` };
  });

/** A bay whose pairs are listed as upper, lower, normal. */
function bayOf(
  id: string,
  name: string,
  rows: [upper: Behind | null, lower: Behind | null, mode: Normal][],
): { bay: Bay; wires: Wire[] } {
  const pairs = rows.map(([upper, lower, mode]) => ({
    mode,
    upper: upper?.label ?? '',
    lower: lower?.label ?? '',
  }));
  const wires = rows.flatMap(([upper, lower], i): Wire[] => [
    ...(upper ? [{ from: upper.jack, to: bayJack(id, i + 1, 'upper') }] : []),
    ...(lower ? [{ from: bayJack(id, i + 1, 'lower'), to: lower.jack }] : []),
  ]);
  return { bay: { id, name, pairs }, wires };
}

const empty = (count: number): [null, null, Normal][] =>
  Array.from({ length: count }, () => [null, null, 'thru']);

/** Eight ports each way, one bay of two rows of 24, three units. */
export function lightshipCabin(): Studio {
  const gull = unit('gull', 'Gull', 'compressor', 'Slow to wake, holds a voice without pressing it.');
  const locker = unit('drip-locker', 'Drip locker', 'spring', 'Springs under the deck; at −10 dBV.');
  const bollard = unit('bollard', 'Bollard', 'preamp', 'Preamp with a broad equaliser.');
  const ports = portsOf('cabin', 8, 18);
  const ins = (u: Unit) => socketsOf(u, inputsOf(u), 'in');
  const outs = (u: Unit) => socketsOf(u, outputsOf(u), 'out');
  const out = (n: number) => portAt(ports, 'out', n);
  const back = (n: number) => portAt(ports, 'in', n);
  const { bay, wires } = bayOf('cabin-bay', 'Cabin bay', [
    [out(1), null, 'thru'],
    [out(2), null, 'thru'],
    [out(3), null, 'thru'],
    [out(4), null, 'thru'],
    [out(5), null, 'thru'],
    [out(6), ins(bollard)[0], 'thru'],
    [out(7), ins(gull)[0], 'half-normal'],
    [out(8), ins(locker)[0], 'half-normal'],
    [outs(bollard)[0], back(1), 'half-normal'],
    [null, back(2), 'thru'],
    [null, back(3), 'thru'],
    [null, back(4), 'thru'],
    [null, back(5), 'thru'],
    [null, back(6), 'thru'],
    [outs(gull)[0], back(7), 'half-normal'],
    [outs(locker)[0], back(8), 'half-normal'],
    ...empty(6),
    [null, null, 'parallel'],
    [null, null, 'parallel'],
  ]);
  // the last two pairs are one mult of four
  const mult = { from: bayJack(bay.id, 23, 'upper'), to: bayJack(bay.id, 24, 'upper') };
  return {
    format: 'rope-shelf/setup',
    id: 'lightship-cabin',
    version: 1,
    name: 'Lightship cabin',
    note: 'The converted lightship. 0 dBFS leaves at +18 dBu.',
    ports,
    bays: [bay],
    units: [gull, locker, bollard],
    wires: [...wires, mult],
    cables: [],
    controllers: [
      { id: 'rail', name: 'Eight faders on the rail', port: 'B', channel: 1, numbers: [20, 21, 22, 23] },
    ],
    midi: { A: 'Keys by the hatch', B: 'Eight faders on the rail' },
    loops: [],
  };
}

/** Sixteen ports each way, two bays, four units, one cable that turns the polarity. */
export function harbourHall(): Studio {
  const keel = unit('twin-keel', 'Twin keel', 'stereo-compressor', 'For buses; its times are in steps.');
  const ferric = unit(
    'ferric-lantern',
    'Ferric lantern',
    'tape',
    'Thickens; turn the drive, then the output.',
  );
  const doorstep = unit('doorstep', 'Doorstep', 'preamp', 'Preamp with a broad equaliser.');
  const nave = unit('under-the-nave', 'Under the nave', 'vault', 'A large dark room.');
  const ports = portsOf('hall', 16, 24);
  const sends = [...[keel, ferric, nave, doorstep].flatMap((u) => socketsOf(u, inputsOf(u), 'in'))];
  const returns = [...[keel, ferric, nave, doorstep].flatMap((u) => socketsOf(u, outputsOf(u), 'out'))];
  const first = bayOf('hall-bay-a', 'Hall bay A', [
    ...Array.from({ length: 16 }, (_, i): [Behind, Behind | null, Normal] => {
      const normal = i >= 8 && sends[i - 8] ? 'normal' : 'thru';
      return [portAt(ports, 'out', i + 1), sends[i - 8] ?? null, normal];
    }),
    ...empty(8),
  ]);
  const second = bayOf('hall-bay-b', 'Hall bay B', [
    ...Array.from({ length: 16 }, (_, i): [Behind | null, Behind, Normal] => {
      const normal = i >= 8 && returns[i - 8] ? 'normal' : 'thru';
      return [returns[i - 8] ?? null, portAt(ports, 'in', i + 1), normal];
    }),
    ...empty(8),
  ]);
  const turned: Cable = {
    id: 'hall-cable-1',
    from: bayJack('hall-bay-b', 15, 'upper'),
    to: bayJack('hall-bay-b', 1, 'lower'),
    fault: 'polarity turned',
  };
  return {
    format: 'rope-shelf/setup',
    id: 'harbour-hall',
    version: 1,
    name: 'Harbour Hall',
    note: 'The village hall. 0 dBFS leaves at +24 dBu. One cable turns the polarity.',
    ports,
    bays: [first.bay, second.bay],
    units: [keel, ferric, doorstep, nave],
    wires: [...first.wires, ...second.wires],
    cables: [turned],
    controllers: [],
    midi: { A: 'Stage piano' },
    loops: [],
  };
}

/** A unit of a studio with some of its controls set. */
export function unitIn(studio: Studio, name: string, positions: Record<string, number>): UnitUse {
  const found = studio.units.find((u) => u.name === name)!;
  return { id: '1', unit: found, positions: { ...restOf(found.panel), ...positions } };
}
