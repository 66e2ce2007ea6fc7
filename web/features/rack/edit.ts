import { computed } from 'vue';
import { moversOf, racksAround, type Edit, type Handle, type Rack, type Track } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';

/**
 * Edits of one rack from its panel, and who moves its values.
 * @param openHandle opens the handle that a mark stands for
 */
export function useRack(props: { track: Track; rack: Rack }, openHandle?: (handle: Handle) => void) {
  const session = useSession();
  /** where the rack is, as the core's edits take it */
  const ids = computed(() => [props.track.id, props.rack.id] as const);

  /** @param key joins the edits of one slide into one undo step */
  const edit = (label: string, change: Edit, key?: string): boolean =>
    session.edit(`${label} of ${props.rack.name}`, change, key ? key + props.rack.id : undefined);

  const around = computed(() => [...racksAround(props.track.chain, props.rack.id), props.rack]);
  /** The mark of a value that handles move, and the way to the first of them. */
  function mark(slot: string, param: string) {
    const movers = moversOf(around.value, slot, param);
    if (!movers.length) return undefined;
    const [first] = movers;
    return {
      colour: first.handle.colour,
      text: `moved by ${movers.map((mover) => mover.handle.name).join(' and ')}`,
      go: () => {
        openHandle?.(first.handle);
        session.select(props.track.id, first.rack.id);
      },
    };
  }
  return { ids, edit, mark };
}
