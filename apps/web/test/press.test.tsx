import { ask } from '../features/session/api';

const answer = (status: number, body: unknown) =>
  ({
    ok: status < 300,
    status,
    headers: { get: () => 'application/json' },
    text: async () => JSON.stringify(body),
  }) as unknown as Response;

/** Answers as told, in turn; an error is a connection that broke. */
function answers(...turns: (Response | Error)[]): jest.Mock {
  const played = jest.fn(async () => {
    const turn = turns.shift()!;
    if (turn instanceof Error) throw turn;
    return turn;
  });
  global.fetch = played as unknown as typeof fetch;
  return played;
}
const namesOf = (played: jest.Mock): unknown[] =>
  played.mock.calls.map(
    ([, init]) => ((init as RequestInit).headers as Record<string, string>)['idempotency-key'],
  );

test('a press whose answer was lost is told again under the same name, and two presses have two', async () => {
  const played = answers(
    new TypeError('network'),
    answer(502, {}),
    answer(200, { done: 1 }),
    answer(200, {}),
  );
  await expect(ask('POST', '/clients/a/tasks/1/undo', {})).resolves.toEqual({ done: 1 });
  await ask('POST', '/clients/a/tasks/1/undo', {});
  const [first, second, third, other] = namesOf(played);
  expect(first).toMatch(/^[0-9a-f]{32}$/);
  expect([second, third]).toEqual([first, first]);
  expect(other).not.toBe(first);
});

test('what is refused is not told again, and neither is what only looks', async () => {
  const refused = answers(answer(409, { title: 'Changed meanwhile', detail: 'Reload.' }));
  await expect(ask('PUT', '/clients/a/loops/1', {})).rejects.toThrow('Reload.');
  expect(refused).toHaveBeenCalledTimes(1);
  const looked = answers(new TypeError('network'));
  await expect(ask('GET', '/today')).rejects.toThrow('The server cannot be reached');
  expect(namesOf(looked)).toEqual([undefined]);
});

test('who cannot be reached at all is said so in the end', async () => {
  const played = answers(new TypeError('network'), new TypeError('network'), new TypeError('network'));
  await expect(ask('DELETE', '/clients/a/keys/1')).rejects.toThrow('The server cannot be reached');
  expect(played).toHaveBeenCalledTimes(3);
});
