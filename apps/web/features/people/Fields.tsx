import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import useSWR from 'swr';
import type { FieldRow, FieldsPage } from '@dart-loop/contract';
import { Menu } from '../../ui/Menu';
import { QuietButton } from '../../ui/press';
import { Page } from '../../ui/Page';
import { Empty, Failure, Notice, Refused, Waiting } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { grouped } from '../../ui/time';
import { ask, type ApiError } from '../session/api';
import { useMay, useSession } from '../session/useSession';
import { Tasks } from './Tasks';
import { EditField, ChangeType, Share } from './FieldForms';
import { useAct } from '../session/useAct';

type Sheet = { what: 'new' } | { what: 'edit' | 'type' | 'share'; field: FieldRow };

/**
 * What is known of a client's people: each field with its type, who uses it, and how it differs from the
 * agency's.
 */
export function Fields() {
  const { colors } = useTheme();
  const { client } = useLocalSearchParams<{ client: string }>();
  const path = `/clients/${client}/fields`;
  const session = useSession().data;
  const manages = useMay()('manage people');
  const { data, error, mutate } = useSWR<FieldsPage, Error>(path);
  const [sheet, setSheet] = useState<Sheet | null>(null);
  const [notice, setNotice] = useState<string | null>(null);
  const { act, failure, forget } = useAct();
  const problem = failure as ApiError | null;
  const keep = (words: string, work: () => Promise<FieldsPage | void>) =>
    act(async () => {
      const page = await work();
      await mutate(page ?? undefined, { revalidate: !page });
      setNotice(words);
      setSheet(null);
    });
  const open = (next: Sheet) => {
    forget();
    setSheet(next);
  };
  return (
    <Page
      title="Fields"
      back={{ href: `/${client}/people`, words: 'People', onPhoneOnly: true }}
      actions={
        manages ? <QuietButton outlined title="Add field" onPress={() => open({ what: 'new' })} /> : undefined
      }
      about="What can be known of a person. A field is added by itself when a loop asks for it or a file contains it."
    >
      {error && <Failure error={error} again={() => void mutate()} />}
      {!data && !error && <Waiting />}
      {notice && <Notice tone="quiet">{notice}</Notice>}
      {!sheet && <Refused problem={problem?.message} />}
      {manages && <Tasks client={client} most={2} onlyUnderWay />}
      {data?.fields.length === 0 && (
        <Empty
          title="No fields yet"
          words="Ask for something in a loop, import a file, or add a field here."
        />
      )}
      {data?.fields.map((field) => (
        <View
          key={field.key}
          style={{
            borderTopWidth: 1,
            borderColor: colors.line,
            paddingVertical: 8,
            flexDirection: 'row',
            alignItems: 'center',
            gap: 8,
          }}
        >
          <View style={{ flex: 1 }}>
            <View style={{ flexDirection: 'row', flexWrap: 'wrap', columnGap: 10, alignItems: 'baseline' }}>
              <Words kind="strong">{field.name}</Words>
              <Words kind="small">
                {[field.type, field.personal && 'personal'].filter(Boolean).join(', ')}
              </Words>
              <Words kind="code">{field.key}</Words>
            </View>
            <Words kind="small">
              {[
                `${grouped(field.known)} ${field.known === 1 ? 'person' : 'people'}`,
                field.loops.length > 0 && `used in ${field.loops.join(', ')}`,
                field.options.length > 0 && `one of ${field.options.join(', ')}`,
                field.description,
                field.shared === 'same' && 'as the agency’s',
              ]
                .filter(Boolean)
                .join(' · ')}
            </Words>
            {Array.isArray(field.shared) && (
              <Words
                kind="small"
                color="ochre"
              >{`◆ differs from the agency’s: ${field.shared.join('; ')}`}</Words>
            )}
          </View>
          {manages && (
            <Menu
              label={`More about ${field.name}`}
              title={field.name}
              items={[
                { key: 'edit', words: 'Edit', onChoose: () => open({ what: 'edit', field }) },
                {
                  key: 'type',
                  words: 'Change the type',
                  more: 'With a preview of what converts',
                  onChoose: () => open({ what: 'type', field }),
                },
                {
                  key: 'share',
                  words: 'Copy to other clients',
                  more: 'As a shared field of the agency',
                  onChoose: () => open({ what: 'share', field }),
                },
                {
                  key: 'remove',
                  words: 'Remove',
                  tone: 'red',
                  disabled: field.known > 0 || field.loops.length > 0,
                  more:
                    field.known > 0
                      ? 'People have values of it'
                      : field.loops.length > 0
                        ? 'Loops use it'
                        : undefined,
                  onChoose: () =>
                    void keep(`${field.name} is removed.`, () =>
                      ask<FieldsPage>('DELETE', `${path}/${field.key}`),
                    ),
                },
              ]}
            >
              <Words kind="strong" color="teal" style={{ paddingHorizontal: 6 }}>
                More
              </Words>
            </Menu>
          )}
        </View>
      ))}
      {data && data.missing.length > 0 && (
        <View style={{ marginTop: 24 }}>
          <Words kind="heading">Shared by the agency, not added here</Words>
          {data.missing.map((field) => (
            <View
              key={field.key}
              style={{
                borderTopWidth: 1,
                borderColor: colors.line,
                paddingVertical: 8,
                flexDirection: 'row',
                alignItems: 'center',
                gap: 8,
              }}
            >
              <Words style={{ flex: 1 }}>{`${field.name}, ${field.type}`}</Words>
              {manages && (
                <QuietButton
                  outlined
                  title="Add"
                  label={`Add ${field.name}`}
                  onPress={() =>
                    void keep(`${field.name} is here.`, () =>
                      ask<FieldsPage>('POST', `${path}/share`, { keys: [field.key], clients: [client] }),
                    )
                  }
                />
              )}
            </View>
          ))}
        </View>
      )}
      {sheet?.what === 'new' && (
        <EditField
          problem={problem}
          onClose={() => setSheet(null)}
          onKeep={(body) => void keep(`${body.name} is made.`, () => ask<FieldsPage>('POST', path, body))}
        />
      )}
      {sheet?.what === 'edit' && (
        <EditField
          field={sheet.field}
          problem={problem}
          onClose={() => setSheet(null)}
          onKeep={({ key: _key, type: _type, ...body }) =>
            void keep(`${body.name} is kept.`, () =>
              ask<FieldsPage>('PUT', `${path}/${sheet.field.key}`, body),
            )
          }
        />
      )}
      {sheet?.what === 'type' && (
        <ChangeType
          path={path}
          field={sheet.field}
          onClose={() => setSheet(null)}
          onBegun={(words) => void keep(words, async () => undefined)}
        />
      )}
      {sheet?.what === 'share' && (
        <Share
          field={sheet.field}
          clients={(session?.clients ?? []).filter((each) => each.slug !== client)}
          onClose={() => setSheet(null)}
          onShare={(clients) =>
            void keep(
              `${sheet.field.name} is the agency’s, and in ${clients.length} other ${clients.length === 1 ? 'client' : 'clients'}.`,
              () => ask<FieldsPage>('POST', `${path}/share`, { keys: [sheet.field.key], clients }),
            )
          }
        />
      )}
    </Page>
  );
}
