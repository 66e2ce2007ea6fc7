import { useSession } from '../../document/doc.ts';
import type { FeatureCommands } from '../../ui/commands.ts';
import { instrumentMenu } from './menus.ts';

export const kitCommands: FeatureCommands = {
  commands: (place) => {
    const t = place === 'session' ? useSession().track : null;
    if (!t) return [];
    return instrumentMenu(t).map((m) => ({ group: `On ${t.name}`, label: m.label!, run: m.run! }));
  },
};
