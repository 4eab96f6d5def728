import { useState } from 'react';
import { View } from 'react-native';
import type { LineRow, PhonePage, PhonePost } from '@dart-loop/contract';
import { CHANNELS } from '@dart-loop/core/channels/index';
import { Field } from '../../ui/Field';
import { QuietButton } from '../../ui/press';
import { Sheet } from '../../ui/parts';
import { useTheme } from '../../ui/theme';
import { whenWords } from '../../ui/time';
import { Words } from '../../ui/Words';
import { LeadForm } from './LeadForm';
import type { Act } from './useHandset';

/**
 * The ways in that are no message: posts to comment on, ads to click, links, the menu. `onDone` when the
 * conversation is begun.
 */
export function Wall({
  line,
  who,
  page,
  act,
  onDone,
}: {
  line: LineRow;
  who: string;
  page: PhonePage;
  act: Act;
  onDone: () => void;
}) {
  const channel = CHANNELS[line.channel];
  const done = async (doing: Promise<boolean>) => {
    if (await doing) onDone();
  };
  return (
    <View style={{ gap: 16 }}>
      {page.posts.map((post) => (
        <Post key={post.id} post={post} who={who} act={act} />
      ))}
      {page.ads.map((ad) => (
        <Sheet key={ad.id} style={{ padding: 12, gap: 4 }}>
          <Words kind="code">{`ad ${ad.id}`}</Words>
          <Words>{ad.text}</Words>
          <View style={{ flexDirection: 'row' }}>
            <QuietButton
              outlined
              title="Click the ad"
              label={`Click the ad: ${ad.text}`}
              onPress={() => void done(act({ do: 'click ad', adId: ad.id }))}
            />
          </View>
        </Sheet>
      ))}
      {line.channel === 'messenger' && page.ads[0] && <LeadForm adId={page.ads[0].id} act={act} />}
      <OneField
        label={channel.refs ? 'Reference of a link' : 'Words of a link'}
        placeholder={channel.refs ? 'such as summer-24' : 'such as SAILINGS'}
        hint={
          channel.refs
            ? `A link or QR code to the line brings its reference along, as ${channel.name} hands it over.`
            : `A link on ${channel.name} opens with words ready to send; they stand for the reference.`
        }
        action="Open the link"
        onDo={(ref) => done(act({ do: 'open link', ref }))}
      />
      {page.menu.length > 0 && (
        <Sheet style={{ padding: 12, gap: 8 }}>
          <Words kind="code">
            {line.channel === 'telegram' ? 'commands' : 'menu and opening suggestions'}
          </Words>
          <View style={{ flexDirection: 'row', flexWrap: 'wrap', gap: 8 }}>
            {page.menu.map(({ item, label }) => (
              <QuietButton
                key={item}
                outlined
                title={label}
                onPress={() => void done(act({ do: 'menu', item }))}
              />
            ))}
          </View>
        </Sheet>
      )}
    </View>
  );
}

function OneField({
  label,
  placeholder,
  hint,
  action,
  onDo,
}: {
  label: string;
  placeholder: string;
  hint?: string;
  action: string;
  onDo: (words: string) => Promise<void>;
}) {
  const [words, setWords] = useState('');
  const go = () => {
    if (words.trim() === '') return;
    setWords('');
    void onDo(words.trim());
  };
  return (
    <View style={{ gap: 4 }}>
      <View style={{ flexDirection: 'row', gap: 8, alignItems: 'flex-end' }}>
        <View style={{ flex: 1 }}>
          <Field
            label={label}
            placeholder={placeholder}
            value={words}
            onChangeText={setWords}
            onSubmitEditing={go}
            submitBehavior="submit"
            autoCapitalize="none"
          />
        </View>
        <QuietButton outlined title={action} onPress={go} />
      </View>
      {hint && <Words kind="small">{hint}</Words>}
    </View>
  );
}

function Post({ post, who, act }: { post: PhonePost; who: string; act: Act }) {
  const { colors } = useTheme();
  const [under, setUnder] = useState<PhonePost['comments'][number] | null>(null);
  const [editing, setEditing] = useState<PhonePost['comments'][number] | null>(null);
  return (
    <Sheet style={{ padding: 12, gap: 8 }}>
      <Words kind="code">{`post ${post.id}, ${whenWords(post.at)}`}</Words>
      <Words>{post.text}</Words>
      {post.comments.map((comment) => (
        <View
          key={comment.id}
          style={{ borderLeftWidth: 2, borderColor: colors.line, paddingLeft: 10, gap: 2 }}
        >
          <Words kind="small" color="ink">
            <Words kind="smallStrong">{comment.name || comment.who}</Words>
            {`  ${comment.text}`}
          </Words>
          {comment.replies.map((reply, index) => (
            <Words key={index} kind="small" color="teal">{`↳ ${reply}`}</Words>
          ))}
          <View style={{ flexDirection: 'row', gap: 8 }}>
            <QuietButton
              title="Reply"
              label={`Reply to the comment ${comment.text}`}
              onPress={() => setUnder(comment)}
            />
            {comment.who === who && (
              <>
                <QuietButton
                  title="Edit"
                  label={`Edit the comment ${comment.text}`}
                  onPress={() => setEditing(comment)}
                />
                <QuietButton
                  title="Delete"
                  label={`Delete the comment ${comment.text}`}
                  tone="red"
                  onPress={() => void act({ do: 'remove comment', commentId: comment.id })}
                />
              </>
            )}
          </View>
        </View>
      ))}
      <OneField
        key={editing?.id ?? under?.id ?? 'new'}
        label={editing ? 'Instead of it' : under ? `Under “${under.text.slice(0, 30)}”` : 'Comment'}
        placeholder="Write a comment"
        action={editing ? 'Change' : 'Comment'}
        onDo={async (text) => {
          const taken = editing
            ? await act({ do: 'edit comment', commentId: editing.id, text })
            : await act({ do: 'comment', postId: post.id, text, under: under?.id ?? null });
          if (taken) {
            setUnder(null);
            setEditing(null);
          }
        }}
      />
    </Sheet>
  );
}
