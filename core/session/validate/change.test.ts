import fc from 'fast-check';
import { anySession } from '../../../tests/support/generate.ts';
import { clone } from '../../model/json.ts';
import type { Session } from '../../model/types.ts';
import { validateChange } from './change.ts';
import { validateSession } from './index.ts';

type Place = readonly string[];

/** Every place of a document. */
function placesOf(value: unknown, at: Place = []): Place[] {
  if (typeof value !== 'object' || value === null) return [at];
  return [at, ...Object.entries(value).flatMap(([k, v]) => placesOf(v, [...at, k]))];
}

const valueAt = (document: unknown, place: Place): unknown =>
  place.reduce((v, k) => (v as Record<string, unknown>)[k], document);

/** A document with one place set, or taken out, and everything beside the way there shared. */
function changed(document: unknown, [key, ...rest]: Place, value: unknown): unknown {
  if (key === undefined) return value;
  const copy = (
    Array.isArray(document) ? [...(document as unknown[])] : { ...(document as object) }
  ) as Record<string, unknown>;
  copy[key] = changed(copy[key], rest, value);
  if (copy[key] === undefined) {
    if (Array.isArray(copy)) copy.splice(Number(key), 1);
    else delete copy[key];
  }
  return copy;
}

const odd: readonly unknown[] = [undefined, null, 0, -1e9, '', 'x', true, [], {}];

test('a change is judged as the whole session would be, whatever it is', () => {
  const seen = { sound: 0, unsound: 0 };
  fc.assert(
    fc.property(
      anySession(),
      fc.array(fc.tuple(fc.nat(), fc.nat(), fc.boolean()), { minLength: 1, maxLength: 6 }),
      (before, picks) => {
        const places = placesOf(before).slice(1);
        let session: Session = before;
        for (const [where, what, isOwn] of picks) {
          const place = places[where % places.length];
          // values from elsewhere in the session: ids used twice, lines that are of another kind now
          const value = isOwn ? clone(valueAt(before, places[what % places.length])) : odd[what % odd.length];
          const next = changed(session, place, value) as Session;
          const wrong = validateSession(next);
          expect(validateChange(session, next)).toEqual(wrong);
          seen[wrong.length ? 'unsound' : 'sound']++;
          if (!wrong.length) session = next;
        }
      },
    ),
    { numRuns: 400 },
  );
  expect(Math.min(seen.sound, seen.unsound)).toBeGreaterThan(20);
});
