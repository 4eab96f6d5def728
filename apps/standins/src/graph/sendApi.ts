import type { Response } from 'express';
import type { Account, Comment, Json, ProfileList, Thread } from './account';
import { fail } from './errors';
import { whyRefused } from './limits';
import {
  APP,
  DAY,
  clicked,
  tapped,
  type CommentDo,
  type GraphPlatform,
  type GraphWorld,
  type InThread,
  type ThreadDo,
} from './platform';
import { attachment, seenMessage } from './seen';
import { CannotBeDone, digits } from '../phone';

/**
 * What Messenger and Instagram have in common: threads with a window, comments and private answers to them,
 * menus, and events under `messaging`.
 */
export abstract class SendApiStandin implements GraphPlatform {
  abstract readonly kind: 'messenger' | 'instagram';
  abstract readonly object: string;
  /** The most items that a standing menu may have. */
  protected abstract readonly menuItems: number;
  /** Whether a standing menu needs a button that begins the conversation. */
  protected abstract readonly needsStart: boolean;
  /** Whether a greeting stands before the first message. */
  protected abstract readonly greets: boolean;

  constructor(protected readonly world: GraphWorld) {}

  protected abstract me(account: Account): object;
  abstract delivered(account: Account, who: string, id: string): void;
  abstract read(account: Account, who: string, id: string): void;
  /** A change of a comment in the platform's own format. */
  protected abstract commentChange(comment: Comment, verb: string): object;
  /** Whether the platform lets another private answer go now. */
  protected abstract mayAnswerPrivately(account: Account, now: number): boolean;

  somebody(): string {
    return digits(16);
  }

  get(account: Account, [first, second]: string[]): object | null {
    if (first !== 'me') return null;
    if (second === 'conversations') return { data: [] };
    if (second === 'subscribed_apps')
      return {
        data:
          account.mood === 'not subscribed'
            ? []
            : [{ id: APP, name: 'Halfmoon', ...(account.fields && { subscribed_fields: account.fields }) }],
      };
    if (second === 'messenger_profile') return { data: [account.profile] };
    return this.me(account);
  }

  post(account: Account, [first, second]: string[], body: Json, response: Response): void {
    if (second === 'subscribed_apps') {
      // Subscribing again mends what had come undone.
      if (account.mood === 'not subscribed') account.mood = 'well';
      const fields = String(body.subscribed_fields ?? '');
      account.fields = fields === '' ? account.fields : fields.split(',');
      return void response.json({ success: true });
    }
    if (second === 'messenger_profile') return this.#putProfile(account, body, response);
    if (second === 'comments' || second === 'replies')
      return this.#publicReply(account, first!, String(body.message ?? ''), response);
    fail(response, 100, `Unsupported post request to ${first}/${second}.`);
  }

  #putProfile(account: Account, body: Json, response: Response): void {
    const lists = (value: unknown) => (Array.isArray(value) ? value : []) as ProfileList;
    const standing = lists(body.persistent_menu);
    const openings = lists(body.ice_breakers);
    const most = this.menuItems;
    for (const { call_to_actions: actions } of standing)
      if (actions.length > most || actions.some(({ title = '' }) => title.trim() === '' || title.length > 30))
        return fail(response, 100, `A menu has at most ${most} items with titles of 1 to 30 characters.`);
    for (const { call_to_actions: actions } of openings)
      if (
        actions.length > 4 ||
        actions.some(({ question = '' }) => question.trim() === '' || question.length > 80)
      )
        return fail(response, 100, 'There are at most 4 ice breakers, with questions of 1 to 80 characters.');
    if (this.needsStart && standing.length > 0 && body.get_started === undefined)
      return fail(response, 100, 'A menu needs a get started button.');
    const greeting = body.greeting as { locale: string; text: string }[] | undefined;
    if (greeting && !this.greets) return fail(response, 100, 'Unsupported field greeting.');
    if (greeting?.some(({ text }) => !text || text.length > 160))
      return fail(response, 100, 'A greeting has 1 to 160 characters.');
    // What is not named stays as it is.
    account.profile = { ...account.profile, persistent_menu: standing, ice_breakers: openings };
    if (greeting) account.profile.greeting = greeting;
    response.json({ result: 'success' });
  }

  remove(account: Account, [, second]: string[], body: Json, response: Response): void {
    if (second !== 'messenger_profile')
      return fail(response, 100, `Unsupported delete request to ${second}.`);
    if (Array.isArray(body.fields) && body.fields.includes('greeting')) delete account.profile.greeting;
    response.json({ result: 'success' });
  }

  #publicReply(account: Account, commentId: string, text: string, response: Response): void {
    const comment = account.comments.find((each) => each.id === commentId && !each.removed);
    if (!comment) return fail(response, 100, 'The comment does not exist.');
    if (text.trim() === '' || text.length > 8_000)
      return fail(response, 100, 'message has 1 to 8,000 characters.');
    comment.replies.push(text);
    response.json({ id: `${commentId}r${comment.replies.length}` });
  }

  send(account: Account, body: Json, response: Response): void {
    const recipient = (body.recipient ?? {}) as { id?: string; comment_id?: string };
    const now = this.world.clock.now();
    const comment =
      recipient.comment_id === undefined
        ? null
        : (account.comments.find((each) => each.id === recipient.comment_id) ?? undefined);
    if (comment === undefined || comment?.removed)
      return fail(response, 100, 'The comment does not exist or was removed.');
    const who = comment?.who ?? recipient.id ?? '';
    const thread = comment ? this.world.thread(account, who, comment.name) : account.threads.get(who);
    if (!thread) return fail(response, 100, 'No matching user found.');
    if (body.sender_action !== undefined) return void response.json({ recipient_id: who });
    if (thread.blocked) return fail(response, 551, 'This person isn’t available right now.');
    const shut = comment ? shutForComment(comment, now) : shutForThread(thread, body, now);
    if (shut) return fail(response, ...shut);
    const refused = whyRefused(this.kind, body);
    if (refused) return fail(response, 100, `Invalid parameter: ${refused}.`);
    if (comment && !this.mayAnswerPrivately(account, now)) {
      this.world.refusedPrivately++;
      return fail(response, 613, 'Calls to this api have exceeded the rate limit.');
    }
    if (this.world.limits && !account.pace.take(Date.now()))
      return fail(response, 613, 'Calls to this api have exceeded the rate limit.');
    if (comment) comment.answered = true;
    const id = `m_${this.kind[0]}${account.id}_${this.world.nextId()}`;
    this.world.took(account, who, thread, id, body, seenMessage((body.message ?? {}) as Json));
    response.json({ recipient_id: who, message_id: id });
  }

  comment(account: Account, who: string, what: CommentDo): Promise<boolean> {
    if (what.do !== 'comment') {
      const comment = account.comments.find((each) => each.id === what.commentId);
      if (!comment) throw new CannotBeDone('there is no such comment');
      if (what.do === 'remove comment') comment.removed = true;
      else comment.text = what.text;
      return this.#tellComment(account, comment, what.do === 'remove comment' ? 'remove' : 'edited');
    }
    const { name, postId, text, under } = what;
    const comment: Comment = {
      id: `${postId}_${this.world.nextId()}`,
      postId,
      who,
      name,
      text,
      at: this.world.clock.now(),
      under,
      removed: false,
      answered: false,
      replies: [],
    };
    account.comments.push(comment);
    return this.#tellComment(account, comment, 'add');
  }

  /** A comment as the account itself makes it, or a person. */
  #tellComment(account: Account, comment: Comment, verb: string): Promise<boolean> {
    return this.world.deliver(account, null, { changes: [this.commentChange(comment, verb)] });
  }

  async act(at: InThread, what: ThreadDo): Promise<boolean> {
    const { account, who, thread, mine, heard } = at;
    switch (what.do) {
      case 'block':
        return true;
      case 'answer as the account': {
        const id = `m_own_${this.world.nextId()}`;
        const now = this.world.clock.now();
        thread.messages.push({
          id,
          from: 'line',
          text: what.text,
          at: new Date(now).toISOString(),
          buttons: [],
          as: 'none',
          read: false,
        });
        return this.world.deliver(account, thread, {
          messaging: [
            {
              sender: { id: account.id },
              recipient: { id: who },
              timestamp: now,
              message: { mid: id, text: what.text, is_echo: true },
            },
          ],
        });
      }
      case 'write':
        mine(what.text);
        heard();
        return this.#message(at, { text: what.text });
      case 'send':
        mine(what.what === 'place' ? '51.5007, -0.1246' : '', what.what === 'place' ? undefined : what.what);
        heard();
        return this.#message(at, { attachments: [attachment(what.what)] });
      case 'tap': {
        const { message, button } = tapped(thread, what);
        mine(button.text);
        heard();
        return message.as === 'quick replies'
          ? this.#message(at, { text: button.text, quick_reply: { payload: what.data } })
          : this.#postback(at, button.text, what.data);
      }
      case 'click ad': {
        const ad = clicked(account, what);
        const known = thread.heard !== null;
        heard(true);
        const referral = { source: 'ADS', type: 'OPEN_THREAD', ad_id: ad.id, ...(ad.ref && { ref: ad.ref }) };
        if (known) return this.tell(account, who, { referral });
        mine(ad.opening);
        return this.#message(at, { text: ad.opening, referral });
      }
      case 'open link':
        heard();
        return this.tell(account, who, {
          referral: { source: 'SHORTLINK', type: 'OPEN_THREAD', ref: what.ref },
        });
      case 'menu':
        heard();
        return this.#postback(at, menuOf(account, what.item), `menu:${what.item}`);
    }
  }

  #message({ account, who }: InThread, message: object): Promise<boolean> {
    return this.tell(account, who, { message: { mid: `m_${this.world.nextId()}`, ...message } });
  }

  #postback({ account, who }: InThread, title: string, payload: string): Promise<boolean> {
    return this.tell(account, who, { postback: { mid: `m_${this.world.nextId()}`, title, payload } });
  }

  protected tell(account: Account, who: string, event: object): Promise<boolean> {
    return this.world.deliver(account, account.threads.get(who) ?? null, {
      messaging: [
        { sender: { id: who }, recipient: { id: account.id }, timestamp: this.world.clock.now(), ...event },
      ],
    });
  }
}

type Refusal = [code: number, message: string, subcode?: number];

function shutForComment(comment: Comment, now: number): Refusal | null {
  if (comment.answered) return [10_900, 'Activity already replied to.'];
  return now > comment.at + 7 * DAY ? [10, 'The comment is too old.', 2_018_278] : null;
}

function shutForThread(thread: Thread, body: Json, now: number): Refusal | null {
  const window = body.messaging_type === 'MESSAGE_TAG' && body.tag === 'HUMAN_AGENT' ? 7 * DAY : DAY;
  if (thread.heard === null || now > thread.heard + window)
    return [10, 'This message is sent outside of allowed window.', 2_018_278];
  return ['RESPONSE', 'UPDATE', 'MESSAGE_TAG'].includes(String(body.messaging_type))
    ? null
    : [100, 'messaging_type is missing.'];
}

/** What an item of a standing menu, or of the questions at the start, is called. */
function menuOf(account: Account, item: string): string {
  return menuSeen(account).find((each) => each.item === item)?.label ?? item;
}

/** The menu as a phone shows it. */
export const menuSeen = (account: Account): { item: string; label: string }[] =>
  [...account.profile.ice_breakers, ...account.profile.persistent_menu]
    .flatMap((list) => list.call_to_actions)
    .map(({ title, question, payload }) => ({
      item: payload.replace(/^menu:/, ''),
      label: title ?? question ?? '',
    }));
