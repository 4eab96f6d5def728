/** How long and dear a path through a loop may be before the checks warn of it. */
export interface Limits {
  /** Messages of ours on one path. */
  messages: number;
  /** Thousandths of a pound on one path. */
  price: number;
}
export const DEFAULT_LIMITS: Limits = { messages: 25, price: 500 };
