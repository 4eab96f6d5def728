import type { Role, SignInChoices } from '@dart-loop/contract';

/** The server's API, as a signed-in user of the demo. */
export class Api {
  private constructor(
    private readonly address: string,
    readonly cookie: string,
  ) {}

  static async signIn(address: string, role: Role): Promise<Api> {
    const choices = (await (await fetch(`${address}/api/sign-in`)).json()) as SignInChoices;
    const { email, password } = choices.demo.find((choice) => choice.role === role)!;
    const response = await fetch(`${address}/api/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ email, password }),
    });
    if (!response.ok)
      throw new Error(`signing in as ${role} was answered ${response.status}: ${await response.text()}`);
    return new Api(address, response.headers.getSetCookie()[0]!.split(';')[0]!);
  }

  get<T>(path: string): Promise<T> {
    return this.#ask('GET', path);
  }
  post<T>(path: string, body: unknown): Promise<T> {
    return this.#ask('POST', path, body);
  }

  put<T>(path: string, body: unknown): Promise<T> {
    return this.#ask('PUT', path, body);
  }
  /** Hands in a file as its bytes. */
  async file<T>(path: string, bytes: Uint8Array): Promise<T> {
    const response = await fetch(`${this.address}/api${path}`, {
      method: 'POST',
      headers: { cookie: this.cookie, 'content-type': 'application/octet-stream' },
      body: bytes as BodyInit,
    });
    const text = await response.text();
    if (!response.ok) throw new Error(`POST ${path} was answered ${response.status}: ${text}`);
    return JSON.parse(text) as T;
  }
  /** The answer as text: a file that is taken out. */
  async text(path: string): Promise<string> {
    const response = await this.#send('GET', path);
    if (!response.ok)
      throw new Error(`GET ${path} was answered ${response.status}: ${await response.text()}`);
    return response.text();
  }
  /** How many lines and bytes a file has that is taken out, counted as it comes. */
  async lines(path: string): Promise<{ lines: number; bytes: number }> {
    const response = await this.#send('GET', path);
    if (!response.ok || !response.body) throw new Error(`GET ${path} was answered ${response.status}`);
    let lines = 0;
    let bytes = 0;
    for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
      bytes += chunk.length;
      for (const byte of chunk) if (byte === 10) lines++;
    }
    return { lines, bytes };
  }
  /** The answer as it is, whatever its status. */
  async raw(method: string, path: string, body?: unknown): Promise<{ status: number; body: unknown }> {
    const response = await this.#send(method.toUpperCase(), path, body);
    const text = await response.text();
    return {
      status: response.status,
      body: response.headers.get('content-type')?.includes('json') ? (JSON.parse(text) as unknown) : text,
    };
  }

  #send(method: string, path: string, body?: unknown): Promise<Response> {
    return fetch(`${this.address}/api${path}`, {
      method,
      headers: { cookie: this.cookie, 'content-type': 'application/json' },
      ...(body !== undefined && { body: JSON.stringify(body) }),
    });
  }

  async #ask<T>(method: string, path: string, body?: unknown): Promise<T> {
    const response = await this.#send(method, path, body);
    const text = await response.text();
    if (!response.ok) throw new Error(`${method} ${path} was answered ${response.status}: ${text}`);
    return (text ? JSON.parse(text) : undefined) as T;
  }
}

/** Posts JSON to something that asks for no sign-in, such as the stand-ins. */
export async function postJson<T>(url: string, body: object): Promise<T> {
  const response = await fetch(url, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  const answer = (await response.json()) as T & { reason?: string };
  if (!response.ok) throw new Error(`${url} answered ${response.status}: ${answer.reason ?? ''}`);
  return answer;
}
