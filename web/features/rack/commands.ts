import { useSession } from '../../document/doc.ts';
import type { FeatureCommands } from '../../ui/commands.ts';
import { useUi } from '../../ui/window.ts';

export const rackCommands: FeatureCommands = {
  commands: (place) => {
    const ui = useUi();
    if (place !== 'session' || !useSession().doc) return [];
    return [
      {
        group: 'View',
        label: ui.controller ? 'Close the simulated controller' : 'Simulated controller',
        run: () => {
          ui.controller = !ui.controller;
        },
      },
    ];
  },
};
