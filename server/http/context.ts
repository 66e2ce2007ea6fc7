import type { Request } from 'express';
import type { DataSource } from 'typeorm';
import type { EventHub } from './events.ts';
import type { WorkDisk } from '../work/work-folder.ts';
import type { Access } from '../accounts/access.ts';
import type { Documents } from '../db/documents.ts';
import { HttpProblem } from './problem.ts';
import { ID } from './dto.ts';

export interface Context {
  db: DataSource;
  /** where files lie while they are read and written */
  work: WorkDisk;
  events: EventHub;
  documents: Documents;
  access: Access;
}

/** A path's id, checked. */
export function idOf(req: Request, name = 'id'): string {
  const id = String(req.params[name]);
  if (!ID.test(id)) throw new HttpProblem('not-valid', `“${id.slice(0, 80)}” cannot be an id.`);
  return id;
}

/** The revision that a change is based on: If-Match with one entity tag (RFC 9110). */
export function ifMatch(req: Request): number {
  const h = req.header('if-match');
  if (!h) {
    throw new HttpProblem(
      'if-match-missing',
      'A change must say which revision it is based on, in If-Match.',
    );
  }
  const m = /^"?(\d+)"?$/.exec(h.trim());
  if (!m) throw new HttpProblem('not-valid', `“${h}” is not a revision.`);
  return Number(m[1]);
}
