import type { DestinationPage, SaveDestination, Triggers } from '@dart-loop/contract';
import { conditionWords } from '@dart-loop/core/people/conditionWords';
import { readSentence, whyUnread } from '@dart-loop/core/loops/edit/typedCondition';
import type { DestinationKindName } from '@dart-loop/core/sync/kinds/index';
import type { MappedColumn } from '@dart-loop/core/sync/mapping';

/** A destination as it is being written: texts as they are typed. */
export interface DestinationDraft {
  kind: DestinationKindName;
  name: string;
  address: string;
  token: string;
  findBy: string;
  listAt: string;
  idAt: string;
  key: string;
  /** Of a file: into a folder of the server, and not to an address. */
  inFolder: boolean;
  body: string;
  mapping: MappedColumn[];
  triggers: Triggers;
  who: string;
}

export const emptyDraft = (kind: DestinationKindName): DestinationDraft => ({
  kind,
  name: '',
  address: '',
  token: '',
  findBy: 'email',
  listAt: '',
  idAt: 'id',
  key: '',
  body: '',
  mapping: [],
  triggers: kind === 'file' ? { daily: { at: '06:00' } } : { fields: 'any' },
  inFolder: true,
  who: '',
});

export function draftOf(page: DestinationPage): DestinationDraft {
  const settings = page.settings as Partial<
    Record<'address' | 'findBy' | 'listAt' | 'idAt' | 'key', string>
  > & { body?: unknown };
  return {
    ...emptyDraft(page.kind),
    name: page.name,
    address: settings.address ?? '',
    findBy: settings.findBy ?? 'email',
    listAt: settings.listAt ?? '',
    idAt: settings.idAt ?? 'id',
    key: settings.key ?? '',
    inFolder: settings.address === undefined,
    body: settings.body === undefined ? '' : JSON.stringify(settings.body, null, 2),
    mapping: page.mapping,
    triggers: page.triggers,
    who: page.who ? conditionWords(page.who) : '',
  };
}

/** What is sent to the server, or what stands against it, in a sentence. */
export function savedOf(
  draft: DestinationDraft,
): { ok: true; destination: SaveDestination } | { ok: false; problem: string } {
  const { kind, name, address, token, triggers } = draft;
  const mapping = draft.mapping.map(({ otherwise, ...column }) =>
    otherwise ? { ...column, otherwise } : column,
  );
  const who = draft.who.trim() === '' ? null : readSentence(draft.who);
  if (who && !who.ok) return { ok: false, problem: `Whom it is for: ${whyUnread(who)}.` };
  const kept = {
    name: name.trim(),
    mapping,
    triggers,
    who: who?.condition ?? null,
    ...(token.trim() && { token: token.trim() }),
  };
  switch (kind) {
    case 'webhook': {
      if (draft.body.trim() === '')
        return { ok: true, destination: { kind, settings: { address }, ...kept } };
      try {
        return {
          ok: true,
          destination: { kind, settings: { address, body: JSON.parse(draft.body) as never }, ...kept },
        };
      } catch {
        return { ok: false, problem: 'The body is no JSON. Write it such as {"town": "{{ person.town }}"}.' };
      }
    }
    case 'contact':
      return {
        ok: true,
        destination: {
          kind,
          settings: {
            address,
            findBy: draft.findBy.trim(),
            listAt: draft.listAt.trim(),
            idAt: draft.idAt.trim(),
          },
          ...kept,
        },
      };
    case 'file': {
      const { daily } = triggers;
      const settings = draft.inFolder ? {} : { address };
      return { ok: true, destination: { kind, settings, ...kept, triggers: daily ? { daily } : {} } };
    }
    case 'rows':
      return {
        ok: true,
        destination: {
          kind,
          settings: { address, ...(draft.key.trim() && { key: draft.key.trim() }) },
          ...kept,
        },
      };
  }
}
