import type { GraphKind } from './limits';
import type { Mood, RateLimit } from '../mood';
import type { PhoneAd, PhoneMessage } from '../phone';

/** What the stand-in remembers of an account on one of the three Graph-style platforms. */

export type Json = Record<string, unknown>;

export interface GraphMessage extends PhoneMessage {
  read: boolean;
}
export interface Thread {
  name: string;
  messages: GraphMessage[];
  /** When they last wrote or tapped (ms). */
  heard: number | null;
  byAd: boolean;
  blocked: boolean;
  delivery: Promise<unknown>;
}
export interface Comment {
  id: string;
  postId: string;
  who: string;
  name: string;
  text: string;
  at: number;
  under: string | null;
  removed: boolean;
  answered: boolean;
  replies: string[];
}
export interface GraphTemplate {
  name: string;
  language: string;
  status: string;
  category: string;
  components: { type: string; format?: string; text?: string; buttons?: { type: string; text: string }[] }[];
}
export type ProfileList = {
  locale: string;
  call_to_actions: { title?: string; question?: string; payload: string }[];
}[];
export interface Account {
  kind: GraphKind;
  id: string;
  name: string;
  mood: Mood;
  /** How often the account was asked about itself. */
  asked: number;
  /** WhatsApp alone has a webhook for each business account. */
  webhook: string | null;
  threads: Map<string, Thread>;
  posts: { id: string; text: string; at: number }[];
  comments: Comment[];
  ads: PhoneAd[];
  /** The profile, as it was put there. */
  profile: {
    persistent_menu: ProfileList;
    ice_breakers: ProfileList;
    greeting?: { locale: string; text: string }[];
  };
  templates: GraphTemplate[];
  /** The events that its page hands over; null for all that were ever asked for. */
  fields: string[] | null;
  /** How good a number is, and how many it may write to first. */
  quality: 'GREEN' | 'YELLOW' | 'RED';
  tier: string;
  leads: { id: string; field_data: { name: string; values: string[] }[]; unreadable?: boolean }[];
  pace: RateLimit;
  privatePace: RateLimit;
}
