import type { Connection } from '../platform/db/pool';

/** A post that is commented on. */
export interface CommentedPost {
  client_id: number;
  line_id: number;
  id: string;
}

/**
 * How many comments were answered in public under each post, those of the batch included: the wordings of a
 * cue are said in turn, also when two people comment at once.
 */
export class PublicReplies {
  readonly #given = new Map<string, number>();

  async load(db: Connection, posts: readonly CommentedPost[]): Promise<void> {
    if (posts.length === 0) return;
    const { rows } = await db.query<CommentedPost & { answered: number }>({
      name: 'public-replies',
      text: `
        select p.client_id, p.line_id, p.id, p.answered from post p
        join unnest($1::int[], $2::int[], $3::text[]) as t (client_id, line_id, id)
          using (client_id, line_id, id)`,
      values: [
        posts.map((post) => post.client_id),
        posts.map((post) => post.line_id),
        posts.map((post) => post.id),
      ],
    });
    for (const row of rows) this.#given.set(keyOf(row), row.answered);
  }

  given(post: CommentedPost): number {
    return this.#given.get(keyOf(post)) ?? 0;
  }

  oneMore(post: CommentedPost): void {
    this.#given.set(keyOf(post), this.given(post) + 1);
  }
}

const keyOf = ({ client_id, line_id, id }: CommentedPost) => `${client_id}|${line_id}|${id}`;
