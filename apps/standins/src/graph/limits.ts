/**
 * What each of the three platforms refuses in a message; null when it would take it. Written from their
 * published limits.
 */

type Json = Record<string, unknown>;
const isJson = (value: unknown): value is Json =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const list = (value: unknown): Json[] => (Array.isArray(value) ? value.filter(isJson) : []);
const text = (value: unknown): string => (typeof value === 'string' ? value : '');
const isPage = (value: unknown): boolean =>
  /^https?:\/\/\S+$/.test(text(value)) && text(value).length <= 2_000;

export type GraphKind = 'messenger' | 'instagram' | 'whatsapp';

export function whyRefused(kind: GraphKind, body: Json): string | null {
  return kind === 'whatsapp'
    ? whatsappRefuses(body)
    : sendApiRefuses(kind, isJson(body.message) ? body.message : {});
}

function sendApiRefuses(kind: 'messenger' | 'instagram', message: Json): string | null {
  const quick = list(message.quick_replies);
  if (Array.isArray(message.quick_replies) && quick.length === 0) return 'quick_replies may not be empty';
  if (quick.length > 13) return 'at most 13 quick replies are allowed';
  for (const reply of quick) {
    if (reply.content_type !== 'text') return 'content_type of a quick reply must be text';
    if (text(reply.title).trim() === '' || text(reply.title).length > 20)
      return 'title of a quick reply has 1 to 20 characters';
    if (text(reply.payload) === '' || text(reply.payload).length > 1_000)
      return 'payload of a quick reply has 1 to 1,000 characters';
  }
  const { attachment } = message;
  if (!isJson(attachment)) {
    const words = text(message.text);
    if (words.trim() === '') return 'text may not be empty';
    if (kind === 'instagram')
      return Buffer.byteLength(words) > 1_000 ? 'text is longer than 1,000 bytes' : null;
    return words.length > 2_000 ? 'text is longer than 2,000 characters' : null;
  }
  const payload = isJson(attachment.payload) ? attachment.payload : {};
  if (attachment.type !== 'template') {
    const allowed = kind === 'messenger' ? ['image', 'video', 'audio', 'file'] : ['image', 'video', 'audio'];
    if (!allowed.includes(text(attachment.type)))
      return `attachments of the type ${text(attachment.type)} are not supported`;
    return isPage(payload.url) ? null : 'url of the attachment is missing';
  }
  if (kind === 'instagram') return 'templates with buttons are not supported here';
  const buttons =
    payload.template_type === 'generic'
      ? list(payload.elements).flatMap((each) => list(each.buttons))
      : list(payload.buttons);
  for (const button of buttons) {
    if (text(button.title).trim() === '' || text(button.title).length > 20)
      return 'title of a button has 1 to 20 characters';
    if (button.type === 'web_url' ? !isPage(button.url) : text(button.payload) === '')
      return 'a button needs its url or payload';
  }
  if (payload.template_type === 'button') {
    if (text(payload.text).trim() === '' || text(payload.text).length > 640)
      return 'text of a button template has 1 to 640 characters';
    return buttons.length < 1 || buttons.length > 3 ? 'a button template has 1 to 3 buttons' : null;
  }
  if (payload.template_type !== 'generic') return 'template_type is not supported';
  const cards = list(payload.elements);
  if (cards.length < 1 || cards.length > 10) return 'there are 1 to 10 cards';
  for (const card of cards) {
    if (text(card.title).trim() === '' || text(card.title).length > 80 || text(card.subtitle).length > 80)
      return 'title and subtitle of a card have at most 80 characters';
    if (list(card.buttons).length > 3) return 'a card has at most 3 buttons';
  }
  return null;
}

function whatsappRefuses(body: Json): string | null {
  const type = text(body.type);
  const part = isJson(body[type]) ? body[type] : {};
  if (body.messaging_product !== 'whatsapp') return 'messaging_product must be whatsapp';
  if (type === 'text') {
    const words = text(part.body);
    return words.trim() === '' || words.length > 4_096 ? 'body of a text has 1 to 4,096 characters' : null;
  }
  if (['image', 'video', 'document', 'audio'].includes(type)) {
    if (!isPage(part.link)) return 'link of the media is missing';
    if (type === 'audio' && part.caption !== undefined) return 'audio has no caption';
    return text(part.caption).length > 1_024 ? 'caption is longer than 1,024 characters' : null;
  }
  if (type === 'template') return text(part.name) === '' ? 'name of the template is missing' : null;
  if (type !== 'interactive') return `messages of the type ${type} are not supported`;
  const words = isJson(part.body) ? text(part.body.text) : '';
  if (words.trim() === '' || words.length > 1_024)
    return 'body of an interactive message has 1 to 1,024 characters';
  const action = isJson(part.action) ? part.action : {};
  if (part.type === 'button') {
    const replies = list(action.buttons).map((button) => (isJson(button.reply) ? button.reply : {}));
    if (replies.length < 1 || replies.length > 3) return 'there are 1 to 3 reply buttons';
    return titles(replies, 20, 256);
  }
  if (part.type === 'list') {
    if (text(action.button).trim() === '' || text(action.button).length > 20)
      return 'button of a list has 1 to 20 characters';
    const sections = list(action.sections);
    if (sections.some((section) => text(section.title).length > 24))
      return 'title of a section has at most 24 characters';
    const rows = sections.flatMap((section) => list(section.rows));
    if (rows.length < 1 || rows.length > 10) return 'a list has 1 to 10 rows in all';
    if (rows.some((row) => text(row.description).length > 72))
      return 'description of a row has at most 72 characters';
    return titles(rows, 24, 200);
  }
  if (part.type === 'cta_url') {
    const parameters = isJson(action.parameters) ? action.parameters : {};
    if (text(parameters.display_text).trim() === '' || text(parameters.display_text).length > 20)
      return 'display_text has 1 to 20 characters';
    return isPage(parameters.url) ? null : 'url is missing';
  }
  return 'type of the interactive message is not supported';
}

function titles(rows: Json[], most: number, mostId: number): string | null {
  for (const row of rows) {
    if (text(row.title).trim() === '' || text(row.title).length > most)
      return `title has 1 to ${most} characters`;
    if (text(row.id) === '' || text(row.id).length > mostId) return `id has 1 to ${mostId} characters`;
  }
  if (new Set(rows.map((row) => row.title)).size < rows.length) return 'titles must differ';
  return new Set(rows.map((row) => row.id)).size < rows.length ? 'ids must differ' : null;
}
