import { View } from 'react-native';
import { counted } from '@dart-loop/core/language/counted';
import { Dialog } from '../../../ui/Menu';
import { ActionButton, QuietButton } from '../../../ui/press';
import { Words } from '../../../ui/Words';

/** Asks before a loop is paused or stopped, and says what happens to whom. */
export function StateDialog({
  asks,
  name,
  peopleInIt,
  onClose,
  act,
}: {
  asks: 'pause' | 'stop' | null;
  name: string;
  peopleInIt: number;
  onClose: () => void;
  act: (what: string, body: object, words: string) => void;
}) {
  const stops = asks === 'stop';
  const inIt =
    peopleInIt === 0
      ? 'Nobody is in it now.'
      : stops
        ? `${counted(peopleInIt, 'person', 'people')} in it will get no further messages from it; what they write next can start other loops, or waits for a person.`
        : `${counted(peopleInIt, 'person', 'people')} in it will continue to the end.`;
  return (
    <Dialog title={stops ? `Stop ${name}?` : `Pause ${name}?`} open={asks !== null} onClose={onClose}>
      <View style={{ padding: 12, gap: 12 }}>
        <Words>
          {stops
            ? `Nobody can start it any more. ${inIt} You can resume it later; people who were in it do not return to it by themselves.`
            : `Nobody new can start it; their messages can start other loops, or wait for a person. ${inIt}`}
        </Words>
        <View style={{ flexDirection: 'row', gap: 8 }}>
          <ActionButton
            title={stops ? 'Stop loop' : 'Pause loop'}
            onPress={() =>
              stops
                ? act('state', { state: 'stopped' }, 'The loop is stopped.')
                : act('state', { state: 'paused' }, 'The loop is paused. People in it continue.')
            }
          />
          <QuietButton title="Cancel" onPress={onClose} />
        </View>
      </View>
    </Dialog>
  );
}
