/**
 * Files as other programs write them: every unit of the format for every value, both ways; the order of
 * elements; clips moved and copied; entries of any name and packing. Facts of DAWproject 1.0 and its schema from
 * memory of the public specification; musical pitch by ISO 16 (69 is 440 Hz).
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  createDevice,
  createTrack,
  readDawproject,
  readZip,
  writeDawproject,
  type Clip,
  type Lane,
  type Session,
  type Track,
} from '../../index.ts';
import { readArchive } from '../zip.ts';
import { parseXml } from './xml.ts';
import { handFile } from '../../../tests/support/dawproject.ts';

const HALF = 6.0206;
const TEMPO = 120;
const project = (channel: string, arrangement = '') => `<?xml version="1.0" encoding="UTF-8"?>
<Project version="1.0"><Application name="Other" version="1"/>
<Transport><Tempo unit="bpm" value="${TEMPO}" id="t"/></Transport>
<Structure>
<Track id="a" name="Lead" contentType="audio"><Channel id="ca" destination="cm">${channel}</Channel></Track>
<Track id="b" name="Other" contentType="audio"><Channel id="cb" destination="cm"/></Track>
<Track id="r" name="Plate" contentType="audio"><Channel id="cr" role="effect" destination="cm"/></Track>
<Track id="m" name="Master" contentType="audio"><Channel id="cm" role="master"/></Track>
</Structure>
<Arrangement id="arr"><Lanes timeUnit="beats" id="l">${arrangement}</Lanes></Arrangement><Scenes/></Project>`;
const file = (channel: string, arrangement = '') => handFile(project(channel, arrangement));
const xmlOf = (bytes: Uint8Array) => new TextDecoder().decode(readZip(bytes, 'x')['project.xml']);
const lead = (s: Session): Track => s.tracks.find((t) => t.name === 'Lead')!;
const changed = (s: Session, change: (t: Track) => void): Session => {
  const out = structuredClone(s);
  change(lead(out));
  return out;
};
const device = (tag: string, inner: string) =>
  `<Devices><${tag} id="d" deviceID="x" deviceRole="audioFX" name="D">${inner}</${tag}></Devices>`;
const param = (tag: string, p: string) => (v: number | string, unit: string) => ({
  channel: device(tag, `<${p} id="p" ${unit ? `unit="${unit}" ` : ''}value="${v}"/>`),
});
const band = (p: string) => (v: number | string, unit: string) => ({
  channel: device('Equalizer', `<Band type="bell"><${p} id="p" unit="${unit}" value="${v}"/></Band>`),
});
const fader =
  (p: string, more = '') =>
  (v: number | string, unit: string) => ({
    channel: `<${p} id="p" unit="${unit}" ${more} value="${v}"/>`,
  });
const ofDevice = (id: string) => ({
  get: (t: Track) => (t.chain[0] as { params: Record<string, number> }).params[id],
  set: (t: Track, v: number) => {
    (t.chain[0] as { params: Record<string, number> }).params[id] = v;
  },
});
const level = { get: (t: Track) => t.level, set: (t: Track, v: number) => void (t.level = v) };
const pan = { get: (t: Track) => t.pan, set: (t: Track, v: number) => void (t.pan = v) };

type Where = ReturnType<typeof ofDevice>;
type Put = (v: number | string, unit: string) => { channel: string };
/** element, unit, number in the file, what it is here, another value, that one's number in the file */
const UNITS: [string, Put, Where, string, number, number, number, number][] = [
  ['Volume', fader('Volume'), level, 'linear', 0.5, -HALF, 0, 1],
  ['Volume', fader('Volume'), level, 'decibel', -7, -7, 3, 3],
  ['Volume', fader('Volume'), level, 'percent', 50, -HALF, 0, 100],
  ['Volume', fader('Volume'), level, 'normalized', 0.5, -HALF, 0, 1],
  ['Pan', fader('Pan'), pan, 'normalized', 0.25, -50, 50, 0.75],
  ['Pan', fader('Pan'), pan, 'linear', -0.5, -50, 50, 0.5],
  ['Pan, from 0', fader('Pan', 'min="0" max="1"'), pan, 'linear', 0.25, -50, 50, 0.75],
  ['Pan', fader('Pan'), pan, 'percent', -50, -50, 50, 50],
  ['Pan, from 0', fader('Pan', 'min="0" max="100"'), pan, 'percent', 25, -50, 50, 75],
  ['Ratio', param('Compressor', 'Ratio'), ofDevice('ratio'), 'linear', 4, 4, 8, 8],
  ['Ratio as slope', param('Compressor', 'Ratio'), ofDevice('ratio'), 'linear', 0.25, 4, 8, 0.125],
  ['Ratio', param('Compressor', 'Ratio'), ofDevice('ratio'), 'percent', 50, 2, 4, 25],
  ['Ratio', param('Compressor', 'Ratio'), ofDevice('ratio'), 'percent', 400, 4, 8, 800],
  ['Ratio', param('Compressor', 'Ratio'), ofDevice('ratio'), 'normalized', 0.5, 2, 4, 0.25],
  ['Attack', param('Compressor', 'Attack'), ofDevice('attack'), 'seconds', 0.02, 20, 50, 0.05],
  ['Attack', param('Compressor', 'Attack'), ofDevice('attack'), 'beats', 0.04, 20, 50, 0.1],
  ['Attack', param('Compressor', 'Attack'), ofDevice('attack'), 'hertz', 50, 20, 50, 20],
  ['Release', param('Compressor', 'Release'), ofDevice('release'), 'bpm', 120, 500, 250, 240],
  ['Threshold', param('Compressor', 'Threshold'), ofDevice('threshold'), 'decibel', -12, -12, -20, -20],
  ['Threshold', param('Compressor', 'Threshold'), ofDevice('threshold'), 'linear', 0.5, -HALF, -20, 0.1],
  ['Threshold', param('Compressor', 'Threshold'), ofDevice('threshold'), 'percent', 50, -HALF, -20, 10],
  ['OutputGain', param('Compressor', 'OutputGain'), ofDevice('makeup'), 'linear', 2, HALF, 0, 1],
  ['Range', param('NoiseGate', 'Range'), ofDevice('range'), 'linear', 0.01, -40, -20, 0.1],
  ['Range', param('NoiseGate', 'Range'), ofDevice('range'), 'decibel', 40, -40, -20, 20],
  ['Limiter attack', param('Limiter', 'Attack'), ofDevice('lookahead'), 'beats', 0.01, 5, 2, 0.004],
  ['Freq', band('Freq'), ofDevice('b1.freq'), 'hertz', 300, 300, 600, 600],
  ['Freq', band('Freq'), ofDevice('b1.freq'), 'semitones', 81, 880, 440, 69],
  ['Freq', band('Freq'), ofDevice('b1.freq'), 'seconds', 0.001, 1000, 500, 0.002],
  ['Freq', band('Freq'), ofDevice('b1.freq'), 'bpm', 6000, 100, 200, 12000],
  ['Freq', band('Freq'), ofDevice('b1.freq'), 'beats', 0.01, 200, 100, 0.02],
  ['Gain', band('Gain'), ofDevice('b1.gain'), 'decibel', 3, 3, -3, -3],
  ['Gain', band('Gain'), ofDevice('b1.gain'), 'linear', 2, HALF, 0, 1],
  ['Gain', band('Gain'), ofDevice('b1.gain'), 'percent', 200, HALF, 0, 100],
  ['Q', band('Q'), ofDevice('b1.q'), 'linear', 2, 2, 4, 4],
  ['Q', band('Q'), ofDevice('b1.q'), 'percent', 150, 1.5, 4, 400],
  // a band two octaves wide has a Q of 2/3
  ['Q', band('Q'), ofDevice('b1.q'), 'semitones', 24, 2 / 3, 1.414214, 12],
];

describe('units of values', () => {
  test.each(UNITS)('%s', (what, put, where, unit, inFile, here, next, nextInFile) => {
    const source = file(put(inFile, unit).channel);
    const { session } = readDawproject(source);
    expect([what, unit, where.get(lead(session))]).toEqual([what, unit, expect.closeTo(here, 3)]);
    const written = xmlOf(
      writeDawproject(
        changed(session, (t) => where.set(t, next)),
        { source },
      ).bytes,
    );
    const e = /<\w+ id="p"[^>]*>/.exec(written)![0];
    expect(e).toContain(`unit="${unit}"`);
    expect(Number(/value="([^"]*)"/.exec(e)![1])).toBeCloseTo(nextInFile, 3);
  });

  test.each([
    ['bpm', 90, 90],
    ['hertz', 1.5, 90],
    ['seconds', 0.5, 120],
  ])('a tempo in %s', (unit, v, tempo) => {
    const xml = project('').replace(/<Tempo[^>]*>/, `<Tempo unit="${unit}" value="${v}" id="t"/>`);
    expect(readDawproject(handFile(xml)).session.tempo).toBeCloseTo(tempo, 6);
  });

  test.each([
    ['level', fader('Volume')(3, 'hertz').channel, (t: Track) => t.level, 0],
    ['pan', fader('Pan')(3, 'seconds').channel, (t: Track) => t.pan, 0],
    ['Attack', param('Compressor', 'Attack')(3, 'decibel').channel, ofDevice('attack').get, NaN],
    ['Freq', band('Freq')(0.5, 'normalized').channel, ofDevice('b1.freq').get, NaN],
  ])(
    'a %s in a unit that says nothing about it is told, and written in one that does',
    (name, channel, get, usual) => {
      const source = file(channel);
      const { session, notes } = readDawproject(source);
      expect(notes.join()).toMatch(new RegExp(`${name}.* could not be read`));
      if (!Number.isNaN(usual)) expect(get(lead(session))).toBe(usual);
      expect(xmlOf(writeDawproject(session, { source }).bytes)).toBe(xmlOf(source));
    },
  );

  test('ratios that are not plain numbers are told', () => {
    expect(readDawproject(file(param('Compressor', 'Ratio')(50, 'percent').channel)).notes.join()).toContain(
      'Ratio of 50 percent was read as 2:1',
    );
  });

  test('a value outside the range that the file gives it widens the range', () => {
    const source = file('<Volume id="v" unit="linear" min="0" max="1" value="0.5"/>');
    const { session } = readDawproject(source);
    const { bytes } = writeDawproject(
      changed(session, (t) => void (t.level = 6)),
      { source },
    );
    expect(xmlOf(bytes)).toMatch(/<Volume id="v" unit="linear" min="0" max="1.99526\d*" value="1.99526\d*"/);
    expect(lead(readDawproject(bytes).session).level).toBeCloseTo(6, 4);
  });
});

describe('elements', () => {
  const lane = (of: string, param: string): Lane => ({
    id: `lane-${param}`,
    of,
    param,
    on: true,
    points: [
      { at: 0, value: 0 },
      { at: 1, value: param === 'mute' ? 1 : -20 },
    ],
  });
  test('a lane of a value that the file has no element for gets one that can be read', () => {
    const source = file('<Sends><Send id="s" type="post" destination="cr"/></Sends>');
    const { session } = readDawproject(source);
    const moving = changed(session, (t) => {
      t.pan = 30;
      t.automation = [...['level', 'pan', 'mute'].map((p) => lane('a', p)), lane('s', 'level')];
    });
    const { bytes } = writeDawproject(moving, { source });
    const back = lead(readDawproject(bytes).session);
    expect(back.automation).toHaveLength(4);
    expect([back.pan, back.mute, back.level]).toEqual([30, false, 0]);
    const order = (e: string) => [...xmlOf(bytes).matchAll(new RegExp(e, 'g'))].map((m) => m[0]);
    expect(order('<(Mute|Pan|Sends|Volume)\\b')).toEqual(['<Mute', '<Pan', '<Sends', '<Volume', '<Volume']);
  });

  test('children stand in the order of the schema, in new and in edited elements', () => {
    const source = file(
      `<Devices><Compressor id="c" name="C"><Enabled value="true"/><Threshold unit="decibel" value="-10"/></Compressor><Equalizer id="e" name="E"><OutputGain unit="decibel" value="1"/></Equalizer></Devices><Volume value="1"/>`,
    );
    const { session } = readDawproject(source);
    const edited = changed(session, (t) => {
      t.mute = true;
      t.pan = 10;
      t.sends = [{ id: 'new', to: 'r', level: -6, tap: 'post', panMode: 'own', pan: 20, on: true }];
      ofDevice('ratio').set(t, 5);
      ofDevice('attack').set(t, 3);
      ofDevice('knee').set(t, 3);
      (t.chain[1] as { params: Record<string, unknown> }).params['b1.on'] = true;
      (t.chain[1] as { params: Record<string, unknown> }).params.in = 2;
      t.chain.push(createDevice('gate', {}, { id: 'g' }), createDevice('limiter', {}, { id: 'l' }));
    });
    const doc = parseXml(readZip(writeDawproject(edited, { source }).bytes, 'x')['project.xml'], 'x', 'x');
    const childrenOf = (id: string) => {
      const e = Array.from(doc.getElementsByTagName('*')).find((x) => x.getAttribute('id') === id)!;
      return [
        ...new Set(
          Array.from(e.childNodes)
            .filter((n) => n.nodeType === 1)
            .map((n) => n.nodeName),
        ),
      ];
    };
    expect(childrenOf('ca')).toEqual(['Devices', 'Mute', 'Pan', 'Sends', 'Volume']);
    expect(childrenOf('new')).toEqual(['Enable', 'Pan', 'Volume']);
    expect(childrenOf('c')).toEqual(['Parameters', 'Enabled', 'Attack', 'Ratio', 'Threshold']);
    expect(childrenOf('e')).toEqual(['Band', 'InputGain', 'OutputGain']);
    expect(childrenOf('g')).toEqual([
      'Parameters',
      'Enabled',
      'Attack',
      'Range',
      'Ratio',
      'Release',
      'Threshold',
    ]);
    expect(childrenOf('l')).toEqual([
      'Parameters',
      'Enabled',
      'Attack',
      'OutputGain',
      'Release',
      'Threshold',
    ]);
  });

  test.each([
    ['kit', 'instrument'],
    ['pattern', 'noteFX'],
    ['meter', 'analyzer'],
    ['reverb', 'audioFX'],
  ])('a %s goes out as %s', (type, role) => {
    const { session } = readDawproject(file(''));
    const with1 = changed(session, (t) => void t.chain.push(createDevice(type, {}, { id: 'x' })));
    expect(xmlOf(writeDawproject(with1).bytes)).toContain(`deviceRole="${role}"`);
  });

  test('a send that takes another’s place keeps the points of the one that was there', () => {
    const source = file(
      '<Sends><Send id="s" type="post" destination="cr"><Volume id="sv" unit="linear" value="0.5"/></Send></Sends>',
      '<Lanes track="a"><Points unit="linear"><Target parameter="sv"/><RealPoint time="0" value="0.1" interpolation="hold"/><RealPoint time="4" value="1" interpolation="hold"/></Points></Lanes>',
    );
    const { session } = readDawproject(source);
    expect(lead(session).automation).toHaveLength(1);
    const replaced = changed(session, (t) => {
      t.sends = [{ ...t.sends[0], id: 'heir', level: -3 }];
      t.automation = t.automation!.map((l) => ({ ...l, of: 'heir' }));
    });
    const written = xmlOf(writeDawproject(replaced, { source }).bytes);
    expect(written).toContain('parameter="sv"');
    expect(lead(readDawproject(writeDawproject(replaced, { source }).bytes).session).automation).toHaveLength(
      1,
    );
    const still = changed(replaced, (t) => void delete t.automation);
    expect(xmlOf(writeDawproject(still, { source }).bytes)).not.toContain('RealPoint');
  });
});

describe('clips', () => {
  const WARPED =
    '<Clip id="w" time="4" duration="2" contentTimeUnit="beats" playStart="0" fadeInTime="0.1"><Warps contentTimeUnit="seconds" timeUnit="beats"><Audio channels="1" duration="2" sampleRate="44100"><File path="audio/lead.wav"/></Audio><Warp time="0" contentTime="0"/><Warp time="4" contentTime="1.9"/></Warps></Clip>';
  const lanes = (clips: string) => `<Lanes track="a"><Clips>${clips}</Clips></Lanes>`;
  const nested = (outer: string, inner: string) =>
    `<Clip id="o" ${outer}><Clips><Clip id="w" ${inner}><Audio channels="1" duration="2" sampleRate="44100"><File path="audio/lead.wav"/></Audio></Clip></Clips></Clip>`;
  const edit = (clips: string, change: (t: Track, s: Session) => void) => {
    const source = file('', lanes(clips));
    const { session } = readDawproject(source);
    const out = structuredClone(session);
    change(lead(out), out);
    // the sounds of the source need not be handed in again
    const written = writeDawproject(out, { source });
    return { out, xml: xmlOf(written.bytes), back: readDawproject(written.bytes).session, written };
  };
  const plain = (c: Clip) => ({ start: c.start, offset: c.offset, length: c.length });

  test('moved on its lane: its own units, warps and fades; the same sound', () => {
    const { xml, back, written } = edit(WARPED, (t) => void (t.clips[0].start = 3));
    expect(xml).toContain('<Clip id="w" time="6" duration="2" contentTimeUnit="beats"');
    expect(xml).toContain('<Warp time="4" contentTime="1.9"/>');
    expect(lead(back).clips.map(plain)).toEqual([{ start: 3, offset: 0, length: 1 }]);
    const names = Object.keys(readZip(written.bytes, 'x'));
    expect(names).toEqual([...Object.keys(readZip(handFile(), 'x')), 'rope-shelf.json']);
  });

  test('to another line, cut, copied: warps and file go along, every entry is there once', () => {
    const { xml, back, written } = edit(WARPED, (t, s) => {
      const [c] = t.clips;
      s.tracks.find((x) => x.name === 'Other')!.clips = [
        { ...c, start: 1 },
        { ...c, id: 'copy', start: 9, offset: 0.5, length: 0.25 },
      ];
      t.clips = [];
    });
    expect(xml.match(/<Warp time="4"/g)).toHaveLength(2);
    expect(xml.match(/path="audio\/lead.wav"/g)).toHaveLength(2);
    const other = back.tracks.find((t) => t.name === 'Other')!;
    expect(lead(back).clips).toEqual([]);
    expect(other.clips.map(plain)).toEqual([
      { start: 1, offset: 0, length: 1 },
      { start: 9, offset: 0.5, length: 0.25 },
    ]);
    expect(Object.keys(readZip(written.bytes, 'x')).filter((n) => n.startsWith('audio/'))).toHaveLength(1);
  });

  test.each([
    ['in time', 'time="4" duration="2"', 'time="0" duration="2"', { start: 2, offset: 0, length: 1 }],
    [
      'skipping its beginning',
      'time="4" duration="2" playStart="1"',
      'time="0" duration="3"',
      { start: 2, offset: 0.5, length: 1 },
    ],
    [
      'cut at its end',
      'time="4" duration="1"',
      'time="0" duration="3"',
      { start: 2, offset: 0, length: 0.5 },
    ],
    [
      'later inside',
      'time="4" duration="4" playStart="1"',
      'time="2" duration="1"',
      { start: 2.5, offset: 0, length: 0.5 },
    ],
  ])('inside another clip, %s', (_, outer, inner, heard) => {
    const here = edit(
      nested(`${outer} contentTimeUnit="beats"`, `${inner} contentTimeUnit="beats"`),
      () => undefined,
    );
    expect(lead(here.out).clips.map(plain)).toEqual([heard]);
    const moved = edit(
      nested(`${outer} contentTimeUnit="beats"`, `${inner} contentTimeUnit="beats"`),
      (t) => {
        t.clips[0].start = 7;
      },
    );
    expect(lead(moved.back).clips.map(plain)).toEqual([{ ...heard, start: 7 }]);
  });

  test('a sound of ours keeps its name; one that nobody has is left out and told', () => {
    const source = file('');
    const { session } = readDawproject(source);
    const media = [...readDawproject(handFile()).media][0];
    const clip = (id: string, of: string): Clip => ({
      id,
      media: of,
      start: 0,
      offset: 0,
      length: 1,
      gain: 0,
    });
    const ref = {
      id: media[0],
      name: 'Lead voice_03.wav',
      sampleRate: 44100,
      channels: 1 as const,
      frames: 88200,
    };
    const gone = 'f'.repeat(64);
    const out = changed(session, (t) => void (t.clips = [clip('c1', ref.id), clip('c2', gone)]));
    out.media = [ref, { ...ref, id: gone, name: 'Lost.wav' }];
    const written = writeDawproject(out, { source, media: new Map([media]) });
    expect(Object.keys(readZip(written.bytes, 'x'))).toContain('audio/Lead voice_03.wav');
    expect(written.notes.join()).toContain('“Lost.wav” is not here any more');
    expect(lead(readDawproject(written.bytes).session).clips).toHaveLength(1);
  });
});

describe('our own entry and the archive', () => {
  const ours = (text: string) => handFile(project(''), { 'rope-shelf.json': new TextEncoder().encode(text) });
  const good = (tracks: string) =>
    `{"version":1,"session":{"sampleRate":48000,"bitDepth":24,"panLaw":-3,"note":""},"tracks":${tracks},"devices":{}}`;
  test.each([
    ['no JSON', '{"version":1,'],
    ['null', 'null'],
    ['a list', '[]'],
    ['no tracks', '{"version":1}'],
    ['tracks of another kind', good('[]')],
    ['a role that there is none of', good('{"a":{"role":"king"}}')],
    ['an input that is a number', good('{"a":{"input":7}}')],
    ['a lane that is a word', good('{"a":{"automation":"up"}}')],
  ])('damaged (%s): ignored with a note, and every export works', (_, text) => {
    const source = ours(text);
    const { session, notes } = readDawproject(source);
    expect(notes.join()).toContain('rope-shelf.json');
    const { bytes } = writeDawproject(
      changed(session, (t) => void (t.level = -3)),
      { source },
    );
    expect(readDawproject(bytes).notes).toEqual([]);
    expect(lead(readDawproject(bytes).session).level).toBeCloseTo(-3, 4);
  });

  test.each(['__proto__', 'constructor', 'toString'])('ids and entries called %s are only names', (name) => {
    const xml = project('').replaceAll('id="a"', `id="${name}"`).replaceAll('id="ca"', `id="${name}2"`);
    const source = handFile(xml, Object.fromEntries([[name, new Uint8Array([1, 2])]]));
    const { session } = readDawproject(source);
    const { bytes } = writeDawproject(
      changed(session, (t) => void (t.level = -3)),
      { source },
    );
    expect(readZip(bytes, 'x')[name]).toEqual(new Uint8Array([1, 2]));
    expect(lead(readDawproject(bytes).session).level).toBeCloseTo(-3, 4);
  });

  test('what the archive says beside its files survives a rewrite; unzip finds no fault', () => {
    const dir = mkdtempSync(join(tmpdir(), 'daw-'));
    const put = (name: string, data: Uint8Array | string) => writeFileSync(join(dir, name), data);
    put('project.xml', project(''));
    put('plain.bin', new Uint8Array(5000).fill(7));
    const zip = (...args: string[]) => execFileSync('zip', ['-q', ...args], { cwd: dir });
    execFileSync('mkdir', ['-p', join(dir, 'empty')]);
    execFileSync('touch', ['-d', '2019-04-05 06:07:08', join(dir, 'plain.bin'), join(dir, 'empty')]);
    zip('-0', 'x.dawproject', 'plain.bin', 'empty/');
    zip('x.dawproject', 'project.xml');
    execFileSync('zip', ['-q', '-z', 'x.dawproject'], { cwd: dir, input: 'made by hand\n' });
    const source = new Uint8Array(readFileSync(join(dir, 'x.dawproject')));
    const { session } = readDawproject(source);
    const { bytes } = writeDawproject(
      changed(session, (t) => void (t.level = -3)),
      { source },
    );
    put('out.zip', bytes);
    execFileSync('unzip', ['-tq', 'out.zip'], { cwd: dir });
    const listed = (f: string) =>
      execFileSync('unzip', ['-v', f], { cwd: dir, encoding: 'utf8' })
        .split('\n')
        .filter((l) => /plain|empty/.test(l));
    expect(listed('out.zip')).toEqual(listed('x.dawproject'));
    expect(listed('out.zip').join()).toMatch(/Stored.*2019-04-05 06:07/);
    expect(new TextDecoder().decode(readArchive(bytes, 'x').comment)).toBe('made by hand');
    expect(readArchive(bytes, 'x').parts.map((p) => p.name)).toEqual([
      'plain.bin',
      'empty/',
      'project.xml',
      'rope-shelf.json',
    ]);
  });

  test('a track of another program in front of ours: nothing is lost on the way out and in', () => {
    const { session } = readDawproject(file(''));
    session.tracks.unshift(createTrack('audio', { name: 'New', output: { kind: 'track', track: 'm' } }));
    const { bytes } = writeDawproject(session, { source: file('') });
    expect(readDawproject(bytes).session.tracks.map((t) => t.name)).toEqual(
      session.tracks.map((t) => t.name),
    );
  });
});
