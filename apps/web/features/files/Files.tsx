import { useLocalSearchParams } from 'expo-router';
import { useState } from 'react';
import { View } from 'react-native';
import { RenameFile, type KeptFile } from '@dart-loop/contract/files';
import { Dialog } from '../../ui/Menu';
import { Page } from '../../ui/Page';
import { Empty, Failure, Refused, Waiting } from '../../ui/parts';
import { ActionButton, QuietButton } from '../../ui/press';
import { useTheme } from '../../ui/theme';
import { whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { ask } from '../session/api';
import { RemoveButton } from '../session/RemoveButton';
import { FormField, useSentForm } from '../session/useSentForm';
import { useMay } from '../session/useSession';
import { Dropping } from './Dropping';
import { Thumb } from './Thumb';
import { filesPath, sizeWords, usedWords, useFiles } from './useFiles';

/** A client's files: kept once, named by texts, replaced everywhere at once. */
export function Files() {
  const { client } = useLocalSearchParams<{ client: string }>();
  const changes = useMay()('change loops');
  const { files, error, mutate, add, replace } = useFiles(client);
  return (
    <Page
      title="Files"
      back={{ href: `/${client}/loops`, words: 'Loops', onPhoneOnly: true }}
      about="Pictures, recordings, videos and documents that loops send. Replace one, and it is replaced wherever it is sent."
    >
      {error && <Failure error={error} again={() => void mutate()} />}
      {!files && !error && <Waiting />}
      {files && changes && (
        <View style={{ marginBottom: 12 }}>
          <Dropping words="Add a file" take={async (chosen, progress) => void (await add(chosen, progress))}>
            <Words kind="small">or drag it here</Words>
          </Dropping>
        </View>
      )}
      {files?.length === 0 && (
        <Empty
          title="No files yet"
          words="Add a picture or a document here or in a step. Pictures are turned upright and made to fit every channel."
        />
      )}
      <View role="list" aria-label="Files">
        {files?.map((file) => (
          <Row key={file.id} client={client} file={file} changes={changes} replace={replace} read={mutate} />
        ))}
      </View>
    </Page>
  );
}

function Row({
  client,
  file,
  changes,
  replace,
  read,
}: {
  client: string;
  file: KeptFile;
  changes: boolean;
  replace: (file: KeptFile, chosen: File, progress: (part: number) => void) => Promise<void>;
  read: () => Promise<unknown>;
}) {
  const { colors } = useTheme();
  const [renaming, setRenaming] = useState(false);
  const [copied, setCopied] = useState(false);
  const remove = async () => {
    await ask('DELETE', `${filesPath(client)}/${file.id}`);
    await read();
  };
  return (
    <View
      role="listitem"
      aria-label={file.name}
      style={{ borderTopWidth: 1, borderColor: colors.line, paddingVertical: 10, gap: 6 }}
    >
      <View style={{ flexDirection: 'row', gap: 12, alignItems: 'center' }}>
        <Thumb file={file} />
        <View style={{ flex: 1, minWidth: 0, gap: 2 }}>
          <Words kind="strong" numberOfLines={2}>
            {file.name}
          </Words>
          <Words kind="small">{`${sizeWords(file)}; ${usedWords(file)}`}</Words>
          <Words kind="small">{`${whenWords(file.madeAt)}${file.madeBy ? ` by ${file.madeBy}` : ''}`}</Words>
        </View>
      </View>
      <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
        <QuietButton
          title={copied ? 'Copied' : 'Copy address'}
          label={`${copied ? 'Copied' : 'Copy address'} of ${file.name}`}
          onPress={() =>
            void navigator.clipboard
              .writeText(new URL(file.address, window.location.href).href)
              .then(() => setCopied(true))
          }
        />
        {changes && (
          <>
            <Dropping
              words="Replace"
              outlined={false}
              label={`Replace ${file.name}`}
              take={(chosen, progress) => replace(file, chosen, progress)}
            />
            <QuietButton title="Rename" label={`Rename ${file.name}`} onPress={() => setRenaming(true)} />
            <RemoveButton
              name={file.name}
              refused={file.usedBy.length > 0}
              words={
                file.usedBy.length > 0
                  ? `It is ${usedWords(file)}. Take it out there first, or replace it here.`
                  : 'Its address leads nowhere then, also in messages that were sent with it. This cannot be undone.'
              }
              remove={remove}
            />
          </>
        )}
      </View>
      {renaming && <Rename client={client} file={file} read={read} onClose={() => setRenaming(false)} />}
    </View>
  );
}

function Rename({
  client,
  file,
  read,
  onClose,
}: {
  client: string;
  file: KeptFile;
  read: () => Promise<unknown>;
  onClose: () => void;
}) {
  const form = useSentForm(RenameFile, { name: file.name }, async (body) => {
    await ask('PUT', `${filesPath(client)}/${file.id}`, body);
    await read();
    onClose();
  });
  return (
    <Dialog
      title={`Rename ${file.name}`}
      open
      onClose={onClose}
      foot={<ActionButton title="Save name" busy={form.busy} onPress={form.submit} />}
    >
      <View style={{ padding: 12, gap: 8 }}>
        <Refused problem={form.failure?.message} />
        <FormField of={form} name="name" label="Name" autoFocus />
        <Words kind="small">{`Texts go on naming it “${file.key.replaceAll('_', ' ')}”.`}</Words>
      </View>
    </Dialog>
  );
}
