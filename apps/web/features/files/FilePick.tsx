import { useState } from 'react';
import { Pressable, View } from 'react-native';
import type { KeptFile } from '@dart-loop/contract/files';
import { Dialog } from '../../ui/Menu';
import { Failure, Waiting } from '../../ui/parts';
import { QuietButton, TextLink } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { Words } from '../../ui/Words';
import { Dropping } from './Dropping';
import { Thumb } from './Thumb';
import { sizeWords, useFiles } from './useFiles';

/** Chooses one of the client's files, or adds one from this device. */
export function FilePick({
  client,
  chosen,
  onChoose,
}: {
  client: string;
  /** The key of the file that is chosen now. */
  chosen: string | null;
  onChoose: (file: KeptFile) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <View style={{ flexDirection: 'row' }}>
      <QuietButton
        outlined
        title={chosen ? 'Choose another file' : 'Choose a file'}
        onPress={() => setOpen(true)}
      />
      {open && (
        <Chooser
          client={client}
          chosen={chosen}
          onClose={() => setOpen(false)}
          onChoose={(file) => {
            onChoose(file);
            setOpen(false);
          }}
        />
      )}
    </View>
  );
}

function Chooser({
  client,
  chosen,
  onClose,
  onChoose,
}: {
  client: string;
  chosen: string | null;
  onClose: () => void;
  onChoose: (file: KeptFile) => void;
}) {
  const { colors } = useTheme();
  const { files, error, add } = useFiles(client);
  return (
    <Dialog title="Choose a file" open onClose={onClose}>
      <View style={{ padding: 12, gap: 12 }}>
        <Dropping
          words="Add a file from this device"
          take={async (taken, progress) => onChoose(await add(taken, progress))}
        />
        {error && <Failure error={error} />}
        {!files && !error && <Waiting />}
        {files?.map((file) => (
          <Pressable
            key={file.id}
            role="button"
            aria-pressed={file.key === chosen}
            aria-label={`${file.name}, ${sizeWords(file)}`}
            onPress={() => onChoose(file)}
            style={{
              flexDirection: 'row',
              gap: 12,
              alignItems: 'center',
              minHeight: 52,
              borderTopWidth: 1,
              borderColor: colors.line,
              paddingVertical: 4,
            }}
          >
            <Thumb file={file} />
            <View style={{ flex: 1, minWidth: 0 }}>
              <Words kind={file.key === chosen ? 'strong' : undefined} numberOfLines={1}>
                {file.name}
              </Words>
              <Words kind="small">{sizeWords(file)}</Words>
            </View>
          </Pressable>
        ))}
        <TextLink href={`/${client}/files`}>All files</TextLink>
      </View>
    </Dialog>
  );
}
