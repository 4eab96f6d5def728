import { toJson } from '../platform/db/json';
import { Problem } from '../platform/problem';

/** Asks the stand-ins something; throws with a sentence where they cannot be reached or refuse. */
export async function askStandins<T>(standins: string, path: string, body: unknown): Promise<T> {
  const response = await fetch(`${standins}${path}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: toJson(body),
    signal: AbortSignal.timeout(10_000),
  }).catch(() => {
    throw new Problem(
      502,
      'The test phone is off',
      'What stands in for the platforms cannot be reached. It is started again within a minute.',
    );
  });
  const answer = (await response.json()) as T & { reason?: string };
  if (!response.ok)
    throw new Problem(
      502,
      'The test phone got no answer',
      answer.reason ?? `The stand-ins answered ${response.status}.`,
    );
  return answer;
}
