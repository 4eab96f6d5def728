import { ScrollView, View } from 'react-native';
import useSWR from 'swr';
import type { ConversationPage } from '@dart-loop/contract';
import { TextLink } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Inset } from '../../ui/parts';
import { Words } from '../../ui/Words';
import { useMay } from '../session/useSession';

/** What is known of the person, beside the conversation. */
export function PersonSide({ client, id }: { client: string; id: string }) {
  const { colors } = useTheme();
  const may = useMay();
  const { data } = useSWR<ConversationPage>(`/clients/${client}/conversations/${id}`);
  if (!data?.person) return null;
  const { fields, tags } = data.person;
  return (
    <ScrollView contentContainerStyle={{ padding: 16, gap: 4 }} tabIndex={-1}>
      <Words kind="heading">Fields</Words>
      {fields.length === 0 && (
        <Words kind="small">None yet. Answers to a loop’s questions are shown here.</Words>
      )}
      {fields.map((field) => (
        <View
          key={field.key}
          style={{
            flexDirection: 'row',
            flexWrap: 'wrap',
            justifyContent: 'space-between',
            columnGap: 12,
            borderBottomWidth: 1,
            borderStyle: 'dashed',
            borderColor: colors.line,
            paddingVertical: 6,
          }}
        >
          <Words kind="small">{field.name}</Words>
          <Words kind="small" color="ink" style={{ flexShrink: 1 }}>
            {field.words}
          </Words>
        </View>
      ))}
      <Words kind="heading" style={{ marginTop: 16 }}>
        Tags
      </Words>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 6 }}>
        {tags.length === 0 && <Words kind="small">None.</Words>}
        {tags.map((tag) => (
          <Inset key={tag} words={tag} />
        ))}
      </View>
      {may('see people of the inbox') && (
        <TextLink href={`/${client}/people/${data.person.id}`}>Open person</TextLink>
      )}
    </ScrollView>
  );
}
