import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { zipSync } from 'fflate';
import {
  FormatError,
  applyDrop,
  canonicalXml,
  capture,
  clone,
  createPreset,
  mapDevices,
  planDrop,
  readDawproject,
  readWav,
  readZip,
  validateSession,
  writeDawproject,
  writeWav,
  type MediaRef,
  type Session,
} from '../index.ts';
import { parseXml, type Element } from './dawproject/xml.ts';
import { PROJECT, STATE, handFile } from '../../tests/support/dawproject.ts';
import { anySession } from '../../tests/support/generate.ts';
import { clipOf, dev, device, difference, noise, sessionWith, sine } from '../../tests/support/build.ts';

const dir = mkdtempSync(join(tmpdir(), 'rope-shelf-formats-'));
afterAll(() => rmSync(dir, { recursive: true, force: true }));

describe('WAV, against another program (sox)', () => {
  const x = [sine(997, 0.7, 0.1), noise(0.1, 0.9)];
  const sox = (...args: string[]) => execFileSync('sox', args, { stdio: ['ignore', 'pipe', 'ignore'] });
  test.each([
    [16, 'signed-integer', 1 / 32768],
    [24, 'signed-integer', 1 / 8388608],
    [32, 'signed-integer', 3e-8],
    ['float', 'floating-point', 0],
  ] as const)('what we write as %s bit, sox reads', (format, _, step) => {
    const f = join(dir, `w${format}.wav`);
    writeFileSync(f, writeWav(x, 44100, format, 'none'));
    const raw = sox(f, '-t', 'f32', '-');
    const read = new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length));
    expect(read.length).toBe(x[0].length * 2);
    for (let i = 0; i < x[0].length; i++) {
      expect(Math.abs(read[i * 2 + 1] - x[1][i])).toBeLessThanOrEqual(step * 0.51 + 1e-7);
    }
  });
  test.each([
    ['16', 'signed-integer', 22050, 1],
    ['24', 'signed-integer', 96000, 2],
    ['32', 'signed-integer', 44100, 2],
    ['32', 'floating-point', 48000, 2],
    ['64', 'floating-point', 48000, 1],
    ['8', 'unsigned-integer', 8000, 1],
  ])('what sox writes (%s bit %s, %i Hz, %i ch), we read', (bits, encoding, rate, channels) => {
    const f = join(dir, 's.wav');
    sox(
      '-n',
      '-r',
      String(rate),
      '-b',
      bits,
      '-e',
      encoding,
      '-c',
      String(channels),
      '-D',
      f,
      'synth',
      '0.1',
      'sine',
      '440',
      'gain',
      '-6',
    );
    const w = readWav(readFileSync(f));
    expect([w.sampleRate, w.channels.length, w.float]).toEqual([
      rate,
      channels,
      encoding === 'floating-point',
    ]);
    const raw = sox(f, '-t', 'f64', '-');
    const heard = new Float64Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length));
    for (let c = 0; c < channels; c++) {
      w.channels[c].forEach((v, i) => {
        if (Math.abs(v - heard[i * channels + c]) > 1e-7) {
          throw new Error(`frame ${i}: ${v} against ${heard[i * channels + c]}`);
        }
      });
    }
    expect(20 * Math.log10(Math.max(...w.channels[0]))).toBeCloseTo(-6, 1);
  });
  test('integers come back as they were written; 24-bit error stays under −138 dBFS', () => {
    const back = readWav(writeWav(x, 48000, 24));
    expect(20 * Math.log10(difference(back.channels[0], x[0]))).toBeLessThan(-138);
    expect(writeWav(back.channels, 48000, 24)).toEqual(writeWav(x, 48000, 24));
  });
  test('bad files end in an error that names the place', () => {
    const good = writeWav(x, 48000, 24);
    expect(() => readWav(new Uint8Array(4))).toThrow(/not a WAV/);
    expect(() => readWav(good.slice(0, 4000), 'take.wav')).toThrow(/^“take\.wav”: the sound is cut short/);
    expect(() => readWav(good.slice(0, 30))).toThrow(FormatError);
    const odd = good.slice();
    odd[20] = 85;
    expect(() => readWav(odd)).toThrow(/coding 85/);
  });
  test('any bytes: an answer or a FormatError, nothing else', () => {
    const good = writeWav([sine(100, 0.5, 0.01)], 48000, 16);
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(good.length - 1), fc.nat(255)), { maxLength: 12 }),
        fc.nat(good.length),
        (edits, cut) => {
          const b = good.slice(0, cut || undefined);
          for (const [at, v] of edits) if (at < b.length) b[at] = v;
          try {
            readWav(b);
          } catch (e) {
            expect(e).toBeInstanceOf(FormatError);
          }
        },
      ),
      { numRuns: 400 },
    );
  });
});

describe('ZIP bounds', () => {
  const one = (name: string, data = new Uint8Array(10)) => zipSync({ [name]: data });
  test.each(['../evil.txt', '/etc/x', 'a/../../b', 'c:\\x', 'a\\b'])('the name %s is refused', (name) =>
    expect(() => readZip(one(name), 'f.zip')).toThrow(/outside/),
  );
  test('an archive that unpacks to too much is refused before it is unpacked', () => {
    const bomb = one('big', new Uint8Array(30_000_000));
    expect(bomb.length).toBeLessThan(100_000);
    expect(() => readZip(bomb, 'f.zip', { entries: 10, entryBytes: 1e7, totalBytes: 2e7 })).toThrow(
      /unpacks to more than/,
    );
    expect(() =>
      readZip(
        zipSync(Object.fromEntries(Array.from({ length: 20 }, (_, i) => ['f' + i, new Uint8Array(1)]))),
        'f.zip',
        { entries: 10, entryBytes: 1e7, totalBytes: 1e7 },
      ),
    ).toThrow(/more than 10 entries/);
  });
  test('damaged and false archives', () => {
    expect(() => readZip(new Uint8Array(100), 'f.zip')).toThrow(/not a ZIP/);
    const z = zipSync({ a: noiseBytes(5000) }, { level: 0 });
    z[200] ^= 255;
    expect(() => readZip(z, 'f.zip')).toThrow(/checksum|damaged/);
    expect(() => readZip(z.slice(0, 3000), 'f.zip')).toThrow(FormatError);
  });
  const noiseBytes = (n: number) => Uint8Array.from({ length: n }, (_, i) => (i * 7919) & 255);
});

describe('DAWproject: a file that another program wrote', () => {
  const file = handFile();
  const read = readDawproject(file, 'lantern.dawproject');
  const track = (s: Session, id: string) => s.tracks.find((t) => t.id === id)!;
  const xmlOf = (bytes: Uint8Array) =>
    parseXml(readZip(bytes, 'x')['project.xml'], 'x', 'project.xml').documentElement!;
  /** canonical text of every element that has an id, without its children that have one too */
  const byId = (root: Element) =>
    new Map(
      Array.from(root.getElementsByTagName('*'))
        .filter((e) => e.hasAttribute('id'))
        .map((e) => [e.getAttribute('id')!, e as Element]),
    );

  test('tracks, folders, routing, sends and levels are read', () => {
    const s = read.session;
    expect(validateSession(s)).toEqual([]);
    expect([s.name, s.tempo, s.meter, s.sampleRate]).toEqual(['Lantern Room', 96, [3, 4], 44100]);
    expect(s.tracks.map((t) => [t.id, t.role, t.folder, t.channels])).toEqual([
      ['folder1', 'folder', null, 2],
      ['lead', 'audio', 'folder1', 1],
      ['keys', 'instrument', 'folder1', 2],
      ['plate', 'return', null, 2],
      ['master', 'master', null, 2],
    ]);
    const lead = track(s, 'lead');
    expect([lead.name, lead.note, lead.colour, lead.pan]).toEqual([
      'Lead & first',
      'threshold first',
      'copper',
      -20,
    ]);
    expect(lead.level).toBeCloseTo(-6.02, 2);
    expect(lead.output).toEqual({ kind: 'track', track: 'folder1' });
    expect(lead.sends).toMatchObject([{ to: 'plate', tap: 'post', on: true }]);
    expect(lead.sends[0].level).toBeCloseTo(-12.04, 2);
    expect(track(s, 'plate').level).toBe(-3);
    // beat 4 at 96 bpm is 2.5 s
    expect(lead.clips).toMatchObject([{ start: 2.5, length: 1.25 }]);
  });
  test('known devices become real ones, unknown ones are kept opaque with their state', () => {
    const [eq, plug, comp, limit] = track(read.session, 'lead').chain.map(dev);
    expect([eq.type, plug.type, comp.type, limit.type]).toEqual(['eq', 'opaque', 'compressor', 'limiter']);
    expect(eq.params).toMatchObject({
      'b1.type': 'highPass',
      'b1.slope': '24',
      'b1.freq': 90,
      'b1.on': true,
      'b2.gain': 2.5,
      'b2.on': false,
      out: -1,
    });
    // an input gain of 3 dB: the threshold lies 3 dB lower, the output 3 dB higher
    expect(comp).toMatchObject({
      state: 'bypassed',
      params: { threshold: -23, makeup: 5, ratio: 4, attack: 8, release: 120 },
    });
    expect(plug.foreign).toMatchObject({
      format: 'VST3',
      identifier: '0123456789ABCDEF',
      vendor: 'Somebody',
      state: { path: 'plugins/tape.vstpreset' },
      params: [{ name: 'Wow', value: '0.25' }],
    });
  });
  test('without an edit, everything goes out as it came in, byte for byte', () => {
    const out = writeDawproject(read.session, { source: file });
    expect(readZip(out.bytes, 'out')).toEqual(readZip(file, 'in'));
  });
  test('sounds go out under names that any disk takes and tells apart, and come in again as they were', () => {
    const names = ['Kick.wav', 'kick.wav', '鼓'.repeat(120), 'con', 'a/b:c', '', 'Kick 2.wav'];
    const bytes = names.map((_, i) => writeWav([noise(0.01, 0.5, i + 1)], 48000, 24));
    const clips = names.map((_, i) => clipOf(`m${i}`));
    const media = names.map((name, i): MediaRef => ({
      id: `m${i}`,
      name,
      sampleRate: 48000,
      channels: 1,
      frames: 480,
    }));
    const lines = clips.map((clip, i) => ({ id: `t${i}`, name: `Line ${i}`, clips: [clip] }));
    const s = { ...sessionWith(lines), media };
    const sounds = new Map(bytes.map((b, i) => [`m${i}`, b]));
    const out = writeDawproject(s, { media: sounds }).bytes;
    const paths = Object.keys(readZip(out, 'out')).filter((path) => path.startsWith('audio/'));
    expect(new Set(paths.map((path) => path.toLowerCase())).size).toBe(names.length);
    for (const path of paths) {
      expect(new TextEncoder().encode(path.slice('audio/'.length)).length).toBeLessThan(256);
      expect(path).not.toMatch(/[\\:*?"<>|]|audio\/.*\/|audio\/(con\.|\.)/i);
    }
    const again = readDawproject(out, 'again.dawproject');
    const of = (i: number) => again.session.tracks.find((x) => x.name === `Line ${i}`)!.clips[0].media;
    bytes.forEach((b, i) => expect(again.media.get(of(i))).toEqual(b));
  });
  test('with edits, only what was edited differs', () => {
    const s = clone(read.session);
    const lead = track(s, 'lead');
    lead.level = -9;
    dev(lead.chain[0]).params['b2.gain'] = 4;
    lead.chain[1].state = 'bypassed';
    s.tempo = 100;
    const out = writeDawproject(s, { source: file }).bytes;
    const [was, is] = [readZip(file, 'in'), readZip(out, 'out')];
    for (const name of ['metadata.xml', 'audio/lead.wav', 'plugins/tape.vstpreset', 'extra/notes.txt']) {
      expect(is[name]).toEqual(was[name]);
    }
    const [a, b] = [byId(xmlOf(file)), byId(xmlOf(out))];
    expect([...b.keys()]).toEqual([...a.keys()]);
    const changed = [...a]
      .filter(([id, e]) => canonicalXml(e) !== canonicalXml(b.get(id)!))
      .map(([id]) => id);
    // the values, and the elements that hold them
    expect(changed.sort()).toEqual([
      'arr',
      'c0',
      'chL',
      'cl1',
      'e2',
      'eq1',
      'folder1',
      'g2',
      'id0',
      'l0',
      'l1',
      'lead',
      'plug1',
      'v1',
    ]);
    expect(is['project.xml'].length).toBeGreaterThan(0);
    expect(new TextDecoder().decode(is['project.xml'])).toMatch(
      /<!-- written by hand -->[\s\S]*<Inner>text stays<\/Inner>[\s\S]*<Note /,
    );
    const again = readDawproject(out, 'again.dawproject').session;
    // the kept element of an opaque device holds its new state; everything else is what was set
    const bare = (x: Session) =>
      JSON.parse(
        JSON.stringify({ ...x, source: undefined }, (k, v: unknown) => (k === 'xml' ? '' : v)),
      ) as Session;
    expect(bare(again)).toEqual(bare(s));
  });
  test('a strip captured from it and one dropped into it survive the round trip; all else is as it was', () => {
    const home = readDawproject(file).session;
    const preset = createPreset(capture(home, ['lead']), { id: 'from-file', name: 'Lead from the file' });
    expect(preset.requirements.foreign).toEqual(['0123456789ABCDEF']);
    const dropped = applyDrop(home, planDrop(home, preset), preset);
    expect(dropped.report.intact).toBe(true);
    dropped.session.tracks
      .find((t) => t.name === 'Lead & first 2')!
      .chain.push(
        device('reverb', { type: 'hall', decay: 2.4, mix: 30 }),
        device('delay', { note: '1/8d', pingPong: true }),
        device('trim', { gain: -3, mono: true }),
      );
    const out = writeDawproject(dropped.session, { source: file });
    expect(out.notes.join(' ')).toMatch(/Reverb/);
    const [a, b] = [byId(xmlOf(file)), byId(xmlOf(out.bytes))];
    for (const [id, e] of a) if (id !== 'folder1') expect(canonicalXml(b.get(id)!)).toBe(canonicalXml(e));
    expect(readZip(out.bytes, 'out')['plugins/tape.vstpreset']).toEqual(STATE);
    const back = readDawproject(out.bytes).session;
    const plain = (s: Session) =>
      s.tracks.map(({ origin: _o, ...t }) => ({
        ...t,
        chain: mapDevices(t.chain, ({ origin: _p, foreign: f, ...d }) => ({
          ...d,
          foreign: f && { ...f, xml: '', params: f.params.map((x) => ({ ...x, id: '' })) },
        })),
      }));
    expect(plain(back)).toEqual(plain(dropped.session));
  });
  // element names and units as in DAWproject 1.0 (seconds, decibel, ratio as a plain number), from memory of
  // the public schema
  test('a noise gate and a limiter: seconds, decibels and ratios both ways', () => {
    const gate =
      '<NoiseGate deviceID="g" deviceRole="audioFX" id="ng1" name="Shut"><Enabled value="true" id="nge"/><Attack unit="seconds" value="0.002" id="nga"/><Range unit="decibel" value="-24.0" id="ngr"/><Ratio unit="linear" value="8.0" id="ngq"/><Release unit="seconds" value="0.15" id="ngl"/><Threshold unit="decibel" value="-42.0" id="ngt"/></NoiseGate>';
    const limiter =
      '<Limiter deviceID="z" deviceName="Limit" deviceRole="audioFX" id="lim1" name="Stop"><Attack unit="seconds" value="0.004" id="la"/><OutputGain unit="decibel" value="5.0" id="lo"/><Release unit="seconds" value="0.09" id="lr"/><Threshold unit="decibel" value="-6.0" id="lt"/></Limiter>';
    const from = handFile(PROJECT.replace(/<Limiter.*<\/Limiter>/, gate + limiter));
    const s = readDawproject(from).session;
    const [, , , g, l] = track(s, 'lead').chain.map(dev);
    expect([g.type, l.type]).toEqual(['gate', 'limiter']);
    expect(g.params).toMatchObject({ attack: 2, range: -24, ratio: 8, release: 150, threshold: -42 });
    // held at −6 dB, then 5 dB louder: peaks come out at −1 dB
    expect(l.params).toMatchObject({ lookahead: 4, release: 90, threshold: -6, ceiling: -1 });
    const edited = {
      ...s,
      tracks: s.tracks.map((t) => ({
        ...t,
        chain: mapDevices(t.chain, (d) => {
          if (d.type === 'gate') return { ...d, params: { ...d.params, release: 250, range: -12 } };
          if (d.type === 'limiter') return { ...d, params: { ...d.params, ceiling: -2 } };
          return d;
        }),
      })),
    };
    const out = xmlOf(writeDawproject(edited, { source: from }).bytes);
    const value = (id: string) => {
      const e = byId(out).get(id)!;
      return [Number(e.getAttribute('value')), e.getAttribute('unit')];
    };
    expect([value('ngl'), value('ngr'), value('nga'), value('lo'), value('lt')]).toEqual([
      [0.25, 'seconds'],
      [-12, 'decibel'],
      [0.002, 'seconds'],
      [4, 'decibel'],
      [-6, 'decibel'],
    ]);
    // and devices of ours go out as those elements
    const own = {
      ...s,
      tracks: s.tracks.map((t) =>
        t.id === 'keys'
          ? {
              ...t,
              chain: [
                device('gate', { threshold: -33, attack: 5 }),
                device('limiter', { threshold: -4, ceiling: -1 }),
              ],
            }
          : t,
      ),
    };
    const made = Array.from(xmlOf(writeDawproject(own).bytes).getElementsByTagName('*'));
    const number = (e: Element, name: string) =>
      Number(Array.from(e.getElementsByTagName(name))[0]?.getAttribute('value'));
    const [ng, lm] = [
      made.filter((e) => e.nodeName === 'NoiseGate').at(-1)!,
      made.filter((e) => e.nodeName === 'Limiter').at(-1)!,
    ];
    expect([
      number(ng, 'Threshold'),
      number(ng, 'Attack'),
      number(lm, 'Threshold'),
      number(lm, 'OutputGain'),
    ]).toEqual([-33, 0.005, -4, 3]);
  });
  test('tracks deleted, moved and taken out of their folder', () => {
    const s = clone(read.session);
    s.tracks = [
      track(s, 'keys'),
      { ...track(s, 'lead'), folder: null },
      track(s, 'folder1'),
      track(s, 'master'),
    ].map((t) => ({ ...t, sends: [] }));
    const back = readDawproject(writeDawproject(s, { source: file }).bytes).session;
    expect(back.tracks.map((t) => [t.id, t.folder]).sort()).toEqual(
      s.tracks.map((t) => [t.id, t.folder]).sort(),
    );
    expect(track(back, 'lead').output).toEqual({ kind: 'track', track: 'folder1' });
  });
  test.each<[string, () => Uint8Array, RegExp]>([
    ['no project.xml', () => zipSync({ 'metadata.xml': new Uint8Array(3) }), /no project\.xml/],
    ['broken XML', () => handFile(PROJECT.replace('</Structure>', '</Structur>')), /project\.xml.*broken/],
    ['another root', () => handFile('<Song/>'), /<Project> is expected/],
    ['no structure', () => handFile('<Project version="1.0"/>'), /no <Structure>/],
    [
      'a number that is none',
      () => handFile(PROJECT.replace('value="0.5" id="v1"', 'value="loud" id="v1"')),
      new RegExp(
        `line ${PROJECT.slice(0, PROJECT.indexOf('id="v1"')).split('\n').length}, <Volume>: “loud” is not a number`,
      ),
    ],
    [
      'a document type',
      () => handFile('<!DOCTYPE x [<!ENTITY a "b">]>' + PROJECT.replace(/<\?xml.*\?>/, '')),
      /document type/,
    ],
    [
      'endless nesting',
      () => handFile(PROJECT.replace('<Scenes/>', '<a>'.repeat(300) + '</a>'.repeat(300))),
      /nested more than/,
    ],
    [
      'a loop of folders is impossible, a send to itself is',
      () => handFile(PROJECT.replace('Send destination="chP"', 'Send destination="chX"')),
      /^$/,
    ],
  ])('bad input: %s', (_, make, message) => {
    if (message.source === '^$') expect(readDawproject(make()).notes.join()).toMatch(/chX/);
    else expect(() => readDawproject(make(), 'bad.dawproject')).toThrow(message);
  });
  test('any damage to the XML: an answer or a FormatError', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(fc.nat(PROJECT.length - 1), fc.constantFrom('<', '>', '"', '/', '&', 'x', '9', ' ', '-')),
          { minLength: 1, maxLength: 5 },
        ),
        (edits) => {
          const c = [...PROJECT];
          for (const [at, v] of edits) c[at] = v;
          try {
            expect(validateSession(readDawproject(handFile(c.join(''))).session)).toEqual([]);
          } catch (e) {
            if (!(e instanceof FormatError)) throw e;
          }
        },
      ),
      { numRuns: 120 },
    );
  });
  test('any session of ours survives writing and reading', () => {
    fc.assert(
      fc.property(anySession(), (s) => {
        const back = readDawproject(writeDawproject(s).bytes).session;
        // linear amounts in the file turn decibels by less than a ten-thousandth
        const near = (x: unknown, y: unknown): unknown => {
          if (typeof x === 'number' && typeof y === 'number') return Math.abs(x - y) < 1e-4 ? x : y;
          if (Array.isArray(x) && Array.isArray(y)) return y.map((v, i) => near(x[i], v));
          if (x && y && typeof x === 'object' && typeof y === 'object') {
            return Object.fromEntries(
              Object.entries(y).map(([k, v]) => [k, near((x as Record<string, unknown>)[k], v)]),
            );
          }
          return y;
        };
        expect(near(s.tracks, back.tracks)).toEqual(s.tracks);
      }),
      { numRuns: 60 },
    );
  });
});
