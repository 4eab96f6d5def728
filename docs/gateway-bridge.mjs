// A bridge from the SMS gateway of Dart Loop (docs/gateway.md) to a provider of telephone numbers; Node.js
// alone.
// What knows the provider are `toCarrier` and `fromCarrier`: write those anew for yours.
import { Buffer } from 'node:buffer';
import { createHmac, timingSafeEqual } from 'node:crypto';
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';

const BRIDGE_PORT = process.env.BRIDGE_PORT ?? '4700';
const BRIDGE_STATE = process.env.BRIDGE_STATE ?? 'bridge.json';
const needed = (name) => process.env[name] ?? stop(`${name} is missing.`);
const [KEY, SIGNING, CARRIER, CARRIER_KEY] = ['BRIDGE_KEY', 'BRIDGE_SIGNING', 'CARRIER', 'CARRIER_KEY'].map(
  needed,
);
function stop(why) {
  console.error(why);
  process.exit(1);
}

/** Where each number's messages go to, and what each key was answered with; kept over a restart. */
const state = existsSync(BRIDGE_STATE)
  ? JSON.parse(readFileSync(BRIDGE_STATE, 'utf8'))
  : { webhooks: {}, answers: {} };
const MOST_ANSWERS = 10_000;
function keep() {
  const keys = Object.keys(state.answers);
  for (const key of keys.slice(0, Math.max(0, keys.length - MOST_ANSWERS))) delete state.answers[key];
  writeFileSync(`${BRIDGE_STATE}.part`, JSON.stringify(state), { mode: 0o600 });
  renameSync(`${BRIDGE_STATE}.part`, BRIDGE_STATE);
}

/** Hands a message to the provider; gives its id there. */
async function toCarrier({ from, to, body }) {
  const response = await fetch(`${CARRIER}/send`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', 'x-api-key': CARRIER_KEY },
    body: JSON.stringify({ sender: from, recipient: to, text: body }),
    signal: AbortSignal.timeout(8_000),
  });
  const said = await response.json().catch(() => ({}));
  if (response.ok) return said.messageId;
  throw new Refused(
    response.status,
    said.reason ?? 'refused',
    said.text ?? 'The provider refused it.',
    response,
  );
}

/** What the provider tells, as the form that Dart Loop reads; `number`: whose webhook it is for. */
const fromCarrier = {
  '/carrier/incoming': ({ messageId, sender, recipient, text, at, pictures = [] }) => ({
    number: recipient,
    form: {
      Id: messageId,
      From: sender,
      To: recipient,
      Body: text ?? '',
      SentAt: at,
      MediaCount: String(pictures.length),
      ...(pictures[0] && { MediaUrl0: pictures[0] }),
    },
  }),
  '/carrier/reports': ({ messageId, sender, recipient, state: is, reason }) => ({
    number: sender,
    form: {
      Id: messageId,
      To: recipient,
      Status: is === 'arrived' ? 'delivered' : 'failed',
      ...(reason && { Error: reason }),
    },
  }),
};

class Refused extends Error {
  constructor(status, code, message, response) {
    super(message);
    Object.assign(this, { status, code, after: response?.headers.get('retry-after') ?? null });
  }
}

/** Gives a form to the webhook of its number; the provider is asked to tell it again where that fails. */
async function handOn({ number, form }) {
  const webhook = state.webhooks[number];
  if (!webhook) throw new Refused(404, 'unknown_number', `${number} is connected to nothing.`);
  const body = new URLSearchParams(form).toString();
  const response = await fetch(webhook, {
    method: 'POST',
    headers: {
      'content-type': 'application/x-www-form-urlencoded',
      'x-signature-256': `sha256=${createHmac('sha256', SIGNING).update(body).digest('hex')}`,
    },
    body,
    signal: AbortSignal.timeout(10_000),
  });
  if (!response.ok) throw new Refused(503, 'later', `Dart Loop answered ${response.status}.`);
}

const isOurs = ({ authorization = '' }) => {
  const [given, wanted] = [authorization, `Bearer ${KEY}`].map((each) =>
    createHmac('sha256', 'x').update(each).digest(),
  );
  return timingSafeEqual(given, wanted);
};

async function answer(request, body) {
  const tells = fromCarrier[request.url];
  if (tells) return handOn(tells(body)).then(() => [200, {}]);
  if (!isOurs(request.headers))
    throw new Refused(401, 'unauthorized', 'The key is not the one of this bridge.');
  if (request.url === '/numbers') {
    state.webhooks[body.number] = body.webhook;
    keep();
    return [200, { number: body.number, webhook: body.webhook }];
  }
  if (request.url !== '/messages') throw new Refused(404, 'unknown', 'There is no such path.');
  const key = request.headers['idempotency-key'];
  const id = state.answers[key] ?? (await toCarrier(body));
  if (key) state.answers[key] = id;
  keep();
  return [202, { id }];
}

createServer((request, response) => {
  const parts = [];
  request.on('data', (part) => parts.push(part));
  request.on('end', async () => {
    const send = (status, said, headers = {}) =>
      response
        .writeHead(status, { 'content-type': 'application/json', ...headers })
        .end(JSON.stringify(said));
    try {
      send(...(await answer(request, JSON.parse(Buffer.concat(parts).toString() || '{}'))));
    } catch (error) {
      const { status = 502, code = 'unreachable', after, message } = error;
      send(status, { error: { code, message } }, after ? { 'retry-after': after } : {});
    }
  });
}).listen(Number(BRIDGE_PORT), '127.0.0.1', () => console.log(`The bridge listens at port ${BRIDGE_PORT}.`));
