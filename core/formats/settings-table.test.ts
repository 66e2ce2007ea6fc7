/** Settings of devices as a table and back: what goes out comes in; what can't be taken is told by its row. */
import fc from 'fast-check';
import { dev, sessionWith } from '../../tests/support/build.ts';
import { anyPreset } from '../../tests/support/generate.ts';
import { capture, createDevice, settingsFromCsv, settingsToCsv } from '../index.ts';

const content = () => {
  const chain = [
    createDevice('compressor', { threshold: -24 }, { name: '=Sum, "close"' }),
    createDevice('eq', { 'b3.on': true, 'b3.gain': 3 }),
  ];
  return capture(sessionWith([{ id: 'a', name: 'Voice', chain }]), ['a']).content;
};

test('what goes out comes in again and changes nothing, whatever the preset is', () => {
  fc.assert(
    fc.property(anyPreset(), (p) => {
      const read = settingsFromCsv(p.content, settingsToCsv(p.content));
      expect([read.changed, read.problems]).toEqual([[], []]);
      expect(read.content).toBe(p.content);
    }),
    { numRuns: 60 },
  );
});

test('a person’s table: some rows, in another separator, values as they are said', () => {
  const c = content();
  const [compressor, eq] = c.tracks[0].chain.map((s) => s.id);
  const text = `\uFEFFsetting;of;value;remark\nthreshold;${compressor};-20 dB;less\nratio;${compressor};1:4;\nb3.freq;${eq};2.5k;\n`;
  const read = settingsFromCsv(c, text);
  expect(read.problems).toEqual([]);
  expect(read.changed.map((x) => x.to)).toEqual(['−20.0 dB', '4.0:1', '2.50 kHz']);
  const [a, b] = read.content.tracks[0].chain.map(dev);
  expect([a.params.threshold, a.params.ratio, b.params['b3.freq']]).toEqual([-20, 4, 2500]);
  expect(dev(c.tracks[0].chain[0]).params.threshold).toBe(-24);
  // no cell of it is taken for a formula
  const rows = settingsToCsv(c).split('\r\n');
  expect(rows[1]).toContain('"\'=Sum, ""close"""');
});

test.each([
  ['of,setting\n', /no column “value”/],
  ['of,setting,value\nnobody,threshold,1\n', /Row 2: this preset has no device “nobody”/],
  ['of,setting,value\nID,loudness,1\n', /no setting “loudness”/],
  ['of,setting,value\nID,threshold,90\n', /Threshold goes from −60\.0 dB to 0\.0 dB/],
  ['of,setting,value\nID,threshold,loud\n', /“loud” is not a value/],
])('what can’t be taken is said, and nothing of the table is taken: %j', (text, problem) => {
  const c = content();
  const read = settingsFromCsv(c, text.replace('ID', c.tracks[0].chain[0].id));
  expect(read.problems.join()).toMatch(problem);
  expect(read.content).toBe(c);
});
