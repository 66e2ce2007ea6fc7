import { computed } from 'vue';
import { DEVICE_TYPES, type Device, type ParamValue, type Track, setParams } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';

/** The table, values and edits of a device that a panel shows; a slide is one step to undo. */
export function useValues(props: { track: Track; device: Device }) {
  const session = useSession();
  const spec = computed(() => DEVICE_TYPES[props.device.type]);
  const val = (id: string): ParamValue => props.device.params[id];
  const set = (id: string, v: ParamValue, sliding = false): boolean =>
    session.edit(
      `${spec.value.byId[id].label} of ${props.device.name}`,
      setParams(props.track.id, props.device.id, { [id]: v }),
      sliding ? props.device.id + id : undefined,
    );
  return { spec, val, set };
}
