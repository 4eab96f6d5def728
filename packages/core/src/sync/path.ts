/** What stands at a path such as "customer.id" in JSON; undefined where nothing does. */
export function valueAt(body: unknown, path: string): unknown {
  return path
    .split('.')
    .reduce<unknown>(
      (value, key) =>
        value !== null && typeof value === 'object' && Object.hasOwn(value, key)
          ? (value as Record<string, unknown>)[key]
          : undefined,
      body,
    );
}
