import type { Response } from 'express';
import type { GraphKind } from './limits';
import type { Refusals } from '../mood';
import { digits } from '../phone';

/** An answer in the form of the Graph API’s errors. */
export function fail(response: Response, code: number, message: string, subcode?: number): void {
  const status = code === 1 || code === 2 ? 500 : code === 190 ? 401 : 400;
  response.status(status).json({
    error: {
      message: `(#${code}) ${message}`,
      type: 'OAuthException',
      code,
      ...(subcode && { error_subcode: subcode }),
      fbtrace_id: digits(11),
    },
  });
}

/** The platform’s own words for each refusal. */
export const refusals = (response: Response, kind: GraphKind): Refusals => ({
  '401': () => fail(response, 190, 'Error validating access token: Session has expired.'),
  '403': () => fail(response, 10, 'Application does not have permission for this action.'),
  '429': () =>
    fail(response, kind === 'whatsapp' ? 130_429 : 613, 'Calls to this api have exceeded the rate limit.'),
  '500': () => fail(response, 2, 'An unexpected error has occurred. Please retry your request later.'),
  blocked: () =>
    fail(response, 368, 'The action attempted has been deemed abusive or is otherwise disallowed.'),
});
