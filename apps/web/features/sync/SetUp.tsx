import { View } from 'react-native';
import { onWeb } from '../../ui/onWeb';
import { DESTINATION_KINDS } from '@dart-loop/core/sync/kinds/index';
import type { PeopleVocabulary } from '@dart-loop/contract';
import { Field } from '../../ui/Field';
import { isTimeOfDay } from '@dart-loop/core/time/clockTime';
import { Group, PickRow, TextRow, TickRow } from '../../ui/rows';
import { Sentence } from '../people/list/Sentence';
import type { DestinationDraft } from './draft';

const ADDRESS = {
  webhook: { label: 'Address to call', placeholder: 'https://example.org/hook' },
  contact: { label: 'Address of the contacts', placeholder: 'https://example.org/contacts' },
  rows: { label: 'Address of the rows', placeholder: 'https://example.org/sheets/1/rows' },
  file: { label: 'Address to upload to', placeholder: 'https://example.org/drop/people-DATE.csv' },
} as const;

/** Where it goes, how it is let in, and what brings a delivery about. */
export function SetUp({
  draft,
  hint,
  known,
  onChange,
}: {
  draft: DestinationDraft;
  /** The last characters of the token that is kept. */
  hint: string | null;
  known: PeopleVocabulary | undefined;
  onChange: (next: Partial<DestinationDraft>) => void;
}) {
  const { kind, triggers } = draft;
  const trigger = (
    which: 'fields' | 'tags' | 'lists' | 'runs' | 'bookings',
    label: string,
    example: string,
  ) => {
    const now = triggers[which];
    return (
      <View style={{ gap: 4 }}>
        <TickRow
          label={label}
          on={now !== undefined}
          onChange={(on) => onChange({ triggers: { ...triggers, [which]: on ? 'any' : undefined } })}
        />
        {now !== undefined && (
          <View style={{ paddingLeft: 36 }}>
            <Field
              label={`Only these ${which === 'runs' ? 'loops' : which === 'bookings' ? 'calendars' : which}`}
              hideLabel
              placeholder={`any; or only these, such as ${example}`}
              autoCapitalize="none"
              value={now === 'any' ? '' : now.join(', ')}
              onChangeText={(typed) => {
                const names = typed
                  .split(/, ?/)
                  .filter((name, index, all) => name !== '' || (index === all.length - 1 && index > 0));
                onChange({ triggers: { ...triggers, [which]: typed === '' ? 'any' : names } });
              }}
            />
          </View>
        )}
      </View>
    );
  };
  return (
    <View style={{ gap: 16 }}>
      <Field
        label="Name"
        placeholder="The client’s CRM"
        value={draft.name}
        onChangeText={(name) => onChange({ name })}
      />
      {kind === 'file' && (
        <PickRow
          label="Send the file"
          value={draft.inFolder ? 'folder' : 'address'}
          options={
            [
              ['folder', 'into a folder of the server'],
              ['address', 'to an address, by PUT'],
            ] as const
          }
          onChange={(where) => onChange({ inFolder: where === 'folder' })}
        />
      )}
      {!(kind === 'file' && draft.inFolder) && (
        <Field
          label={ADDRESS[kind].label}
          placeholder={ADDRESS[kind].placeholder}
          hint={kind === 'file' ? 'DATE in it becomes the day, such as 2026-11-26.' : undefined}
          autoCapitalize="none"
          autoCorrect={false}
          value={draft.address}
          onChangeText={(address) => onChange({ address: address.trim() })}
        />
      )}
      {(DESTINATION_KINDS[kind].needsToken || (kind === 'file' && !draft.inFolder)) && (
        <Field
          label={DESTINATION_KINDS[kind].needsToken ? 'Token' : 'Token (optional)'}
          placeholder={
            hint ? `kept, ends in ${hint}; write another to change it` : 'what lets us in over there'
          }
          secureTextEntry
          autoCapitalize="none"
          autoComplete="off"
          value={draft.token}
          onChangeText={(token) => onChange({ token })}
          hint="Stored encrypted and never shown again."
        />
      )}
      {kind === 'contact' && (
        <Field
          label="Find contacts by column"
          autoCapitalize="none"
          value={draft.findBy}
          onChangeText={(findBy) => onChange({ findBy })}
          hint="The contact is updated if it is found, and added if not."
        />
      )}
      {kind === 'contact' && (
        <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 12 }}>
          <View style={{ flexGrow: 1, minWidth: 200 }}>
            <Field
              label="Path to the id"
              autoCapitalize="none"
              value={draft.idAt}
              onChangeText={(idAt) => onChange({ idAt })}
            />
          </View>
          <View style={{ flexGrow: 1, minWidth: 200 }}>
            <Field
              label="Path to the results"
              placeholder="the answer itself"
              autoCapitalize="none"
              value={draft.listAt}
              onChangeText={(listAt) => onChange({ listAt })}
            />
          </View>
        </View>
      )}
      {kind === 'rows' && (
        <Field
          label="Find a person’s row by column"
          placeholder="none: every delivery appends a row"
          autoCapitalize="none"
          value={draft.key}
          onChangeText={(key) => onChange({ key })}
        />
      )}
      {kind === 'webhook' && (
        <Field
          label="Body"
          placeholder="a CloudEvent with the columns below"
          hint="JSON with merge fields, where the other side wants one of its own."
          multiline
          autoCapitalize="none"
          autoCorrect={false}
          value={draft.body}
          onChangeText={(body) => onChange({ body })}
          {...onWeb({ rows: Math.max(2, Math.min(12, draft.body.split('\n').length)) })}
        />
      )}
      <Group title="Send when">
        {kind !== 'file' && trigger('fields', 'a field changes', 'town, email')}
        {kind !== 'file' && trigger('tags', 'a tag is put on or taken off', 'vip')}
        {kind !== 'file' && trigger('lists', 'a list is joined or left', 'News')}
        {kind !== 'file' && trigger('runs', 'a run of a loop is finished', 'Sailing alerts')}
        {kind !== 'file' && trigger('bookings', 'a booking is made, moved or cancelled', 'Trial session')}
        <TickRow
          label="every day, of everybody it is for"
          on={triggers.daily !== undefined}
          onChange={(on) => onChange({ triggers: { ...triggers, daily: on ? { at: '07:00' } : undefined } })}
        />
        {triggers.daily && (
          <View style={{ paddingLeft: 36 }}>
            <TextRow
              label="At (client’s time)"
              value={triggers.daily.at}
              read={(typed) =>
                isTimeOfDay(typed) ? null : 'A time of day is written such as 07:00 or 17:30.'
              }
              onChange={(at) => onChange({ triggers: { ...triggers, daily: { at } } })}
            />
          </View>
        )}
      </Group>
      <Sentence
        label="Only for people who"
        value={draft.who}
        onChange={(who) => onChange({ who })}
        known={known}
      />
    </View>
  );
}
