import { useSession } from '../../document/doc.ts';
import { ofSession, type FeatureCommands } from '../../ui/commands.ts';
import { sessionMenu } from './menu.ts';

export const sessionCommands: FeatureCommands = {
  commands: (place) => {
    const session = useSession();
    if (!session.doc || !session.id || !ofSession(place)) return [];
    return [
      { group: 'Edit', label: 'Undo', keys: 'Ctrl Z', run: () => session.undo() },
      { group: 'Edit', label: 'Redo', keys: 'Ctrl Shift Z', run: () => session.redo() },
      // on the map and in the check nothing is edited that is not seen there
      ...(place === 'session' ? sessionMenu().map((m) => ({ group: 'Session', ...m })) : []),
    ];
  },
  shortcuts: [
    ['Ctrl Z', 'Undo'],
    ['Ctrl Shift Z', 'Redo'],
  ],
};
