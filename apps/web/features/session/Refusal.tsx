import { View } from 'react-native';
import { Notice } from '../../ui/parts';
import { QuietButton } from '../../ui/press';
import { Words } from '../../ui/Words';
import { ApiError } from './api';

/** Why something was not kept. Where somebody else has changed the same meanwhile, theirs is taken, or what is written here is kept over it. */
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
  if (!failure) return null;
  if (!(failure instanceof ApiError && failure.body.changed)) return <Notice tone="failing">{failure.message}</Notice>;
  return (
    <Notice tone="failing">
      <Words kind="small" color="ink">
        {failure.message}
      </Words>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
        <QuietButton outlined title="Take theirs" disabled={busy} onPress={onTheirs} />
        <QuietButton outlined tone="red" title="Keep mine over it" disabled={busy} onPress={onMine} />
      </View>
    </Notice>
  );
}
