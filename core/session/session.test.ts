import {
  ADDABLE,
  DEVICE_TYPES,
  NOTES,
  clone,
  createSession,
  formatDb,
  formatPan,
  formatValue,
  freeName,
  fromPosition,
  hashOf,
  noteFor,
  noteMs,
  parseValue,
  tidy,
  toPosition,
  validateSession,
  type ParamSpec,
  type Session,
} from '../index.ts';
import { clipOf, dev, device, send, sessionWith } from '../../tests/support/build.ts';
import { makeDemo } from '../../demo/index.ts';

const spec = (type: string, id: string): ParamSpec => DEVICE_TYPES[type].byId[id];
const LEVEL: ParamSpec = {
  id: 'level',
  label: 'Level',
  group: '',
  kind: 'number',
  unit: 'dB',
  min: -144,
  max: 12,
  default: 0,
  taper: 'level',
};

describe('typed values', () => {
  test.each<[ParamSpec, string, unknown]>([
    [spec('eq', 'b3.freq'), '2k', 2000],
    [spec('eq', 'b3.freq'), '1.5 kHz', 1500],
    [spec('eq', 'b3.freq'), '80hz', 80],
    [spec('compressor', 'threshold'), '−24', -24],
    [spec('compressor', 'threshold'), '-24.5 dB', -24.5],
    [spec('compressor', 'ratio'), 'inf:1', 100],
    [spec('compressor', 'ratio'), '∞', 100],
    [spec('compressor', 'ratio'), '4:1', 4],
    [spec('compressor', 'ratio'), '1:20', 20],
    [spec('compressor', 'ratio'), '2,5', 2.5],
    [spec('compressor', 'attack'), '0.2s', 200],
    [spec('compressor', 'attack'), '15 ms', 15],
    [spec('delay', 'note'), '1/8 dotted', '1/8d'],
    [spec('delay', 'note'), '1/16t', '1/16t'],
    [spec('delay', 'note'), '1/4', '1/4'],
    [spec('delay', 'pingPong'), 'on', true],
    [spec('reverb', 'decay'), '800 ms', 0.8],
    [spec('reverb', 'type'), 'hall', 'hall'],
    [spec('trim', 'balance'), 'L20', -20],
    [spec('trim', 'balance'), '35 r', 35],
    [spec('trim', 'balance'), 'C', 0],
    [spec('delay', 'mix'), '40%', 40],
    [LEVEL, '-inf', -144],
    [LEVEL, 'off', -144],
    [LEVEL, '+3', 3],
  ])('%#: %s', (s, typed, want) => expect(parseValue(s, typed)).toEqual({ value: want }));

  test.each<[ParamSpec, string, RegExp]>([
    [spec('eq', 'b3.freq'), '99k', /16\.0 Hz to 24\.0 kHz/],
    [spec('eq', 'b3.freq'), 'loud', /“loud” is not a value/],
    [spec('eq', 'b3.freq'), '20 dB', /not a value/],
    [spec('compressor', 'ratio'), '0:1', /not a value/],
    [spec('delay', 'note'), '1/7', /one of/],
    [spec('delay', 'pingPong'), 'maybe', /on or off/],
    [spec('compressor', 'threshold'), '-inf', /not a value/],
    [LEVEL, '40', /goes from −∞ dB to \+12\.0 dB/],
  ])('refused in words: %s %s', (s, typed, message) =>
    expect((parseValue(s, typed) as { error: string }).error).toMatch(message),
  );

  test('what is shown can be typed again, for every value of every device', () => {
    for (const d of ADDABLE) {
      for (const p of d.params) {
        const valuesOf = () => {
          if (p.kind === 'number') {
            return [p.min!, p.max!, p.default as number, tidy(p, fromPosition(p, 0.37))];
          }
          if (p.kind === 'switch') return [true, false];
          if (p.kind === 'text') return ['Out 7/8'];
          return p.choices!.map((c) => c.id);
        };
        const values = valuesOf();
        for (const v of values) {
          const back = parseValue(p, formatValue(p, v)) as { value: number };
          if (Number.isNaN(back.value) || back.value === undefined) {
            throw new Error(`${d.type} ${p.id}: ${formatValue(p, v)} cannot be typed`);
          }
          if (p.kind !== 'number') expect(back).toEqual({ value: v });
          else {
            expect(Math.abs(back.value - (v as number))).toBeLessThanOrEqual(
              Math.abs(v as number) * 0.01 + 0.06,
            );
          }
        }
      }
    }
  });
  test('a slider’s position and its value are inverse, and the ends are the ends', () => {
    for (const p of [LEVEL, ...ADDABLE.flatMap((d) => d.params)].filter((x) => x.kind === 'number')) {
      expect(fromPosition(p, 1)).toBeCloseTo(p.max!, 6);
      expect(fromPosition(p, 0)).toBeCloseTo(p.min!, 6);
      for (const q of [0.1, 0.5, 0.9]) expect(toPosition(p, fromPosition(p, q))).toBeCloseTo(q, 4);
    }
  });
  test('levels and pans as they are read', () => {
    expect([
      formatDb(-144),
      formatDb(-0.04),
      formatDb(3),
      formatPan(0),
      formatPan(-20),
      formatPan(100),
    ]).toEqual(['−∞ dB', '0.0 dB', '+3.0 dB', 'C', '20 L', '100 R']);
  });
});

test('note values: every one is found again at its own time, and only there', () => {
  for (const bpm of [74, 96, 132]) {
    for (const n of NOTES) {
      expect(noteFor(noteMs(n.id, bpm), bpm)).toBe(n.id);
      expect(noteFor(noteMs(n.id, bpm) * 1.02, bpm)).not.toBe(n.id);
    }
  }
});

describe('invariants', () => {
  const good = () => {
    const s = sessionWith([
      { id: 'a', name: 'Line', chain: [device('eq')] },
      { id: 'bus', role: 'bus' },
    ]);
    s.tracks[0].sends = [send('bus', -6)];
    return s;
  };
  test('the demo and new sessions are sound', () => {
    for (const s of [good(), createSession(), ...makeDemo().sessions.map((d) => d.session)]) {
      expect(validateSession(s)).toEqual([]);
    }
  });
  test.each<[string, (s: Session) => void, string, RegExp]>([
    [
      'no master',
      (s) => {
        s.tracks.pop();
      },
      '/tracks',
      /exactly one master/,
    ],
    [
      'an id twice',
      (s) => {
        s.tracks[1].id = 'a';
      },
      '/tracks/1/id',
      /used twice/,
    ],
    [
      'an output into nothing',
      (s) => {
        s.tracks[0].output = { kind: 'track', track: 'gone' };
      },
      '/tracks/0/output',
      /“Line”.*does not exist/,
    ],
    [
      'an output to itself',
      (s) => {
        s.tracks[1].output = { kind: 'track', track: 'bus' };
      },
      '/tracks/1/output',
      /itself/,
    ],
    [
      'a send to the master',
      (s) => {
        s.tracks[0].sends[0].to = s.tracks[2].id;
      },
      '/tracks/0/sends/0/to',
      /takes no sends/,
    ],
    [
      'a level too high',
      (s) => {
        s.tracks[0].level = 13;
      },
      '/tracks/0/level',
      /“Line”: level/,
    ],
    [
      'a value out of range',
      (s) => {
        dev(s.tracks[0].chain[0]).params['b1.freq'] = 1;
      },
      '/tracks/0/chain/0/params/b1.freq',
      /“Line”, EQ: Band 1 frequency.*16\.0 Hz to 24\.0 kHz/,
    ],
    [
      'a value that is none',
      (s) => {
        dev(s.tracks[0].chain[0]).params.in = 'loud';
      },
      '/tracks/0/chain/0/params/in',
      /number/,
    ],
    [
      'a value nobody knows',
      (s) => {
        dev(s.tracks[0].chain[0]).params.warmth = 1;
      },
      '/tracks/0/chain/0/params/warmth',
      /no value called “warmth”/,
    ],
    [
      'an unknown device',
      (s) => {
        dev(s.tracks[0].chain[0]).type = 'magic';
      },
      '/tracks/0/chain/0/type',
      /no device “magic”/,
    ],
    [
      'a key from nowhere',
      (s) => {
        dev(s.tracks[0].chain[0]).key = { kind: 'track', track: 'gone', tap: 'pre' };
      },
      '/tracks/0/chain/0/key',
      /key/,
    ],
    [
      'a clip without its sound',
      (s) => {
        s.tracks[0].clips = [clipOf('nothing')];
      },
      '/tracks/0/clips/0/media',
      /media list/,
    ],
    [
      'more clips than fit',
      (s) => {
        s.tracks[0].clips = Array.from({ length: 501 }, () => clipOf('x'));
      },
      '/tracks/0/clips',
      /“Line”: clips: 501 are more than the 500 that fit/,
    ],
    [
      'folders inside each other',
      (s) => {
        s.tracks[0].role = s.tracks[1].role = 'folder';
        s.tracks[0].sends = [];
        s.tracks[0].folder = 'bus';
        s.tracks[1].folder = 'a';
      },
      '/tracks/0/folder',
      /inside itself/,
    ],
    [
      'a colour of nobody',
      (s) => {
        s.tracks[0].colour = 'puce';
      },
      '/tracks/0/colour',
      /puce/,
    ],
    [
      'a tempo of words',
      (s) => {
        (s as unknown as { tempo: string }).tempo = 'fast';
      },
      '/tempo',
      /number/,
    ],
  ])('%s is named with its place', (_, harm, path, message) => {
    const s = good();
    harm(s);
    const found = validateSession(s).find((p) => p.path === path);
    expect(found?.message).toMatch(message);
  });
  test('nothing that is thrown at it makes it throw', () => {
    for (const x of [
      null,
      7,
      'x',
      [],
      {},
      { tracks: 3 },
      { format: 'rope-shelf/session', version: 1, tracks: [null, 4, {}, { chain: [null], sends: 'x' }] },
    ]) {
      expect(validateSession(x).length).toBeGreaterThan(0);
    }
  });
});

test('hashes do not depend on the order of keys; copies share nothing; free names count on', () => {
  expect(hashOf({ a: 1, b: [{ c: 2, d: undefined }] })).toBe(hashOf({ b: [{ c: 2 }], a: 1 }));
  const a = { x: [1] };
  const b = clone(a);
  b.x.push(2);
  expect(a.x).toEqual([1]);
  expect([
    freeName('Choir', []),
    freeName('Choir', ['Choir']),
    freeName('Choir 2', ['Choir 2', 'Choir 3']),
  ]).toEqual(['Choir', 'Choir 2', 'Choir 4']);
});
