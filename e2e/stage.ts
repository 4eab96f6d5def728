import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import type Axe from 'axe-core';
import { expect, test as base, type Page } from '@playwright/test';
import { signInDemo } from '../cli/browser';

/** Said of a machine that is slow to begin; whether what is named with a page is used: `weight.spec.ts`. */
const SLOW = /was preloaded using link preload but not used within a few seconds/;

/** Where servers are killed meanwhile, event streams and scripts break off, and are begun anew. */
const BROKEN_OFF =
  process.env.DARTLOOP_BROWSER_KILLS === 'yes'
    ? [
        /ERR_INCOMPLETE_CHUNKED_ENCODING|ERR_CONNECTION_RESET|ERR_EMPTY_RESPONSE|ERR_CONTENT_LENGTH_MISMATCH/,
        /Requiring unknown module/,
      ]
    : [];

const AXE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');
const RULES = { all: null, colours: ['color-contrast', 'link-in-text-block'] };
declare global {
  interface Window {
    axe: typeof Axe;
  }
}

/** A test whose page may leave nothing in the console. */
export const test = base.extend<{ quiet: void; meant: RegExp[] }>({
  /** What a test provokes on purpose, such as a refusal that the browser reports. */
  meant: [[], { option: true }],
  quiet: [
    async ({ page, meant }, use) => {
      const heard: string[] = [];
      page.on('console', (message) => {
        if (message.type() === 'error' || message.type() === 'warning')
          heard.push(`${message.type()}: ${message.text()} ${message.location().url}`.trim());
      });
      page.on('pageerror', (error) => heard.push(`thrown: ${error.message}`));
      await use();
      expect(
        heard.filter((each) => ![SLOW, ...BROKEN_OFF, ...meant].some((pattern) => pattern.test(each))),
      ).toEqual([]);
    },
    { auto: true },
  ],
});

export { expect };

/** A page that is open is left first: what it still asks for would be asked with a session that has ended. */
export async function signIn(
  page: Page,
  role: 'owner' | 'builder' | 'operator' | 'client' = 'builder',
): Promise<void> {
  await page.goto('about:blank');
  await signInDemo(page.request, role);
}

/**
 * Nothing that axe knows to be wrong. `colours`: looked at for its colours alone, where all else was looked
 * at in others.
 */
export async function expectAccessible(page: Page, what: 'all' | 'colours' = 'all'): Promise<void> {
  if (!(await page.evaluate(() => 'axe' in window))) await page.evaluate(AXE);
  // What holds is not listed: that is most of the work, and there is nothing to do about it.
  const wrong = await page.evaluate(async (rules) => {
    const { violations } = await window.axe.run({
      resultTypes: ['violations'],
      preload: false,
      ...(rules && { runOnly: rules }),
    });
    return violations.map(
      ({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 200)).join(' | ')}`,
    );
  }, RULES[what]);
  expect(wrong).toEqual([]);
}

/** The id of a loop of the client, by its name. */
export async function loopId(page: Page, client: string, name: string): Promise<string> {
  const loops = (await (await page.request.get(`/api/clients/${client}/loops`)).json()) as {
    id: string;
    name: string;
  }[];
  return loops.find((loop) => loop.name === name)!.id;
}

let number = 0;

/** A loop of the test's own, from a file, so that tests that run beside each other do not meet. */
export async function makeLoop(
  page: Page,
  client: string,
  options: { keyword: string; publish?: boolean; text?: string },
): Promise<{ id: string; name: string }> {
  const name = `${options.keyword} ${Date.now().toString(36)}${++number}`;
  const file = `
format: dart-loop/1
name: ${name}
cues:
  - { kind: keyword, words: [${options.keyword}], match: exactly }
scenes:
  - id: welcome
    name: Welcome
    steps:
      - id: hello
        kind: say
        text: ${options.text ?? 'Hello. Shall we write to you?'}
        choices:
          - { label: Yes please, to: email }
          - { label: Not now, to: bye }
        noReply: { after: 3h, to: bye }
  - id: email
    name: Email
    steps:
      - id: mail
        kind: ask
        text: Where to?
        reply: email
        field: email
        retry: { times: 2, text: An address has an @ in it. }
        otherwise: bye
        noReply: { after: 1d, to: bye }
      - { id: thanks, kind: say, text: "Noted, {{ person.email }}." }
  - id: bye
    name: Bye
    steps:
      - { id: so-long, kind: say, text: Another time. }
      - { id: over, kind: end }
`;
  return { id: await takeIn(page, client, file, options.publish !== false), name };
}

/** Takes a loop in from a file; gives its id. */
export async function takeIn(page: Page, client: string, file: string, publish: boolean): Promise<string> {
  const answer = await page.request.post(`/api/clients/${client}/loops/import`, { data: { file } });
  expect(answer.status()).toBe(200);
  const { id } = (await answer.json()) as { id: string };
  if (publish)
    expect(
      (
        await page.request.post(`/api/clients/${client}/loops/${id}/publish`, { data: { revision: 1 } })
      ).status(),
    ).toBe(200);
  return id;
}

/** Publishes what is on the page, by the sheet that says what changes. */
export async function publish(page: Page): Promise<void> {
  await page
    .getByRole('button', { name: /^Publish( |$)/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Publish now' }).click();
}

/** Something from the menu of the loop as a whole. */
export async function ofLoop(page: Page, what: string): Promise<void> {
  await page.getByRole('button', { name: 'More for this loop' }).click();
  await page.getByRole('button', { name: new RegExp(`^${what}`) }).click();
}

/** Adds steps to a scene as they are typed, a line each. */
export async function type(page: Page, scene: string, lines: string[]): Promise<void> {
  await page.getByRole('button', { name: `Add a step to ${scene}` }).click();
  for (const line of lines) {
    await page.getByRole('textbox', { name: 'What comes next?' }).fill(line);
    await page.getByRole('textbox', { name: 'What comes next?' }).press('Enter');
  }
  await page.getByRole('button', { name: 'Done adding' }).click();
}
