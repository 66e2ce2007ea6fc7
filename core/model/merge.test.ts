import fc from 'fast-check';
import { clone, merge3, sharing, type Session } from '../index.ts';
import { dev, device, send, sessionWith } from '../../tests/support/build.ts';

/** Two windows on one session, case by case: what each did, what must come out. */
const base = (): Session => {
  const s = sessionWith([
    { id: 'a', name: 'A', chain: [device('trim', {}, { id: 'd1' }), device('eq', {}, { id: 'd2' })] },
    { id: 'b', name: 'B' },
    { id: 'r', name: 'R', role: 'return' },
  ]);
  s.tracks[0].sends = [send('r', -6, { id: 's1' })];
  return s;
};
const change = (f: (s: Session) => void): Session => {
  const s = clone(base0);
  f(s);
  return s;
};
const base0 = base();
const track = (s: Session, id: string) => s.tracks.find((t) => t.id === id)!;

test.each<[string, (s: Session) => void, (s: Session) => void, (s: Session) => unknown, unknown]>([
  [
    'different values of one device',
    (s) => {
      dev(track(s, 'a').chain[0]).params.gain = 3;
    },
    (s) => {
      dev(track(s, 'a').chain[0]).params.mono = true;
    },
    (s) => [dev(track(s, 'a').chain[0]).params.gain, dev(track(s, 'a').chain[0]).params.mono],
    [3, true],
  ],
  [
    'a device added here, a value changed there',
    (s) => {
      track(s, 'a').chain.push(device('delay', {}, { id: 'd3' }));
    },
    (s) => {
      dev(track(s, 'a').chain[1]).params.in = 2;
    },
    (s) => track(s, 'a').chain.map((d) => [d.id, dev(d).params.in ?? null]),
    [
      ['d1', null],
      ['d2', 2],
      ['d3', null],
    ],
  ],
  [
    'devices added on both sides',
    (s) => {
      track(s, 'a').chain.push(device('delay', {}, { id: 'mine' }));
    },
    (s) => {
      track(s, 'a').chain.unshift(device('reverb', {}, { id: 'theirs' }));
    },
    (s) => track(s, 'a').chain.map((d) => d.id),
    ['theirs', 'd1', 'd2', 'mine'],
  ],
  [
    'devices reordered here, one removed there',
    (s) => {
      track(s, 'a').chain.reverse();
    },
    (s) => {
      track(s, 'a').chain.shift();
    },
    (s) => track(s, 'a').chain.map((d) => d.id),
    ['d2'],
  ],
  [
    'a line removed here, another renamed there',
    (s) => {
      s.tracks = s.tracks.filter((t) => t.id !== 'b');
    },
    (s) => {
      track(s, 'a').name = 'Lead';
    },
    (s) => s.tracks.map((t) => t.name),
    ['Lead', 'R', 'Master'],
  ],
  [
    'lines added on both sides',
    (s) => {
      s.tracks.unshift({ ...clone(track(s, 'b')), id: 'm', name: 'M' });
    },
    (s) => {
      s.tracks.splice(2, 0, { ...clone(track(s, 'b')), id: 't', name: 'T' });
    },
    (s) => s.tracks.map((t) => t.id).slice(0, 5),
    ['m', 'a', 'b', 't', 'r'],
  ],
  [
    'a send removed here, its level changed there: removed, as a conflict (mine first)',
    (s) => {
      track(s, 'a').sends = [];
    },
    (s) => {
      track(s, 'a').sends[0].level = -9;
    },
    (s) => track(s, 'a').sends.length,
    0,
  ],
  [
    'tempo here, name there',
    (s) => {
      s.tempo = 99;
    },
    (s) => {
      s.name = 'Other';
    },
    (s) => [s.tempo, s.name],
    [99, 'Other'],
  ],
  [
    'a note given here, a tie remembered there',
    (s) => {
      s.note = 'n';
    },
    (s) => {
      s.lastTies = { x: 'r' };
    },
    (s) => [s.note, s.lastTies],
    ['n', { x: 'r' }],
  ],
  [
    'the same on both sides',
    (s) => {
      track(s, 'a').level = -5;
    },
    (s) => {
      track(s, 'a').level = -5;
    },
    (s) => track(s, 'a').level,
    -5,
  ],
  [
    'ties remembered for different ends',
    (s) => {
      s.lastTies = { p: 'a' };
    },
    (s) => {
      s.lastTies = { q: 'b' };
    },
    (s) => s.lastTies,
    { p: 'a', q: 'b' },
  ],
])('%s', (_, mine, theirs, look, want) => {
  const [m, t] = [change(mine), change(theirs)];
  const { value } = merge3(base0, m, t);
  expect(look(value)).toEqual(want);
});

test('the same value differently: mine stays, theirs is shown, and the other preference takes theirs', () => {
  const [m, t] = [
    change((s) => {
      dev(track(s, 'a').chain[1]).params.out = 1;
    }),
    change((s) => {
      dev(track(s, 'a').chain[1]).params.out = 2;
    }),
  ];
  const r = merge3(base0, m, t);
  expect(r.conflicts).toEqual([{ path: '/tracks/a/chain/d2/params/out', base: 0, mine: 1, theirs: 2 }]);
  expect(dev(track(r.value, 'a').chain[1]).params.out).toBe(1);
  expect(dev(track(merge3(base0, m, t, 'theirs').value, 'a').chain[1]).params.out).toBe(2);
});

test('a line removed here and changed there is a conflict that names it', () => {
  const [m, t] = [
    change((s) => {
      s.tracks = s.tracks.filter((x) => x.id !== 'b');
    }),
    change((s) => {
      track(s, 'b').pan = 40;
    }),
  ];
  const r = merge3(base0, m, t);
  expect(r.conflicts.map((c) => c.path)).toEqual(['/tracks/b']);
  expect(r.value.tracks.map((x) => x.id)).not.toContain('b');
  expect(merge3(base0, m, t, 'theirs').value.tracks.map((x) => x.id)).toContain('b');
});

test('undo by merge: a step is taken back although another window went on; redo brings it again', () => {
  const before = base0;
  const after = change((s) => {
    track(s, 'a').level = -12;
    s.tracks.splice(1, 0, { ...clone(track(s, 'b')), id: 'new', name: 'New' });
  });
  const now = clone(after);
  track(now, 'r').name = 'Plate';
  track(now, 'new').note = 'from the other window';
  const undone = merge3(after, before, now);
  expect(track(undone.value, 'a').level).toBe(0);
  expect(track(undone.value, 'r').name).toBe('Plate');
  // the line that was added and then changed elsewhere: taking it back is a conflict that is settled for the
  // undo
  expect(undone.conflicts.map((c) => c.path)).toEqual(['/tracks/new']);
  const redone = merge3(before, after, undone.value);
  expect(track(redone.value, 'a').level).toBe(-12);
  expect(redone.value.tracks.map((t) => t.id)).toEqual(after.tracks.map((t) => t.id));
});

test('what did not change is shared, not copied', () => {
  const m = { ...base0, tracks: base0.tracks.map((t) => (t.id === 'a' ? { ...t, level: -1 } : t)) };
  const t = { ...base0, tracks: base0.tracks.map((x) => (x.id === 'r' ? { ...x, level: -2 } : x)) };
  const { value } = merge3(base0, m, t);
  expect(track(value, 'b')).toBe(track(base0, 'b'));
  expect(track(value, 'a')).toBe(track(m, 'a'));
  expect(track(value, 'r')).toBe(track(t, 'r'));
});

test('what comes anew shares all that is known and equal, and stays what it is, key by key', () => {
  fc.assert(
    fc.property(fc.json({ maxDepth: 4 }), fc.json({ maxDepth: 4 }), fc.nat(), (a, b, at) => {
      const known = { list: [JSON.parse(a), { id: 'x', v: JSON.parse(b) }], keep: JSON.parse(b) as unknown };
      const fresh = clone(known);
      expect(sharing(known, fresh)).toBe(known);
      const other = clone(
        at % 2 ? { ...known, keep: JSON.parse(a) as unknown } : { list: known.list, n: at },
      );
      const both = sharing(known, other) as typeof other & typeof known;
      expect(JSON.stringify(both)).toBe(JSON.stringify(other));
      expect(both.list).toBe(known.list);
      const unlike = JSON.parse(a) as unknown;
      expect(JSON.stringify(sharing(JSON.parse(b), unlike))).toBe(JSON.stringify(unlike));
    }),
  );
  // a member by a name that every object answers to is one like others
  const named = JSON.parse('{"__proto__":{"constructor":1}}') as object;
  expect(JSON.stringify(sharing({}, named))).toBe(JSON.stringify(named));
  expect(JSON.stringify(merge3({}, named, { n: 1 }).value)).toBe('{"__proto__":{"constructor":1},"n":1}');
  // a line put in before the others moves them, and they stay the same objects
  const longer = clone({ ...base0, tracks: [{ ...base0.tracks[0], id: 'new' }, ...base0.tracks] });
  expect(sharing(base0, longer).tracks.slice(1)).toEqual(base0.tracks);
  expect(sharing(base0, longer).tracks[1]).toBe(base0.tracks[0]);
});
