import { PRIVATE_REPLY_WITHIN } from '../../consent/permission';
import { hearOther, whyPreferred, type HeardCue } from './cueIndex';
import { whyNotComment } from '../cues';
import type { Turn } from '../run/turn';
import type { FromPerson } from './incoming';
import { begin, cueCandidate, finished, passedOver, won, type Response } from './response';
import { whyNotNow } from './whyNotNow';
import { evenly } from '../steps/vary';

type Comment = Extract<FromPerson, { kind: 'comment' }>;

/** Posts under which a person is remembered to have been answered. */
const MOST_POSTS = 50;

/**
 * A comment under one of the client's posts. It is public, so it answers no question and says nothing about
 * being written to: only comment cues hear it. One person is answered once under each post.
 */
export function fromComment(turn: Turn, comment: Comment): Response {
  const { world, standing } = turn;
  if (comment.verb === 'removed') {
    // What was removed cannot be answered any more.
    if (standing.comment?.id === comment.id && !standing.comment.answered) standing.comment = null;
    turn.note({ code: 'comment removed' });
    return finished(
      turn,
      { candidates: [won('nobody', 'nobody', 'a comment that is removed is not answered')] },
      null,
    );
  }
  const cues = hearOther(world.cues, 'comment', world.line.key);
  const ignored = (reason: string): Response =>
    finished(turn, { candidates: [won('nobody', 'nobody', reason), ...passedOver(cues, reason)] }, null);
  if (standing.optedOut) return ignored('the person has opted out of this line');
  if (standing.posts.includes(comment.postId))
    return ignored('the person was answered under this post already');
  if (world.now >= comment.at + PRIVATE_REPLY_WITHIN)
    return ignored('the comment is more than seven days old');
  if (standing.held) {
    const who = standing.held.by ?? standing.held.team ?? 'whoever is there';
    turn.note({ code: 'recorded', who });
    return finished(
      turn,
      {
        candidates: [
          won('a person has stepped in', who, 'a person has the conversation'),
          ...passedOver(cues, 'a person has the conversation'),
        ],
      },
      'waiting on us',
    );
  }
  const candidates = cues.map((heard) => ({ heard, whyNot: whyNot(turn, heard, comment) }));
  const best = candidates.find((each) => each.whyNot === null)?.heard;
  const lost = candidates
    .filter((each) => each.heard !== best)
    .map((each) =>
      cueCandidate(
        each.heard,
        'other cue',
        'lost',
        each.whyNot ?? (best ? whyPreferred(best, each.heard) : ''),
      ),
    );
  if (!best) {
    const reason =
      cues.length === 0 ? 'no loop listens to comments on this line' : 'no cue hears this comment';
    return finished(turn, { candidates: [won('nobody', 'nobody', reason), ...lost] }, null);
  }
  standing.comment = {
    id: comment.id,
    postId: comment.postId,
    at: comment.at,
    text: comment.text.slice(0, 300),
    answered: false,
  };
  standing.posts = [...standing.posts.slice(1 - MOST_POSTS), comment.postId];
  const wordings = best.cue.kind === 'comment' ? (best.cue.publicReplies ?? []) : [];
  const wording = wordings[inTurn(comment.postId, world.answeredUnder ?? 0, wordings.length)];
  if (wording !== undefined)
    turn.effects.push({
      kind: 'public reply',
      postId: comment.postId,
      commentId: comment.id,
      text: turn.voice.mergeOutside(wording),
      loopId: best.loopId,
      version: best.version,
    });
  return begin(turn, best, 'other cue', lost);
}

/** Each wording once before any comes again; which is said first differs from post to post. */
const inTurn = (postId: string, given: number, wordings: number): number =>
  (Math.floor(evenly(postId) * wordings) + given) % Math.max(1, wordings);

function whyNot(turn: Turn, heard: HeardCue, comment: Comment): string | null {
  const { world } = turn;
  if (heard.cue.kind !== 'comment') return 'it waits for something else';
  const version = world.version(heard.loopId, heard.version);
  if (!version) return 'its version is gone';
  return whyNotComment(heard.cue, comment, version.publishedAt ?? 0) ?? whyNotNow(turn, heard);
}
