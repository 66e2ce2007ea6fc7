import {
  applyLayout,
  clone,
  createRack,
  createStrand,
  devicesIn,
  findSlot,
  lineCheck,
  planLayout,
  readDawproject,
  readZip,
  validateSession,
  writeDawproject,
  type Rack,
  type Session,
} from '../index.ts';
import { parseXml, type Element } from './dawproject/xml.ts';
import { dev, device, kitSession, noteClip, sessionWith } from '../../tests/support/build.ts';

/** racks in racks, a key inside, two handles, texts: everything that only this program knows */
function rich(): Session {
  const drive = device('saturator', { drive: 11, colour: 40 }, { id: 'drive', name: 'Drive' });
  const loop = device(
    'outboard',
    { sendPort: 'Out 3/4', returnPort: 'In „7“ & 8 <b>', roundTrip: 6.48 },
    { id: 'loop', name: 'Loop' },
  );
  const duck = device(
    'compressor',
    { threshold: -31, keyFilter: true, keyHigh: 140 },
    { id: 'duck', name: 'Duck', key: { kind: 'track', track: 'kick', tap: 'post' } },
  );
  const inner: Rack = {
    ...createRack('Inside', [], {
      id: 'inner',
      strands: [
        createStrand('One', [duck], { id: 's3', pan: -20 }),
        createStrand('Two', [loop], { id: 's4', mute: true }),
      ],
    }),
    blend: { mode: 'linear', position: 62 },
    state: 'bypassed',
  };
  const outer: Rack = {
    ...createRack('Outside', [], {
      id: 'outer',
      strands: [
        createStrand('Clean', [], { id: 's1', level: -3.5 }),
        createStrand('Dirt', [drive, inner], { id: 's2', solo: true }),
      ],
    }),
    blend: { mode: 'power', position: 40 },
    handles: [
      {
        id: 'h1',
        name: 'Grit',
        colour: 'rust',
        value: 37,
        cc: 74,
        ties: [
          { id: 'e1', slot: 'drive', param: 'drive', from: 24, to: 3, curve: -40 },
          { id: 'e2', slot: 'outer', param: 'blend', from: 0, to: 100, curve: 0 },
        ],
      },
      {
        id: 'h2',
        name: 'Width',
        colour: 'kelp',
        value: 0,
        cc: null,
        ties: [{ id: 'e3', slot: 's3', param: 'pan', from: -20, to: 20, curve: 100 }],
      },
    ],
  };
  return sessionWith([
    {
      id: 'bass',
      name: 'Bass',
      chain: [
        device('eq', { 'b2.on': true, 'b2.gain': 3 }, { id: 'eq' }),
        outer,
        device('limiter', {}, { id: 'lim' }),
      ],
    },
    { id: 'kick', name: 'Kick' },
  ]);
}
const bass = (s: Session) => s.tracks.find((t) => t.name === 'Bass')!;
const rackIn = (s: Session) => bass(s).chain.find((x) => x.kind === 'rack') as Rack;
const xml = (bytes: Uint8Array) =>
  parseXml(readZip(bytes, 'x')['project.xml'], 'x', 'project.xml').documentElement!;

describe('racks in an open file', () => {
  const first = writeDawproject(rich());
  const back = readDawproject(first.bytes, 'racks.dawproject').session;

  test('come back whole: strands, blend, states, handles with curves and controllers, keys, texts', () => {
    expect(validateSession(back)).toEqual([]);
    expect(rackIn(back)).toEqual(rackIn(rich()));
    expect(dev(findSlot(bass(back).chain, 'loop')).params.returnPort).toBe('In „7“ & 8 <b>');
    expect(dev(findSlot(bass(back).chain, 'duck')).key).toEqual({
      kind: 'track',
      track: 'kick',
      tap: 'post',
    });
  });

  test('another program sees one unknown device where the rack stands, between the ones that it knows', () => {
    const chain = Array.from(xml(first.bytes).getElementsByTagName('Devices'))[0] as Element;
    const names = Array.from(chain.childNodes)
      .filter((n) => n.nodeType === 1)
      .map((n) => n.nodeName);
    expect(names).toEqual(['Equalizer', 'BuiltinDevice', 'Limiter']);
    expect(first.notes.join(' ')).toMatch(/rack/i);
  });

  test('read and written again without an edit, the file is the same byte for byte', () => {
    const again = writeDawproject(back, { source: first.bytes });
    expect(readZip(again.bytes, 'b')).toEqual(readZip(first.bytes, 'a'));
  });

  test('a value deep inside, a handle and a strand are edited: those come back, all else is as it was', () => {
    const edited = clone(back);
    const rack = rackIn(edited);
    dev(findSlot(bass(edited).chain, 'duck')).params.threshold = -18;
    rack.handles[0].ties[0].to = 6;
    rack.strands[0].level = -9;
    rack.strands.push(createStrand('Third', [device('chorus', { rate: 0.2 }, { id: 'new' })], { id: 's9' }));
    const out = writeDawproject(edited, { source: first.bytes });
    const read = readDawproject(out.bytes).session;
    expect(rackIn(read)).toEqual(rackIn(edited));
    expect(bass(read).chain.filter((x) => x.kind === 'device')).toEqual(
      bass(back).chain.filter((x) => x.kind === 'device'),
    );
  });

  test('the rack is taken apart, taken out, put elsewhere', () => {
    const apart = clone(back);
    bass(apart).chain = bass(apart).chain.flatMap((x) => (x.kind === 'rack' ? devicesIn([x]) : [x]));
    const flat = readDawproject(writeDawproject(apart, { source: first.bytes }).bytes).session;
    expect(bass(flat).chain.map((x) => x.name)).toEqual(bass(apart).chain.map((x) => x.name));
    const moved = clone(back);
    const rack = rackIn(moved);
    bass(moved).chain = bass(moved).chain.filter((x) => x.id !== rack.id);
    moved.tracks.find((t) => t.name === 'Kick')!.chain = [
      { ...rack, strands: [rack.strands[0]], handles: [] },
    ];
    const elsewhere = readDawproject(writeDawproject(moved, { source: first.bytes }).bytes).session;
    expect(bass(elsewhere).chain.map((x) => x.kind)).toEqual(['device', 'device']);
    expect(
      (elsewhere.tracks.find((t) => t.name === 'Kick')!.chain[0] as Rack).strands.map((s) => s.name),
    ).toEqual(['Clean']);
  });
});

test('instruments go out and come back: outputs, halves, MIDI ports, notes and patterns, and the way back of a print', () => {
  const s = applyLayout(kitSession(), planLayout(kitSession(), 'k'));
  s.tracks[0].notes = [{ ...noteClip([{ at: 1, key: 36 }]), id: 'nc' }];
  const w = writeDawproject(s);
  const back = readDawproject(w.bytes).session;
  for (const t of s.tracks) {
    const x = back.tracks.find((y) => y.name === t.name)!;
    expect([x.role, x.input.kind, x.notes, x.chain.map((d) => d.kind === 'device' && d.params)]).toEqual([
      t.role,
      t.input.kind,
      t.notes,
      t.chain.map((d) => d.kind === 'device' && d.params),
    ]);
    if (t.output.kind === 'midi') expect(x.output).toEqual(t.output);
  }
  expect(lineCheck(back).map((f) => f.message)).toEqual([]);
  expect(w.notes.join(' ')).toContain('Separate outputs');
});
