import type { Account, Comment } from './account';
import { nameOf } from './platform';
import { SendApiStandin } from './sendApi';

/** Instagram: professional accounts behind a page; 750 private answers an hour, no report of deliveries. */
export class InstagramStandin extends SendApiStandin {
  readonly kind = 'instagram' as const;
  readonly object = 'instagram';
  protected readonly menuItems = 5;
  protected readonly needsStart = false;
  protected readonly greets = false;

  protected me(account: Account): object {
    return {
      id: `5${account.id}`,
      ...(account.mood !== 'untied' && {
        instagram_business_account: { id: account.id, username: nameOf(account) },
      }),
    };
  }

  protected mayAnswerPrivately(account: Account, now: number): boolean {
    return account.privatePace.take(now);
  }

  delivered(): void {
    // Instagram reports readings alone.
  }

  read(account: Account, who: string, id: string): void {
    void this.tell(account, who, { read: { mid: id } });
  }

  protected commentChange(comment: Comment, verb: string): object {
    return {
      field: 'comments',
      value: {
        id: comment.id,
        text: comment.text,
        from: { id: comment.who, username: comment.name.toLowerCase().replace(/\W+/g, '.') },
        media: { id: comment.postId },
        ...(comment.under && { parent_id: comment.under }),
        ...(verb !== 'add' && { verb }),
      },
    };
  }
}
