import { View } from 'react-native';
import type { KeptFile } from '@dart-loop/contract/files';
import { fileNamed } from '@dart-loop/core/people/client';
import { QuietButton } from '../../ui/press';
import { Words } from '../../ui/Words';
import { FilePick } from './FilePick';
import { Thumb } from './Thumb';
import { sizeWords, useFiles } from './useFiles';

/** The client's file that is chosen, shown as itself, with what changes it or takes it away. */
export function ChosenFile({
  client,
  label,
  address = '',
  removes = 'Remove file',
  onChoose,
}: {
  client: string;
  label?: string;
  /** What names it: its merge field, or an address of the web, which is none of the client's files. */
  address?: string;
  removes?: string;
  onChoose: (file: KeptFile | undefined) => void;
}) {
  const key = fileNamed(address);
  const file = useFiles(client).files?.find((each) => each.key === key);
  return (
    <View style={{ gap: 8 }}>
      {label && <Words kind="smallStrong">{label}</Words>}
      {file && (
        <View style={{ flexDirection: 'row', gap: 12, alignItems: 'center' }}>
          <Thumb file={file} />
          <Words style={{ flex: 1 }}>{`${file.name}: ${sizeWords(file)}`}</Words>
        </View>
      )}
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
        <FilePick client={client} chosen={key} onChoose={onChoose} />
        {/* One that is gone can be taken out as well. */}
        {key !== null && <QuietButton title={removes} onPress={() => onChoose(undefined)} />}
      </View>
    </View>
  );
}
