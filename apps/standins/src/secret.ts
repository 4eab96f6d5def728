/**
 * What the stand-ins make the secrets of accounts from. In a demonstration it is known, so that whoever loads
 * the world can make them too; beside a real installation it is one of its own.
 */
export const STANDIN_SECRET = process.env.STANDINS_SECRET ?? 'halfmoon';
