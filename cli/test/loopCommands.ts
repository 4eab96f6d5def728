import { carryOut } from '../carryOut';
import { check } from '../commands/check';
import { play } from '../commands/play';

/** The two commands on loop files by themselves: bundled, so that each of many runs begins at once. */
const [name, ...args] = process.argv.slice(2);
process.exit(await carryOut(name === 'play' ? play : check, args));
