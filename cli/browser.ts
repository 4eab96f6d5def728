import type { APIRequestContext } from '@playwright/test';
import type { Role, SignInChoices } from '@dart-loop/contract';

/**
 * Signs a browser in as one of the demo’s accounts, as a tap on it would. `address`: where the browser knows
 * of none.
 */
export async function signInDemo(browser: APIRequestContext, role: Role, address = ''): Promise<void> {
  const choices = (await (await browser.get(`${address}/api/sign-in`)).json()) as SignInChoices;
  const { email, password } = choices.demo.find((choice) => choice.role === role)!;
  const answer = await browser.post(`${address}/api/session`, { data: { email, password } });
  if (!answer.ok()) throw new Error(`signing in as ${role} was answered ${answer.status()}`);
}
