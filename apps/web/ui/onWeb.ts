/** Properties that only the web target has, typed once: React Native's own types do not know them. */

/** What is shown when a pointer rests on it. */
export const hint = (title: string | undefined): object => ({ title });
