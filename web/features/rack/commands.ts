import { useSession } from '../../document/doc.ts';
import type { FeatureCommands } from '../../ui/commands.ts';
import { useRackView } from './view.ts';

export const rackCommands: FeatureCommands = {
  commands: (place) => {
    const view = useRackView();
    if (place !== 'session' || !useSession().doc) return [];
    return [
      {
        group: 'View',
        label: view.controller ? 'Close the simulated controller' : 'Simulated controller',
        run: () => {
          view.controller = !view.controller;
        },
      },
    ];
  },
};
