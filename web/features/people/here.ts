import type { Here } from '../../../contract/index.ts';
import { useMe } from '../../document/me.ts';

/** What another window is called: by who sits at it, or as one of one's own. */
export function calledHere({ person }: Here): string {
  const me = useMe();
  const isMine = !me.signIn || person.id === me.person?.id;
  return isMine ? 'another window' : person.name;
}
