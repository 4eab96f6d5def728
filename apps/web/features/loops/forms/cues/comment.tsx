import { PickRow, TextRow, TickRow } from '../../../../ui/rows';
import { listed, none, type CueEditor, type OwnProps } from './cueEditor';

export const comment: CueEditor<'comment'> = {
  words: 'A comment',
  more: 'on one of the client’s posts',
  fresh: () => ({ kind: 'comment', posts: 'any', nested: false }),
  Own,
};

function Own({ cue, set }: OwnProps<'comment'>) {
  const posts = Array.isArray(cue.posts) ? 'these' : cue.posts;
  return (
    <>
      <PickRow
        label="Under"
        value={posts}
        options={
          [
            ['any', 'any post'],
            ['from now on', 'posts from now on'],
            ['these', 'these posts'],
          ] as const
        }
        onChange={(next) => set({ posts: next === 'these' ? ['post-id'] : next })}
      />
      {Array.isArray(cue.posts) && (
        <TextRow
          label="Post ids, comma-separated"
          value={cue.posts.join(', ')}
          onChange={(typed) => set({ posts: listed(typed) })}
        />
      )}
      <TextRow
        label="Only with one of these words"
        placeholder="tickets, presale"
        value={(cue.with ?? []).join(', ')}
        onChange={(typed) => set({ with: none(listed(typed)) })}
      />
      <TextRow
        label="But not with any of these words"
        placeholder="sold out"
        value={(cue.without ?? []).join(', ')}
        onChange={(typed) => set({ without: none(listed(typed)) })}
      />
      <TickRow
        label="Also on replies to other comments"
        on={cue.nested === true}
        onChange={(on) => set({ nested: on ? true : undefined })}
      />
      <TextRow
        label="Public replies, one per line, used in turn"
        placeholder="You have a message from us."
        multiline
        value={(cue.publicReplies ?? []).join('\n')}
        onChange={(typed) => set({ publicReplies: none(listed(typed, /\n/)) })}
      />
    </>
  );
}
