import { isRefusedData, passesByItself } from '../platform/db/pool';
import { Problem } from '../platform/problem';
import { TooHeavy } from '../platform/threads/threads';

/**
 * What is answered for anything that was thrown while a request was answered. Only what nobody foresaw is a
 * fault of ours (500).
 */
export function problemOf(error: unknown): Problem {
  if (error instanceof Problem) return error;
  if (error instanceof TooHeavy) return new Problem(422, 'Too much at once', error.message);
  if (passesByItself(error))
    return new Problem(
      503,
      'Busy just now',
      'The database is busy or cannot be reached. Nothing was half-written; try again in a moment.',
    );
  const { code, status, type } = error as { code?: string; status?: number; type?: string };
  if (code === '57014')
    return new Problem(
      503,
      'Took too long',
      'This took longer than half a minute and was stopped. Nothing was half-written; ask for less at once.',
    );
  if (code?.startsWith('22'))
    return new Problem(
      400,
      'That cannot be used',
      'A value in the request has the wrong form, or is out of the range of what can be kept.',
    );
  if (['23503', '23505', '23P01'].includes(code ?? ''))
    return new Problem(
      409,
      'Changed meanwhile',
      'Somebody changed the same thing at the same moment. Reload and try again.',
    );
  if (isRefusedData(error) && code?.startsWith('54'))
    return new Problem(
      400,
      'That cannot be used',
      'A value in the request is too long or too deeply nested.',
    );
  if (type === 'entity.too.large')
    return new Problem(413, 'Too large', 'The body is larger than is taken here.');
  if (type === 'entity.parse.failed') return new Problem(400, 'That cannot be used', 'The body is not JSON.');
  if (type === 'encoding.unsupported')
    return new Problem(
      415,
      'That cannot be used',
      'The content encoding of the body is unknown; send it as it is, or with gzip, deflate or br.',
    );
  if (type === 'charset.unsupported')
    return new Problem(415, 'That cannot be used', 'The body must be UTF-8.');
  if (status === 404) return new Problem(404, 'Not found', 'There is nothing at this address.');
  if (error instanceof URIError)
    return new Problem(
      400,
      'That cannot be used',
      'The address has a “%” that is not followed by two hexadecimal digits.',
    );
  if (status !== undefined && status >= 400 && status < 500)
    return new Problem(status, 'That cannot be used', 'The request cannot be read.');
  return new Problem(
    500,
    'A fault of ours',
    'Something went wrong here. Nothing was half-written; try again.',
  );
}
