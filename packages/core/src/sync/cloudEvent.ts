/**
 * A CloudEvent (1.0, structured JSON) about one person of a client. `at` in ms; `subject` is the person's id.
 */
export function cloudEvent<Type extends string, Data>(
  client: string,
  { id, type, subject, at, data }: { id: string; type: Type; subject: string; at: number; data: Data },
) {
  return {
    specversion: '1.0' as const,
    id,
    source: `dart-loop/${encodeURIComponent(client)}`,
    type,
    subject,
    time: new Date(at).toISOString(),
    datacontenttype: 'application/json' as const,
    data,
  };
}
