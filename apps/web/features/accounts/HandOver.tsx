import { useState } from 'react';
import { View } from 'react-native';
import type { MadeLink } from '@dart-loop/contract/accounts';
import { webStyle } from '../../ui/onWeb';
import { Sheet } from '../../ui/parts';
import { QuietButton } from '../../ui/press';
import { momentWords } from '../../ui/time';
import { Words } from '../../ui/Words';

/** A link that is shown this once, to hand over. */
export function HandOver({ for: whom, made, onClose }: { for: string; made: MadeLink; onClose: () => void }) {
  const [copied, setCopied] = useState(false);
  return (
    <Sheet style={{ padding: 16, gap: 8, marginBottom: 16 }}>
      <Words kind="strong">{`The link for ${whom}`}</Words>
      <Words kind="code" selectable color="ink" style={webStyle({ wordBreak: 'break-all' })}>
        {made.address}
      </Words>
      <Words kind="small">
        {`${made.mailed ? 'It was sent by mail as well.' : 'It was not sent by mail: hand it over yourself.'} It works once, until ${momentWords(made.expiresAt)}, and is not shown again.`}
      </Words>
      <View style={{ flexDirection: 'row', gap: 8 }}>
        <QuietButton
          outlined
          title={copied ? 'Copied' : 'Copy link'}
          onPress={() => void navigator.clipboard.writeText(made.address).then(() => setCopied(true))}
        />
        <QuietButton title="Hide link" onPress={onClose} />
      </View>
    </Sheet>
  );
}
