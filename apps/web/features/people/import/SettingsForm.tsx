import type { PeopleVocabulary } from '@dart-loop/contract';
import { CHANNEL_NAMES } from '@dart-loop/core/channels/names';
import { Field } from '../../../ui/Field';
import { Group, PickRow, TickRow } from '../../../ui/rows';
import { Words } from '../../../ui/Words';
import type { Settings } from './useImport';

/** How the people are imported, and what they have opted in to. */
export function SettingsForm({
  settings,
  set,
  lines,
  hasDates,
  needsSource,
}: {
  settings: Settings;
  set: (change: Partial<Settings>) => void;
  lines: PeopleVocabulary['lines'];
  /** Whether a column is read as dates. */
  hasDates: boolean;
  /** Whether it must be said where they opted in. */
  needsSource: boolean;
}) {
  const numbers = lines.filter((line) => line.channel === 'sms' || line.channel === 'whatsapp');
  return (
    <>
      <Group title="Import settings">
        <PickRow
          label="People who are already known, by number, email or id"
          value={settings.known}
          options={[
            ['file wins', 'the file wins'],
            ['fill gaps', 'fill what is empty'],
            ['leave alone', 'leave as they are'],
          ]}
          onChange={(known) => set({ known })}
        />
        <PickRow
          label="Rows with a cell that cannot be read"
          value={settings.bad}
          options={[
            ['leave out the row', 'leave out the row'],
            ['leave the cell empty', 'leave the cell empty'],
          ]}
          onChange={(bad) => set({ bad })}
        />
        {hasDates && (
          <PickRow
            label="3/4/2026 is"
            value={settings.dayOrder}
            options={[
              ['day first', '3 April'],
              ['month first', '4 March'],
            ]}
            onChange={(dayOrder) => set({ dayOrder })}
          />
        )}
        <Field
          label="Add a tag to all of them"
          placeholder="none"
          value={settings.tag}
          onChangeText={(tag) => set({ tag })}
        />
      </Group>
      <Group title="Opt-ins">
        <Words kind="small">
          Nobody is opted in unless you say where they opted in. People who have opted out stay opted out.
        </Words>
        {numbers.map((line) => (
          <TickRow
            key={line.key}
            label={`They have opted in to ${CHANNEL_NAMES[line.channel].name} on ${line.name}`}
            on={settings.optIn.includes(line.key)}
            onChange={(on) =>
              set({
                optIn: on
                  ? [...settings.optIn, line.key]
                  : settings.optIn.filter((each) => each !== line.key),
              })
            }
          />
        ))}
        <Field
          label="Add all of them to a list"
          placeholder="none"
          value={settings.list}
          onChangeText={(list) => set({ list })}
        />
        {(needsSource || settings.stated !== '') && (
          <Field
            label="Where they opted in"
            placeholder="paper form, spring fair 2026"
            value={settings.stated}
            onChangeText={(stated) => set({ stated })}
            problem={
              needsSource && settings.stated.trim() === ''
                ? 'Say where they opted in. It is recorded with each opt-in.'
                : null
            }
          />
        )}
      </Group>
    </>
  );
}
