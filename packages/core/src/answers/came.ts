/**
 * How a question of a sheet came out: said as it should be, offered with the right one among others, left
 * open, or said wrongly.
 */
export type Came = 'right' | 'offered' | 'open' | 'wrong';

/** The more the better. */
export const CAME_RANK: Readonly<Record<Came, number>> = { right: 2, offered: 1, open: 0, wrong: -1 };
