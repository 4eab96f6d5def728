import { z } from 'zod';
import type { Outgoing, Tap, Via } from '@dart-loop/core';
import type { OpenLine, Received, Sent } from './adapter';
import { graphRefusal, readAnswer, type GraphCall } from './graph';
import { OWN_METADATA } from './messaging';

/** The Send API that Messenger and Instagram share. */

const SentMessage = z.looseObject({ message_id: z.string() });
const SentComment = z.looseObject({ id: z.string() });

const links = (taps: Tap[]) =>
  taps.flatMap((tap) => ('url' in tap ? [{ type: 'web_url', url: tap.url, title: tap.label }] : []));

function messageOf(outgoing: Outgoing): object {
  const { text, taps, as, media } = outgoing;
  const template = (payload: object) => ({ attachment: { type: 'template', payload } });
  if (as === 'card')
    return template({
      template_type: 'generic',
      elements: [{ title: text, ...(media && { image_url: media.address }), buttons: links(taps) }],
    });
  if (as === 'link button') return template({ template_type: 'button', text, buttons: links(taps) });
  if (media) return { attachment: { type: media.what, payload: { url: media.address } } };
  const quickReplies = taps.flatMap((tap) =>
    'ref' in tap ? [{ content_type: 'text', title: tap.label, payload: tap.ref }] : [],
  );
  return { text, ...(quickReplies.length > 0 && { quick_replies: quickReplies }) };
}

/** Sends a message to a person, in private to whoever has commented, or in public below the comment. */
export async function sendByApi(
  call: GraphCall,
  platform: string,
  commentPath: 'comments' | 'replies',
  outgoing: Outgoing,
  address: string,
  line: OpenLine,
  via: Via | null,
): Promise<Sent> {
  const token = line.secrets.token!;
  if (via?.kind === 'public reply') {
    const answer = await call(`/${via.commentId}/${commentPath}`, token, { message: outgoing.text });
    const sent = readAnswer(answer, SentComment);
    return sent ? { kind: 'sent', providerId: sent.id } : graphRefusal(platform, answer);
  }
  const late = via?.kind === 'by hand, late';
  const answer = await call('/me/messages', token, {
    recipient: via?.kind === 'private reply' ? { comment_id: via.commentId } : { id: address },
    messaging_type: late ? 'MESSAGE_TAG' : 'RESPONSE',
    ...(late && { tag: 'HUMAN_AGENT' }),
    message: { ...messageOf(outgoing), metadata: OWN_METADATA },
  });
  const sent = readAnswer(answer, SentMessage);
  return sent ? { kind: 'sent', providerId: sent.message_id } : graphRefusal(platform, answer);
}

const Profile = z.looseObject({
  first_name: z.string().optional(),
  last_name: z.string().optional(),
  name: z.string().optional(),
  username: z.string().optional(),
});

/** Name and handle of somebody who has written; null when the platform does not say. */
export async function readProfile(
  call: GraphCall,
  address: string,
  line: OpenLine,
): Promise<Received['profile'] | null> {
  const answer = await call(
    `/${encodeURIComponent(address)}?fields=${line.channel === 'instagram' ? 'name,username' : 'first_name,last_name'}`,
    line.secrets.token!,
  );
  const read = readAnswer(answer, Profile);
  if (!read) return null;
  const [first, ...rest] = (read.name ?? '').split(' ');
  return {
    firstName: read.first_name || first || null,
    lastName: read.last_name || rest.join(' ') || null,
    handle: line.channel === 'instagram' && read.username ? `@${read.username}` : null,
  };
}

export const showTyping = async (call: GraphCall, address: string, line: OpenLine): Promise<void> => {
  await call('/me/messages', line.secrets.token!, { recipient: { id: address }, sender_action: 'typing_on' });
};
