import type { Account, Comment, Json } from './account';
import { digits, type PhoneButton, type PhoneMessage, type PhonePost } from '../phone';

/** How what was sent looks on somebody's phone, and how what they send looks to the platform. */

export function postSeen({ id, text, at }: Account['posts'][number], comments: Comment[]): PhonePost {
  return {
    id,
    text,
    at: new Date(at).toISOString(),
    comments: comments
      .filter((comment) => comment.postId === id && !comment.removed)
      .slice(-30)
      .map((comment) => ({
        id: comment.id,
        who: comment.who,
        name: comment.name,
        text: comment.text,
        at: new Date(comment.at).toISOString(),
        replies: comment.replies,
      })),
  };
}

export type Seen = Pick<PhoneMessage, 'text' | 'buttons' | 'as' | 'opens' | 'media'>;

export function seenMessage(message: Json): Seen {
  const quick = ((message.quick_replies ?? []) as { title: string; payload: string }[]).map(
    (reply): PhoneButton => ({
      text: reply.title,
      data: reply.payload,
    }),
  );
  const attachment = message.attachment as { type: string; payload: Json } | undefined;
  if (!attachment)
    return {
      text: String(message.text ?? ''),
      buttons: quick,
      as: quick.length > 0 ? 'quick replies' : 'none',
    };
  if (attachment.type !== 'template')
    return {
      text: '',
      buttons: quick,
      as: quick.length > 0 ? 'quick replies' : 'none',
      media: String(attachment.payload.url),
    };
  const [card] = (attachment.payload.elements ?? [attachment.payload]) as Json[];
  const buttons = ((card?.buttons ?? []) as { title: string; url?: string; payload?: string }[]).map(
    (button): PhoneButton => ({
      text: button.title,
      url: button.url,
      data: button.payload,
    }),
  );
  return {
    text: String(card?.title ?? card?.text ?? ''),
    buttons,
    as: 'buttons',
    ...(card?.image_url !== undefined && { media: String(card.image_url) }),
  };
}

/** How a template reads on the phone, or the code of why it is refused. */
export function templateCalled(account: Account, call: Json): Seen | number {
  const {
    name,
    language,
    components = [],
  } = call as {
    name: string;
    language: { code: string };
    components?: {
      type: string;
      parameters: { type?: string; text?: string; payload?: string; [media: string]: unknown }[];
    }[];
  };
  const template = account.templates.find((each) => each.name === name && each.language === language.code);
  if (template?.status !== 'APPROVED') return 132_001;
  const body = template.components.find((each) => each.type === 'BODY')?.text ?? '';
  const given = components.find((each) => each.type === 'body')?.parameters ?? [];
  if (given.length !== new Set(body.match(/\{\{\d+\}\}/g)).size) return 132_000;
  const header = template.components.find((each) => each.type === 'HEADER')?.format?.toLowerCase();
  const [above] = components.find((each) => each.type === 'header')?.parameters ?? [];
  const link = header && (above?.[header] as { link?: string } | undefined)?.link;
  // Another kind of file than the template was approved with is as wrong as none.
  if (header !== above?.type || (header && !/^https?:\/\//.test(link ?? ''))) return 132_012;
  const buttons = template.components.flatMap((each) => each.buttons ?? []);
  const payloads = components
    .filter((each) => each.type === 'button')
    .map((each) => each.parameters[0]?.payload);
  return {
    text: body.replace(/\{\{(\d+)\}\}/g, (whole, number: string) => given[Number(number) - 1]?.text ?? whole),
    buttons: buttons.map(({ text }, index) => ({ text, data: payloads[index] ?? text })),
    as: buttons.length > 0 ? 'buttons' : 'none',
    ...(link && { media: link }),
  };
}

export function seenWhatsApp(body: Json): Seen {
  const type = String(body.type);
  const part = body[type] as Json;
  if (type === 'text') return { text: String(part.body), buttons: [], as: 'none' };
  if (type !== 'interactive')
    return { text: String(part.caption ?? ''), buttons: [], as: 'none', media: String(part.link) };
  const text = (part.body as { text: string }).text;
  const action = part.action as Json;
  if (part.type === 'cta_url') {
    const { display_text, url } = action.parameters as { display_text: string; url: string };
    return { text, buttons: [{ text: display_text, url }], as: 'buttons' };
  }
  const rows =
    part.type === 'list'
      ? (action.sections as { rows: { id: string; title: string; description?: string }[] }[]).flatMap(
          (section) => section.rows,
        )
      : (action.buttons as { reply: { id: string; title: string; description?: string } }[]).map(
          (button) => button.reply,
        );
  const buttons = rows.map(({ id, title, description }): PhoneButton => ({
    text: title,
    data: id,
    ...(description && { note: description }),
  }));
  return part.type === 'list'
    ? { text, buttons, as: 'list', opens: String(action.button) }
    : { text, buttons, as: 'buttons' };
}

export function attachment(what: 'picture' | 'voice note' | 'place'): object {
  if (what === 'place')
    return { type: 'location', payload: { coordinates: { lat: 51.5007, long: -0.1246 } } };
  return {
    type: what === 'picture' ? 'image' : 'audio',
    payload: { url: `https://pictures.example/${what.replace(' ', '-')}` },
  };
}

export function whatsAppFile(what: 'picture' | 'voice note' | 'place'): object {
  if (what === 'place') return { type: 'location', location: { latitude: 51.5007, longitude: -0.1246 } };
  const type = what === 'picture' ? 'image' : 'audio';
  return { type, [type]: { id: digits(15), mime_type: what === 'picture' ? 'image/jpeg' : 'audio/ogg' } };
}
