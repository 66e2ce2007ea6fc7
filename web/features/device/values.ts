import { computed } from 'vue';
import {
  DEVICE_TYPES,
  moversOf,
  racksAround,
  setParams,
  type Device,
  type ParamValue,
  type Track,
} from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { useLaneView } from '../automation/index.ts';

export type Values = Record<string, ParamValue>;
/** A mark beside a value that something else moves, and the way there. */
interface Mark {
  colour: string;
  text: string;
  go: () => void;
}

/** What every panel of a device needs: setting its values, and who else moves them. */
export function useValues(props: { track: Track; device: Device }) {
  const session = useSession();
  const racks = computed(() => racksAround(props.track.chain, props.device.id));

  /** Sets values; `sliding` joins what is set in one slide into one undo step. */
  function set(values: Values, sliding = false): void {
    const ids = Object.keys(values);
    const labels = ids.map((id) => DEVICE_TYPES[props.device.type].byId[id].label).join(', ');
    session.edit(
      `${labels} of ${props.device.name}`,
      setParams(props.track.id, props.device.id, values),
      sliding ? props.device.id + ids.join() : undefined,
    );
  }

  /** Who moves a value, if a handle or a lane does. */
  function mark(id: string): Mark | undefined {
    const movers = moversOf(racks.value, props.device.id, id);
    if (movers.length) {
      const names = movers.map((mover) => `${mover.handle.name} of ${mover.rack.name}`);
      const [first] = movers;
      return {
        colour: first.handle.colour,
        text: `moved by ${names.join(' and ')}`,
        go: () => session.select(props.track.id, first.rack.id),
      };
    }
    const lane = props.track.automation?.find((l) => l.on && l.of === props.device.id && l.param === id);
    if (!lane) return undefined;
    return {
      colour: props.track.colour,
      text: 'moved by its lane along the song',
      go: () => useLaneView().open(props.track.id, lane.id),
    };
  }
  return { set, mark };
}
