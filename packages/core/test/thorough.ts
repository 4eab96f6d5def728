/** Whether everything is tried as often as it was while it was written: `./dartloop test --thorough`. */
const thorough = process.env.DARTLOOP_THOROUGH === 'yes';

/**
 * How often something is tried, or with how many: `usually`, and `atMost` where the tests are to be thorough.
 */
export const times = (usually: number, atMost: number): number => (thorough ? atMost : usually);
