import { z } from 'zod';
import { OutsideAddress } from '../../engine/steps/outsideAddress';

/** A million units of a currency make one of it: money is counted in whole units. */
export const UNITS = 1_000_000;

const Price = z.number().min(0).max(10_000, 'is at most 10,000 for a million tokens');

/** Where a hosted model is, and what it costs. */
export const HostedModel = z.object({
  /** Where chat completions are asked for, in their common form. */
  address: OutsideAddress.max(500, 'is at most 500 characters'),
  /** The model, as it is called there. */
  model: z.string().trim().min(1, 'write the model’s name').max(200, 'is at most 200 characters'),
  /** For a million tokens that are sent, and that come back, in `currency`. */
  priceSent: Price,
  priceBack: Price,
  /** ISO 4217. */
  currency: z.string().regex(/^[A-Z]{3}$/, 'is three capital letters, such as GBP'),
  /** What it may cost in a month, in `currency`. */
  mostAMonth: z.number().min(0).max(1_000_000, 'is at most 1,000,000'),
});
export type HostedModel = z.infer<typeof HostedModel>;

/**
 * How a model may answer: with sentences of the sources as they stand there; or in its own words, each
 * sentence held against the passages it stands on.
 */
export const WORDINGS = ['quoted', 'own words'] as const;

/** What a client allows of it. */
export const ModelLimits = z.object({
  wording: z.enum(WORDINGS),
  /** Seconds that one answer may take. */
  patience: z.number().int().min(1, 'is at least 1 second').max(12, 'is at most 12 seconds'),
  /** Tokens that one answer may have. */
  mostTokens: z.number().int().min(50, 'is at least 50').max(4_000, 'is at most 4,000'),
  /** What it may cost in a month for this client. */
  mostAMonth: z.number().min(0).max(1_000_000, 'is at most 1,000,000'),
  /** Whether email addresses, telephone numbers and the person's name may be sent and kept. */
  tellsPersonal: z.boolean(),
});
export type ModelLimits = z.infer<typeof ModelLimits>;

export const USUAL_LIMITS: ModelLimits = {
  ...{ wording: 'quoted', patience: 8, mostTokens: 400, mostAMonth: 10, tellsPersonal: false },
};

/** What tokens cost, in millionths of the currency. */
export const costOf = (
  { priceSent, priceBack }: Pick<HostedModel, 'priceSent' | 'priceBack'>,
  tokens: { sent: number; back: number },
): number => Math.ceil(tokens.sent * priceSent + tokens.back * priceBack);

/** What one call may cost at most: no token is shorter than a byte. */
export const mostCost = (
  prices: Pick<HostedModel, 'priceSent' | 'priceBack'>,
  bytes: number,
  mostTokens: number,
): number => costOf(prices, { sent: bytes, back: mostTokens });
