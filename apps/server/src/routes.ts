import type { TestPhone } from '@dart-loop/contract';
import { auditRoutes } from './accounts/auditRoutes';
import { factorRoutes } from './accounts/factorRoutes';
import { ownRoutes } from './accounts/ownRoutes';
import { sessionRoutes } from './accounts/sessions';
import { teamRoutes } from './accounts/teamRoutes';
import { askRoutes } from './answers/askRoutes';
import { modelRoutes } from './answers/hosted/routes';
import { pairRoutes } from './answers/pairs';
import { sheetRoutes } from './answers/sheetRoutes';
import { draftRoutes } from './answers/drafts';
import { unansweredRoutes } from './answers/unanswered';
import { sourceRoutes } from './answers/sourceRoutes';
import { keyRoutes } from './api/keyRoutes';
import { bookingRoutes } from './bookings/routes';
import { briefRoutes } from './clients/briefRoutes';
import { copyingRoutes } from './clients/copying/routes';
import { clientRoutes } from './clients/routes';
import { asideRoutes } from './conversations/asideRoutes';
import { inboxRoutes } from './conversations/routes';
import { fileRoutes } from './files/routes';
import type { Route } from './http/route';
import { lineRoutes } from './lines/routes';
import { publishingRoutes } from './loops/publishingRoutes';
import { loopRoutes } from './loops/routes';
import type { Parts } from './parts';
import { fieldRoutes } from './people/fieldRoutes';
import { mergingRoutes } from './people/mergingRoutes';
import { personRoutes } from './people/personRoutes';
import { peopleRoutes } from './people/routes';
import { segmentRoutes } from './people/segmentRoutes';
import { peopleTaskRoutes } from './people/taskRoutes';
import { testPhoneRoutes } from './phone/routes';
import { copyRoutes } from './sync/copyRoutes';
import { deliveryRoutes } from './sync/deliveryRoutes';
import { destinationRoutes } from './sync/destinationRoutes';
import { tryingRoutes } from './sync/tryingRoutes';
import { todayRoutes } from './today/routes';
import { inletRoutes } from './webhooks/routes';

/** Everything that the app asks for, whatever it is about. */
export function routesOf(parts: Parts): Route[] {
  const { config, clock, keys, live, path, adapters, threads, mailer, sessions, store, hookAddress } = parts;
  const { answers, database, models } = parts;
  const { standins, everyLineStandsIn } = config;
  const limit = parts.signInLimit;
  const address = () => parts.address;
  const woken = () => path.wake();
  const tasksWoken = () => path.wakeTasks();
  const linesChanged = (clientId: number) => {
    // Here at once; the other processes are told.
    path.lines.forget();
    live.tellLines(clientId);
  };
  const syncChanged = (clientId: number) => {
    path.wake();
    path.deliveriesNoted(0);
    live.tell([clientId]);
  };
  const testPhone: TestPhone | null =
    standins === null ? null : everyLineStandsIn ? 'every line' : 'lines for trying out';
  return [
    ...sessionRoutes(testPhone),
    ...teamRoutes({ clock, mailer, address, wake: woken }),
    ...ownRoutes({ clock, sessions, limit }),
    ...factorRoutes({ clock, keys, limit }),
    ...auditRoutes(),
    ...clientRoutes({ clock, changed: syncChanged }),
    ...briefRoutes({ clock, linesChanged }),
    ...copyingRoutes({ clock, linesChanged }),
    ...fileRoutes({ clock, store, linesChanged }),
    ...sourceRoutes({ clock, threads, woken: tasksWoken }),
    ...pairRoutes({ clock }),
    ...askRoutes({ clock, answers, models }),
    ...modelRoutes({ clock, keys }),
    ...unansweredRoutes({ clock, database, threads }),
    ...draftRoutes({ answers, database }),
    ...sheetRoutes({ clock, answers, database }),
    ...todayRoutes(clock),
    ...loopRoutes(clock, live.tell, live.tellHere, threads, address),
    ...publishingRoutes(clock, live.tell, woken, threads),
    ...inboxRoutes(clock, woken),
    ...peopleRoutes({ clock }),
    ...personRoutes({ clock, woken }),
    ...mergingRoutes({ clock }),
    ...peopleTaskRoutes({ clock, threads, woken: tasksWoken }),
    ...fieldRoutes({ clock, woken: tasksWoken, linesChanged }),
    ...segmentRoutes({ clock, linesChanged }),
    ...bookingRoutes({ clock, linesChanged, woken }),
    ...asideRoutes({ clock, woken }),
    ...lineRoutes({ clock, keys, adapters, standins, hookAddress, linesChanged }),
    ...destinationRoutes({ clock, keys, changed: syncChanged }),
    ...tryingRoutes({ clock, keys, standins }),
    ...deliveryRoutes({ clock, changed: syncChanged }),
    ...copyRoutes({ clock, keys }),
    ...keyRoutes({ clock }),
    ...inletRoutes({ clock, key: keys.root, address, tell: live.tell }),
    ...(standins ? testPhoneRoutes({ address: standins, everyLine: everyLineStandsIn }, adapters) : []),
  ];
}
