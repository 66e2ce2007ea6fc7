import type { DataSource } from 'typeorm';
import type { Person, ShareKind, ShareRight } from '../../contract/index.ts';
import { actAs, ownerNow, personNow } from '../db/acting.ts';
import { DropRecordRow, PresetRow, SessionRow, SetupRow, ShareRow, UserRow } from '../db/entities.ts';

/** What is asked for by its id. */
export type Thing = 'preset' | 'setup' | 'session' | 'drop';
/** What somebody may do with things of another account; `own`: only whose they are may. */
export type Right = ShareRight | 'own';

const RANK: Record<Right, number> = { read: 1, add: 2, edit: 3, own: 4 };
const TABLES = { preset: PresetRow, setup: SetupRow, session: SessionRow };

/** Where a thing lies: whose it is, and by which share another one comes to it. */
interface Place {
  owner: string;
  kind: ShareKind;
  thing: string;
}

/** The thing is there for who asks, but not for this. */
export class NotAllowed extends Error {
  constructor(
    readonly owner: Person,
    readonly right: ShareRight,
  ) {
    super('Not allowed');
  }
}

/** What accounts let each other see and change. */
export class Access {
  /** @param isNeeded whether anybody signs in; where nobody does, there is one account */
  constructor(
    private readonly db: DataSource,
    readonly isNeeded: boolean,
  ) {}

  /** The accounts whose shelves somebody reads, the own one first. */
  async shelvesOf(person: string): Promise<string[]> {
    if (!this.isNeeded) return [person];
    const rows = await this.db.getRepository(ShareRow).findBy({ person, kind: 'shelf' });
    return [person, ...rows.map((r) => r.owner)];
  }

  /**
   * Does something in the place where a thing lies, when whoever acts may do it there; otherwise in its own, where the
   * thing is not found.
   * @throws NotAllowed where it may be seen, but not that
   */
  async at<T>(thing: Thing, id: string, right: Right, task: () => Promise<T> | T): Promise<T> {
    const person = personNow();
    const place = this.isNeeded ? await this.placeOf(thing, id) : null;
    return actAs({ person, owner: await this.ownerFor(person, place, right) }, task);
  }
  /** The same with the shelf of an account. */
  async atShelf<T>(owner: string, right: Right, task: () => Promise<T> | T): Promise<T> {
    const person = personNow();
    const place: Place | null = this.isNeeded ? { owner, kind: 'shelf', thing: '' } : null;
    return actAs({ person, owner: await this.ownerFor(person, place, right) }, task);
  }

  /** What whoever acts may do with the shelf that is spoken of now. */
  async rightHere(): Promise<Right> {
    const { person, owner } = { person: personNow(), owner: ownerNow() };
    if (person === owner) return 'own';
    const share = await this.db.getRepository(ShareRow).findOneBy({ person, owner, kind: 'shelf' });
    return share?.right ?? 'read';
  }

  private async ownerFor(person: string, place: Place | null, right: Right): Promise<string> {
    if (!place || place.owner === person) return person;
    const share = await this.db.getRepository(ShareRow).findOneBy({ person, ...place });
    if (!share) return person;
    if (RANK[share.right] >= RANK[right]) return place.owner;
    const owner = await this.db.getRepository(UserRow).findOneByOrFail({ id: place.owner });
    throw new NotAllowed({ id: owner.id, name: owner.name }, share.right);
  }

  private async placeOf(thing: Thing, id: string): Promise<Place | null> {
    if (thing === 'drop') {
      const drop = await this.db.getRepository(DropRecordRow).findOneBy({ id });
      return drop && { owner: drop.owner, kind: 'session', thing: drop.session };
    }
    const rows = this.db.getRepository<PresetRow | SetupRow | SessionRow>(TABLES[thing]);
    const row = await rows.findOne({ where: { id }, select: { id: true, owner: true } });
    if (!row) return null;
    const isSession = thing === 'session';
    return { owner: row.owner, kind: isSession ? 'session' : 'shelf', thing: isSession ? id : '' };
  }
}
