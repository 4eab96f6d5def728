// A client's own system that keeps in step with Dart Loop by its API, written from the OpenAPI document
// alone.
// DARTLOOP=http://localhost:8100 DARTLOOP_KEY=… node docs/examples/outside-system.mjs mira@example.org
// "+447700900144" "Ferry news"
const address = process.env.DARTLOOP;
const key = process.env.DARTLOOP_KEY;
const [email, phone, loop] = process.argv.slice(2);
const document = await (await fetch(`${address}/v1/openapi.json`)).json();

/** Calls an operation by the id that the document gives it; waits when it is told to. */
async function call(operationId, { path = {}, query = {}, body } = {}) {
  const [[template, method]] = Object.entries(document.paths).flatMap(([each, methods]) =>
    Object.entries(methods)
      .filter(([, operation]) => operation.operationId === operationId)
      .map(([name]) => [each, name]),
  );
  const url = new URL(document.servers[0].url + template.replace(/\{(\w+)\}/g, (_, name) => encodeURIComponent(path[name])));
  for (const [name, value] of Object.entries(query)) if (value !== null) url.searchParams.set(name, value);
  const answer = await fetch(url, {
    method: method.toUpperCase(),
    headers: { authorization: `Bearer ${key}`, ...(body && { 'content-type': 'application/json' }) },
    ...(body && { body: JSON.stringify(body) }),
  });
  if (answer.status === 429) {
    await new Promise((resolve) => setTimeout(resolve, Number(answer.headers.get('retry-after') ?? 1) * 1_000));
    return call(operationId, { path, query, body });
  }
  if (!answer.ok) throw new Error(`${operationId}: ${(await answer.json()).detail}`);
  return answer.json();
}

const { fields } = await call('readFields');
const { lines } = await call('readLines');
const texted = lines.find(({ channel }) => channel === 'sms');
const typed = Object.fromEntries(fields.filter(({ type }) => type === 'number').map((field) => [field.key, 4]));
const { person, made } = await call('putPerson', {
  body: {
    by: { email },
    firstName: 'Mira',
    fields: { phone, ...typed },
    tagsOn: ['from the till'],
    identities: [{ line: texted.key, address: phone, optIn: true }],
    stated: 'asked at the till',
  },
});
console.log(made ? 'made' : 'changed', person.id, JSON.stringify(person.fields));
await call('startLoop', { path: { personId: person.id }, body: { loop } });

// What happened since, till the loop's run has begun.
let next = null;
for (let looks = 0; looks < 50; looks++) {
  const page = await call('readEvents', { query: { cursor: next } });
  next = page.next;
  for (const { type, subject, data } of page.events)
    if (subject === person.id) console.log(type, JSON.stringify(data));
  const began = page.events.some(({ type, subject }) => type === 'run.began' && subject === person.id);
  if (began) process.exit(0);
  if (page.events.length === 0) await new Promise((resolve) => setTimeout(resolve, 200));
}
throw new Error('the loop did not begin');
