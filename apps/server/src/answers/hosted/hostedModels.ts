import { momentWords } from '@dart-loop/core';
import { masked } from '@dart-loop/core/answers/hosted/masking';
import { completionOf, readReply, type ModelReply, type Tokens } from '@dart-loop/core/answers/hosted/reply';
import { modelRequest, MOST_TURNS, type ModelAsked, type Turn } from '@dart-loop/core/answers/hosted/request';
import { costOf, mostCost, UNITS } from '@dart-loop/core/answers/hosted/settings';
import type { Passage } from '@dart-loop/core/answers/passage';
import { fitsChannel, USUAL_LENGTH } from '@dart-loop/core/answers/saying';
import { nameOf } from '@dart-loop/core/answers/toSay';
import type { ChannelKind } from '@dart-loop/core';
import type { FromSources, FromSourcesOne } from '@dart-loop/core/engine/steps/fromSources';
import type { Logger } from 'pino';
import type { Answer } from '../../platform/ask';
import type { Clock } from '../../platform/clock';
import { toJson } from '../../platform/db/json';
import { withClients, type Db } from '../../platform/db/pool';
import { newId } from '../../platform/ids';
import type { Keyring } from '../../platform/keyring';
import { askOutside, refusalWords } from '../../platform/outside';
import type { Answers, Question } from '../answers';
import { modelInUse, type ModelInUse } from './stored';

/** Questions of one message that a model is asked. */
const MOST_QUESTIONS = 2;
/** A reply that may not be said is asked for once more. */
const MOST_TRIES = 2;
/** What an SMS of two parts holds, whatever letters are in it. */
const SMS_LENGTH = 130;
const MOST_OF_ANSWER = 20_000;

/** What came of one call, as it is kept and shown. */
export interface CallEnd {
  came: 'said' | 'not known' | 'refused' | 'failed';
  /** Of what was refused or failed. */
  why: string | null;
  /** In millionths of the currency. */
  cost: number;
  tookMs: number;
}

/** What a model made of one question. */
export interface ModelSaid {
  /** What may be said; null: the local answer stays. */
  text: string | null;
  passages: Passage[];
  calls: CallEnd[];
}

/** Who asks: a person in a conversation, or somebody of the agency who tries it. */
interface Asker {
  conversationId: string | null;
  names: string[];
  turns: Turn[];
}
const NOBODY: Asker = { conversationId: null, names: [], turns: [] };

/**
 * Asks a client's hosted model where its sources alone are not sure, within the client's limits on time,
 * tokens and money. What it says is held against the sources; where that fails, or it does, the local answer
 * stays.
 */
export class HostedModels {
  constructor(
    private readonly database: Db,
    private readonly options: {
      answers: Answers;
      keys: Keyring;
      clock: Clock;
      log: Logger;
      standins: string | null;
    },
  ) {}

  /** As {@link Answers.toSay}, with what the model of the client, if it has one, makes of the rest. */
  async toSay(clientId: number, question: Question, conversationId: string): Promise<FromSources> {
    const using = await this.#using(clientId);
    if (!using) return this.options.answers.toSay(clientId, question);
    const { said, near } = await this.options.answers.toSayWithNear(clientId, question);
    if (near.length === 0) return said;
    const asker = await this.#askerOf(clientId, conversationId);
    const better = await Promise.all(
      near.slice(0, MOST_QUESTIONS).map(async ({ at, passages }) => ({
        at,
        by: await this.#ask(using, said[at]!.question, passages, question.channel ?? null, asker),
      })),
    );
    return said.map((one, at) => {
      const by = better.find((each) => each.at === at)?.by;
      return by ? this.#said(one, by, using) : one;
    });
  }

  /** What the model of a client makes of a question, for whoever tries it; null where it has none. */
  async tryOut(
    clientId: number,
    question: string,
    passages: readonly Passage[],
    channel: ChannelKind,
  ): Promise<{ said: ModelSaid; using: ModelInUse } | null> {
    const using = await this.#using(clientId);
    if (!using || passages.length === 0) return null;
    return { using, said: await this.#ask(using, question, passages, channel, NOBODY) };
  }

  #using(clientId: number): Promise<ModelInUse | null> {
    return withClients(this.database, [clientId], (db) => modelInUse(db, this.options.keys, clientId));
  }

  #said(one: FromSourcesOne, { text, passages }: ModelSaid, { limits }: ModelInUse): FromSourcesOne {
    if (text === null) return one;
    return {
      question: one.question,
      ...{ came: 'answered', text, offers: [], passage: passages[0]?.id ?? null },
      from: [...new Set(passages.map(nameOf))].join(' and '),
      model: limits.wording === 'quoted' ? 'chose' : 'worded',
    };
  }

  /** What was written in the conversation last, and who it is with. */
  async #askerOf(clientId: number, conversationId: string): Promise<Asker> {
    return withClients(this.database, [clientId], async (db) => {
      const { rows: who } = await db.query<{ first_name: string | null; last_name: string | null }>(
        `
          select p.first_name, p.last_name from conversation c
          join person p on p.client_id = c.client_id and p.id = c.person_id
          where c.client_id = $1 and c.id = $2`,
        [clientId, conversationId],
      );
      const { rows } = await db.query<{ by: Turn['by']; text: string }>(
        `
          select * from (
            (select d.seq, 'person' as by, e.body ->> 'words' as text
              from decision d join event e on e.client_id = d.client_id and e.id = d.event_id
              where d.client_id = $1 and d.conversation_id = $2 and e.body ->> 'words' <> ''
              order by d.seq desc limit $3)
            union all
            (select m.seq, 'us', m.body ->> 'text' from message m
              where m.client_id = $1 and m.conversation_id = $2 and m.body ->> 'text' <> ''
              order by m.seq desc limit $3)
          ) as turns order by seq desc limit $3`,
        [clientId, conversationId, MOST_TURNS],
      );
      const names = who.flatMap((person) => [person.first_name ?? '', person.last_name ?? '']);
      return { conversationId, names, turns: rows.reverse().map(({ by, text }) => ({ by, text })) };
    });
  }

  async #ask(
    using: ModelInUse,
    question: string,
    passages: readonly Passage[],
    channel: ChannelKind | null,
    { conversationId, names, turns }: Asker,
  ): Promise<ModelSaid> {
    const { limits, business, timeZone } = using;
    const told = (text: string) => (limits.tellsPersonal ? text : masked(text, names));
    const now = this.options.clock.now();
    const asked: ModelAsked = {
      question: told(question),
      passages,
      turns: turns.map(({ by, text }) => ({ by, text: told(text) })),
      facts: [`The business is ${business}.`, `It is ${momentWords(now, timeZone)} there.`],
      most: channel === 'sms' ? SMS_LENGTH : USUAL_LENGTH,
      fits: fitsChannel(channel ?? 'telegram'),
      wording: limits.wording,
    };
    const calls: CallEnd[] = [];
    for (let tries = 0; tries < MOST_TRIES; tries++) {
      const { reply, end } = await this.#call(using, asked, conversationId);
      calls.push(end);
      if (reply?.ok && reply.known) return { text: reply.text, passages: reply.passages, calls };
      // What does not answer is not asked again while a person waits.
      if (end.came !== 'refused') break;
    }
    return { text: null, passages: [], calls };
  }

  /** One call: reserved, made, held against the sources, and written down. */
  async #call(
    using: ModelInUse,
    asked: ModelAsked,
    conversationId: string | null,
  ): Promise<{ reply: ModelReply | null; end: CallEnd }> {
    const { clientId, model, limits, ofAgency } = using;
    const { clock, log } = this.options;
    const request = modelRequest(asked, model, limits);
    const id = newId(clock.now());
    const most = mostCost(model, Buffer.byteLength(toJson(request)), limits.mostTokens);
    const told = {
      turns: asked.turns,
      facts: asked.facts,
      passages: asked.passages.map(({ id: passage, headings }) => ({ id: passage ?? null, headings })),
    };
    const stops = await withClients(this.database, [clientId], async (db) => {
      const { rows } = await db.query<{ stops: 'client' | 'agency' | null }>(
        'select reserve_model_call($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12) as stops',
        [
          ...[clientId, id, conversationId, new Date(clock.now()), model.model, asked.question, toJson(told)],
          ...[most, model.currency, ofAgency],
          ...[limits.mostAMonth * UNITS, model.mostAMonth * UNITS].map(Math.floor),
        ],
      );
      return rows[0]!.stops;
    });
    if (stops !== null)
      return { reply: null, end: { came: 'failed', why: CAPPED[stops], cost: 0, tookMs: 0 } };
    const began = performance.now();
    const answer = await askOutside(
      { standins: this.options.standins, patienceMs: limits.patience * 1_000 },
      {
        method: 'POST',
        address: model.address,
        headers: { authorization: `Bearer ${using.key}` },
        body: request,
      },
    );
    const { reply, end, content, tokens } = heard(answer, asked, model, most, performance.now() - began);
    await withClients(this.database, [clientId], (db) =>
      db.query('select end_model_call($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)', [
        ...[clientId, id, ofAgency, end.came, end.why, content?.slice(0, MOST_OF_ANSWER) ?? null],
        reply?.ok && reply.known ? reply.text : null,
        ...[tokens?.sent ?? null, tokens?.back ?? null, end.cost, end.tookMs],
      ]),
    );
    if (end.came === 'failed')
      log.warn({ client: clientId, call: id, reason: end.why }, 'a hosted model did not answer');
    return { reply, end };
  }
}

const CAPPED = {
  client: 'what it may cost a month for this client is used up',
  agency: 'what it may cost a month for the agency is used up',
};

/** What was heard of a call, held against the sources, and what it cost. */
function heard(
  answer: Answer,
  asked: ModelAsked,
  prices: ModelInUse['model'],
  most: number,
  took: number,
): { reply: ModelReply | null; end: CallEnd; content: string | null; tokens: Tokens | null } {
  const tookMs = Math.round(took);
  const failed = (why: string, cost: number) => ({
    ...{ reply: null, content: null, tokens: null },
    end: { came: 'failed' as const, why, cost, tookMs },
  });
  if (answer.kind === 'silence')
    // What it was too slow for may have to be paid all the same.
    return failed(answer.reason, answer.code === 'forbidden' || answer.code === 'unreached' ? 0 : most);
  if (answer.status < 200 || answer.status >= 300) return failed(refusalWords(answer.status), 0);
  const completion = completionOf(answer.body);
  if (!completion) return failed('its answer is no chat completion', most);
  const { content, isCut, tokens } = completion;
  const cost = tokens ? costOf(prices, tokens) : most;
  const reply: ModelReply = isCut
    ? { ok: false, why: 'it was longer than its tokens allow' }
    : readReply(content, asked);
  const came = !reply.ok ? 'refused' : reply.known ? 'said' : 'not known';
  return {
    ...{ reply, content, tokens },
    end: { came, why: reply.ok ? null : reply.why, cost, tookMs },
  };
}
