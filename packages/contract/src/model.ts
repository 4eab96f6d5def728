import { z } from 'zod';
import { HostedModel, ModelLimits } from '@dart-loop/core/answers/hosted/settings';

/** A hosted model: the agency's, what a client does with one, and what that costs. */

/** A key is told once; left out, the one that is kept stays. */
const Token = z.string().trim().min(1).max(500, 'is at most 500 characters').optional();

export const SaveAgencyModel = z.object({ model: HostedModel, token: Token });
export type SaveAgencyModel = z.infer<typeof SaveAgencyModel>;

export const MODEL_USES = ['none', 'agency', 'own'] as const;
export const SaveClientModel = z.object({
  uses: z.enum(MODEL_USES),
  own: HostedModel.nullable(),
  token: Token,
  limits: ModelLimits,
});
export type SaveClientModel = z.infer<typeof SaveClientModel>;

/** What was spent in this month, in one currency. */
export interface ModelSpent {
  currency: string;
  calls: number;
  /** In the currency. */
  cost: number;
}

export interface KeptModel {
  model: HostedModel;
  /** The last four characters of its key; null: it has none, and is not asked. */
  hint: string | null;
}

export interface AgencyModelPage {
  kept: KeptModel | null;
  spent: ModelSpent[];
  /** The names of the clients that use it. */
  usedBy: string[];
}

/** One call of a model. */
export interface ModelCall {
  id: string;
  at: string;
  /** Of whoever asked; null: somebody of the agency tried it. */
  conversationId: string | null;
  model: string;
  question: string;
  /** As it came back, its beginning where it is long; null where nothing did. */
  answer: string | null;
  /** What was said of it. */
  said: string | null;
  came: 'asked' | 'said' | 'not known' | 'refused' | 'failed';
  /** Why it was refused or failed. */
  why: string | null;
  tokens: number | null;
  cost: number;
  currency: string;
  tookMs: number | null;
}

export interface ClientModelPage {
  uses: (typeof MODEL_USES)[number];
  own: KeptModel | null;
  limits: ModelLimits;
  /** The agency's, where it has one that can be used. */
  agency: { model: string; currency: string } | null;
  spent: ModelSpent[];
  /** The latest, the newest first. */
  calls: ModelCall[];
}

/** What a model made of a question that somebody tries. */
export interface ModelTried {
  /** What would be said; null: the local answer stays. */
  text: string | null;
  /** Why nothing it said may be said, one for each call. */
  why: string[];
  calls: number;
  cost: number;
  currency: string;
  tookMs: number;
}
