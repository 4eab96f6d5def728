import { useState } from 'react';
import { Pressable, View } from 'react-native';
import useSWR, { useSWRConfig } from 'swr';
import type { SegmentRow } from '@dart-loop/contract';
import { Field } from '../../../ui/Field';
import { Dialog } from '../../../ui/Menu';
import { Refused } from '../../../ui/parts';
import { ActionButton, QuietButton } from '../../../ui/press';
import { useTheme } from '../../../ui/theme';
import { Words } from '../../../ui/Words';
import { ask } from '../../session/api';
import { useAct } from '../../session/useAct';

/** The saved segments, each a tap away; the sentence that is written can become one. */
export function Segments({
  client,
  where,
  rule,
  manages,
  canSave,
  onChoose,
}: {
  client: string;
  /** The sentence that is asked for now, and as it was understood. */
  where: string;
  rule: unknown;
  manages: boolean;
  canSave: boolean;
  onChoose: (sentence: string) => void;
}) {
  const { colors } = useTheme();
  const { mutate } = useSWRConfig();
  const { act, problem } = useAct();
  const [removing, setRemoving] = useState<string | null>(null);
  const [saving, setSaving] = useState(false);
  const { data } = useSWR<SegmentRow[], Error>(`/clients/${client}/segments`);
  const current = data?.find((segment) => segment.words === where);
  const remove = (segment: SegmentRow) =>
    act(async () => {
      await ask('DELETE', `/clients/${client}/segments/${segment.id}`);
      await mutate(`/clients/${client}/segments`);
    });
  if (!data || (data.length === 0 && !canSave)) return null;
  return (
    <View role="group" aria-label="Segments" style={{ gap: 6 }}>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 6, alignItems: 'center' }}>
        {data.map((segment) => (
          <Pressable
            key={segment.id}
            role="button"
            aria-pressed={segment === current}
            onPress={() => onChoose(segment === current ? '' : segment.words)}
            style={{
              minHeight: 36,
              justifyContent: 'center',
              paddingHorizontal: 10,
              borderRadius: 6,
              borderWidth: 1,
              borderColor: segment === current ? colors.ink : colors.line,
              backgroundColor: segment === current ? colors.inset : colors.sheet,
            }}
          >
            <Words kind={segment === current ? 'smallStrong' : 'small'} color="ink">
              {segment.name}
            </Words>
          </Pressable>
        ))}
        {manages && canSave && !current && (
          <QuietButton title="Save as segment" tone="teal" onPress={() => setSaving(true)} />
        )}
        {manages && current && removing !== current.id && (
          <QuietButton
            title="Remove segment"
            label={`Remove the segment ${current.name}`}
            tone="quiet"
            onPress={() => setRemoving(current.id)}
          />
        )}
        {manages && current && removing === current.id && (
          <>
            <QuietButton
              outlined
              tone="red"
              title={`Remove ${current.name}`}
              onPress={() => void remove(current)}
            />
            <QuietButton title="Cancel" onPress={() => setRemoving(null)} />
          </>
        )}
      </View>
      <Refused problem={problem} />
      <SaveAs client={client} where={where} rule={rule} open={saving} onClose={() => setSaving(false)} />
    </View>
  );
}

/** The sentence as a segment with a name, to be asked for in splits and exports. */
function SaveAs({
  client,
  where,
  rule,
  open,
  onClose,
}: {
  client: string;
  where: string;
  rule: unknown;
  open: boolean;
  onClose: () => void;
}) {
  const { mutate } = useSWRConfig();
  const [name, setName] = useState('');
  const { act, busy, problem } = useAct();
  const save = () =>
    act(async () => {
      await ask('POST', `/clients/${client}/segments`, { name, rule });
      await mutate(
        (key) =>
          typeof key === 'string' && (key === `/clients/${client}/segments` || key.endsWith('/vocabulary')),
      );
      setName('');
      onClose();
    });
  return (
    <Dialog
      title="Save as segment"
      open={open}
      onClose={onClose}
      foot={
        <ActionButton
          title="Save segment"
          busy={busy}
          disabled={name.trim() === ''}
          onPress={() => void save()}
        />
      }
    >
      <View style={{ padding: 12, gap: 12 }}>
        <Words>{where}</Words>
        <Field
          label="Name"
          value={name}
          onChangeText={setName}
          problem={problem}
          autoFocus
          hint="A split asks for it by this name: “in the segment Regulars”."
        />
      </View>
    </Dialog>
  );
}
