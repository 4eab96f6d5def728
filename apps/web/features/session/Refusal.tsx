import { View } from 'react-native';
import { Refused } from '../../ui/parts';
import { QuietButton } from '../../ui/press';
import { ApiError } from './api';

/**
 * Why something was not kept. Where somebody else has changed the same meanwhile, theirs is taken, or what is
 * written here is kept over it.
 */
export function Refusal({
  failure,
  busy,
  onTheirs,
  onMine,
}: {
  failure: Error | null;
  busy: boolean;
  onTheirs: () => void;
  onMine: () => void;
}) {
  return (
    <Refused problem={failure?.message}>
      {failure instanceof ApiError && failure.body.changed === true && (
        <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
          <QuietButton outlined title="Use their version" disabled={busy} onPress={onTheirs} />
          <QuietButton outlined tone="red" title="Overwrite with mine" disabled={busy} onPress={onMine} />
        </View>
      )}
    </Refused>
  );
}
