import {
  AskSources,
  ConfirmAnswer,
  type AnswerPassage,
  type AnswerView,
  type ModelTried,
} from '@dart-loop/contract';
import { UNITS } from '@dart-loop/core/answers/hosted/settings';
import { passagesNear, type Answered } from '@dart-loop/core/answers/answering';
import type { Found } from '@dart-loop/core/answers/finding';
import type { FromSources } from '@dart-loop/core/engine/steps/fromSources';
import { textOf, type Passage } from '@dart-loop/core/answers/passage';
import { smsParts } from '@dart-loop/core/channels/gsm';
import type { ChannelKind } from '@dart-loop/core';
import { outside, route } from '../http/route';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { notFound, Problem } from '../platform/problem';
import type { Answers } from './answers';
import type { HostedModels } from './hosted/hostedModels';
import { BRIEF, PAIRS, sourcesChanged } from './sources';

/** Questions that one passage or pair can be said to answer. */
const MOST_WORDINGS = 50;

/** Asks a client's sources as on a channel, and says which passage is right. */
export const askRoutes = ({
  clock,
  answers,
  models,
}: {
  clock: Clock;
  answers: Answers;
  models: HostedModels;
}) => [
  route<Record<string, never>, AskSources>({
    method: 'post',
    path: '/clients/:client/sources/ask',
    may: 'see sources',
    untraced: 'it asks and changes nothing',
    body: AskSources,
    handle: ({ client, body }) =>
      Promise.resolve(
        outside(async (): Promise<AnswerView[]> => {
          const answered = await answers.ask(client.id, body);
          return Promise.all(
            answered.map(async (each) => ({
              ...shown(each, body.channel),
              model: body.withModel ? await tried(models, client.id, each, body.channel) : null,
            })),
          );
        }),
      ),
  }),
  route<Record<string, never>, AskSources>({
    method: 'post',
    path: '/clients/:client/sources/to-say',
    may: 'see sources',
    untraced: 'it asks and changes nothing',
    body: AskSources,
    handle: ({ client, body }) =>
      Promise.resolve(outside((): Promise<FromSources> => answers.toSay(client.id, body))),
  }),
  route<Record<string, never>, ConfirmAnswer>({
    method: 'post',
    path: '/clients/:client/sources/confirm',
    may: 'change sources',
    body: ConfirmAnswer,
    async handle({ db, client, body: { id, question }, account }): Promise<void> {
      const { rows } = await db.query<{ wordings: string[] }>(
        `
          with said as (
            update passage set wordings = array(select distinct unnest(wordings || $3::text))
            where client_id = $1 and id = $2 returning wordings
          ), paired as (
            update pair set wordings = array(select distinct unnest(wordings || $3::text))
            where client_id = $1 and id = $2 and lower(question) <> lower($3) returning wordings
          )
          select wordings from said union all select wordings from paired
          union all select wordings from pair where client_id = $1 and id = $2 and lower(question) = lower($3)`,
        [client.id, id, question],
      );
      if (!rows[0]) throw notFound('passage');
      if (rows[0].wordings.length > MOST_WORDINGS)
        throw new Problem(
          409,
          'Too many wordings',
          `It has ${MOST_WORDINGS} wordings already. Take one out where its source is shown.`,
        );
      await sourcesChanged(db, client.id, `“${question}” was marked as answered rightly`);
      await audit(db, client.id, account.id, clock.now(), 'confirmed an answer', { question });
    },
  }),
];

/** What the client's model makes of what is not answered outright. */
async function tried(
  models: HostedModels,
  clientId: number,
  answered: Answered,
  channel: ChannelKind,
): Promise<ModelTried | null> {
  const asked = await models.tryOut(clientId, answered.question, passagesNear(answered), channel);
  if (!asked) return null;
  const { calls, text } = asked.said;
  return {
    text,
    why: calls.flatMap(({ why }) => why ?? []),
    calls: calls.length,
    cost: calls.reduce((sum, { cost }) => sum + cost, 0) / UNITS,
    currency: asked.using.model.currency,
    tookMs: calls.reduce((sum, { tookMs }) => sum + tookMs, 0),
  };
}

function shown(
  { question, zone, text, sure, found, next, disagree }: Answered,
  channel: ChannelKind,
): Omit<AnswerView, 'model'> {
  return {
    ...{ question, zone, text, sure },
    parts: channel === 'sms' && text !== null ? smsParts(text).parts : null,
    passages: found.map(foundView),
    next: next.map(foundView),
    disagree: (disagree ?? []).map((passage) => passageView(passage, [])),
  };
}

const foundView = ({ passage, words }: Found): AnswerPassage => passageView(passage, words);

const passageView = (passage: Passage, matched: string[]): AnswerPassage => ({
  id: passage.id ?? null,
  from: passage.source === BRIEF ? 'brief' : passage.source === PAIRS ? 'pair' : 'source',
  source: passage.source,
  heading: passage.headings.at(-1) ?? '',
  text: textOf(passage),
  matched,
});
