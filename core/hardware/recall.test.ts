import type { HardwareUse } from '../model/hardware.ts';
import { createDevice } from '../session/create.ts';
import { CLEAN_LINE } from '../devices/units/loop.ts';
import { port, studio, unit } from '../../tests/support/studio.ts';
import { portJack } from './jacks.ts';
import { simulatedLine } from './studio.ts';
import { UNIT_MODELS } from '../devices/units/index.ts';
import { RECALLED, compareRecall, suspectControl } from './recall.ts';
import { measureSimulated } from './simulated.ts';

const preamp = (positions: Record<string, number>) => {
  const { panel, family } = UNIT_MODELS.preamp;
  const units = [
    { id: '1', unit: unit('b', { name: 'Bollard', panel, family, simulated: 'preamp' }), positions },
  ];
  return createDevice('outboard', {}, { hardware: { units, measured: null } satisfies HardwareUse });
};
const measured = (positions: Record<string, number>) => measureSimulated(preamp(positions), 48000, '');

test('a loop that is set as it was is recalled within 0.3 dB; one knob that is off is found', () => {
  const then = measured({ midGain: 4, gain: -10 });
  expect(compareRecall(then, measured({ midGain: 4, gain: -10 })).within).toBeLessThan(RECALLED);
  const off = compareRecall(then, measured({ midGain: 4, gain: -5 }));
  expect(off.gain).toBeCloseTo(5, 0);
  const bent = measured({ midGain: 4, gain: -10, highGain: 12 });
  expect(compareRecall(then, bent).at).toBeGreaterThan(5000);
  expect(suspectControl(preamp({ midGain: 4, gain: -10 }), bent)).toMatchObject({
    unit: 'Bollard',
    control: 'High gain',
    stands: '+12.0 dB',
  });
});

test('a simulated unit follows its panel, and a line is as its cables are', () => {
  // quiet enough that its saturation hardly works
  expect(measured({ gain: -5 }).gain - measured({ gain: -10 }).gain).toBeCloseTo(5, 0);
  expect(measured({ polarity: 1 }).polarity).toBe(-1);
  const d = preamp({});
  const line = {
    delay: 400,
    gain: -3,
    polarity: -1 as const,
    noise: -60,
    hum: -50,
    swapped: false,
    dead: false,
  };
  const found = measureSimulated({ ...d, hardware: { ...d.hardware!, line } }, 48000, '');
  expect([found.delay, found.polarity]).toEqual([400, -1]);
  expect(found.faults.some((f) => f.startsWith('hum at 50 Hz'))).toBe(true);
  expect(found.faults.some((f) => f.startsWith('noise at −'))).toBe(true);
  const dead = measureSimulated(
    { ...d, hardware: { ...d.hardware!, line: { ...line, noise: null, hum: null, dead: true } } },
    48000,
    '',
  );
  expect(dead.faults).toEqual(['nothing came back']);
  const put = {
    ...d.hardware!,
    line: { ...line, noise: null, hum: null },
    correct: { turned: true as const },
  };
  expect(measureSimulated({ ...d, hardware: put }, 48000, '').polarity).toBe(1);
});

test.each([
  ['dead', { dead: true, polarity: 1 }],
  ['polarity turned', { dead: false, polarity: -1 }],
  ['hum', { dead: false, hum: -46 }],
  ['noise', { dead: false, noise: -58 }],
] as const)(
  'a cable that is %s is heard in the simulated loop that it is in, and in no other',
  (fault, line) => {
    const ports = [port('o1', 'out', 1), port('o2', 'out', 2), port('i1', 'in', 1), port('i2', 'in', 2)];
    const cables = [
      { id: 'a', from: portJack('o1'), to: 'unit/b/in1', fault },
      { id: 'b', from: 'unit/b/out1', to: portJack('i1') },
      { id: 'c', from: portJack('o2'), to: portJack('i2') },
    ];
    const place = studio({ ports, units: [unit('b')], cables });
    const uses = [{ id: '1', unit: place.units[0], positions: {} }];
    expect(simulatedLine(place, 'Out 1', uses, 'In 1')).toMatchObject(line);
    expect(simulatedLine(place, 'Out 2', [], 'In 2')).toEqual(CLEAN_LINE);
  },
);
