import { z } from 'zod';
import { fold, foldKeyword, foldWithEmoji } from '../../language/fold';
import { cueParts } from './cue';

const Words = z.array(z.string().trim().min(1).max(60)).min(1).max(100);

/** A comment under the client's posts. What is answered publicly is drawn in turn from `publicReplies`. */
export const CommentCue = z
  .object({
    ...cueParts,
    kind: z.literal('comment'),
    /** Any post, posts from the publishing on, or those with these ids. */
    posts: z
      .union([z.enum(['any', 'from now on']), z.array(z.string().min(1).max(100)).min(1).max(100)])
      .default('any'),
    with: Words.optional(),
    without: Words.optional(),
    /** Whether answers to other comments count too. */
    nested: z.boolean().optional(),
    publicReplies: z.array(z.string().trim().min(1).max(1_000)).max(20).optional(),
  })
  .strict();
export type CommentCue = z.infer<typeof CommentCue>;

export function commentWords(cue: CommentCue): string {
  const posts =
    cue.posts === 'any'
      ? 'any post'
      : cue.posts === 'from now on'
        ? 'posts from now on'
        : cue.posts.length === 1
          ? '1 post'
          : `${cue.posts.length} posts`;
  return `comments on ${posts}${cue.with ? ` with ${cue.with.map((word) => `“${word}”`).join(' or ')}` : ''}${cue.without ? ` without ${cue.without.map((word) => `“${word}”`).join(' or ')}` : ''}`;
}

/**
 * Whether a comment is one that the cue hears; null when it is, else why not. `postedAt` and `since` in ms.
 */
export function whyNotComment(
  cue: CommentCue,
  comment: { text: string; postId: string; postedAt: number | null; nested: boolean },
  since: number,
): string | null {
  const said = ` ${fold(comment.text)} `;
  const shown = ` ${foldWithEmoji(comment.text)} `;
  const has = (words: string[]) =>
    words.some((word) => (fold(word) ? said : shown).includes(` ${foldKeyword(word)} `));
  if (Array.isArray(cue.posts) && !cue.posts.includes(comment.postId)) return 'it is under another post';
  if (cue.posts === 'from now on' && comment.postedAt === null)
    return 'it is not known when the post was made';
  if (cue.posts === 'from now on' && comment.postedAt! < since) return 'the post is older than the cue';
  if (comment.nested && !cue.nested) return 'it answers another comment';
  if (cue.with && !has(cue.with)) return 'it has none of the words';
  if (cue.without && has(cue.without)) return 'it has a word that shuts the cue out';
  return null;
}
