import type { Account, Comment } from './account';
import { pageOf } from './platform';
import { SendApiStandin } from './sendApi';

/** Messenger: pages, with reports of what was delivered and read up to a moment. */
export class MessengerStandin extends SendApiStandin {
  readonly kind = 'messenger' as const;
  readonly object = 'page';
  protected readonly menuItems = 20;
  protected readonly needsStart = true;
  protected readonly greets = true;

  protected me(account: Account): object {
    return pageOf(account);
  }

  protected mayAnswerPrivately(): boolean {
    return true;
  }

  delivered(account: Account, who: string, id: string): void {
    void this.tell(account, who, { delivery: { mids: [id], watermark: this.world.clock.now() } });
  }

  read(account: Account, who: string): void {
    void this.tell(account, who, { read: { watermark: this.world.clock.now() } });
  }

  protected commentChange(comment: Comment, verb: string): object {
    return {
      field: 'feed',
      value: {
        item: 'comment',
        verb,
        comment_id: comment.id,
        post_id: comment.postId,
        parent_id: comment.under ?? comment.postId,
        from: { id: comment.who, name: comment.name },
        message: comment.text,
        created_time: Math.floor(comment.at / 1_000),
      },
    };
  }
}
