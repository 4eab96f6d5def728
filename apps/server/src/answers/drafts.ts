import { DraftsQuery, type Draft, type DraftsPage } from '@dart-loop/contract';
import { conversationPage } from '../conversations/conversationPage';
import { outside, route } from '../http/route';
import { withClients, type Db } from '../platform/db/pool';
import type { Answers } from './answers';

/** What the person wrote last is read as one message, up to so many characters. */
const MOST_ASKED = 2_000;
const MOST_DRAFTS = 3;

/** What could be answered from the sources in a conversation that waits for a person of the team. */
export const draftRoutes = ({ answers, database }: { answers: Answers; database: Db }) => [
  route({
    method: 'get',
    path: '/clients/:client/conversations/:conversationId/drafts',
    may: 'answer conversations',
    query: DraftsQuery,
    handle: ({ client, params }) =>
      Promise.resolve(
        outside(async (): Promise<DraftsPage> => {
          const page = await withClients(database, [client.id], (db) =>
            conversationPage(db, client.id, params.conversationId!),
          );
          const isOurs = page.shelf === 'waiting on us' || page.held !== null;
          const last = page.entries.findLastIndex(({ kind }) => kind === 'out');
          const message = page.entries
            .slice(last + 1)
            .flatMap((entry) => (entry.kind === 'in' && entry.how === 'said' ? [entry.words] : []))
            .join('\n')
            .slice(-MOST_ASKED);
          if (!isOurs || page.optedOut || message.trim() === '') return { drafts: [] };
          const said = await answers.toSay(client.id, { message, channel: page.channel });
          const drafts = said.flatMap(({ came, text, from, offers }): Draft[] =>
            came === 'answered'
              ? [{ text: text!, from: from!, isSure: true }]
              : offers.map((offer) => ({ text: offer.text, from: offer.label, isSure: false })),
          );
          // Two questions may come near the same; what answers stands first.
          const distinct = drafts
            .filter(({ text }, at) => drafts.findIndex((each) => each.text === text) === at)
            .sort((one, other) => Number(other.isSure) - Number(one.isSure));
          return { drafts: distinct.slice(0, MOST_DRAFTS) };
        }),
      ),
  }),
];
