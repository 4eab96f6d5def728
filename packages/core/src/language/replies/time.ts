import { parseMoments } from './moments';
import { asRead, unread, type ReplyReader } from './reading';

export const time: ReplyReader = {
  type: 'time',
  words: 'a time of day',
  example: 'half past six',
  /** Reads "17:30", "half past six", "5pm", "5" (the afternoon), "after lunch" (14:00) to HH:MM. */
  read(written, world) {
    const found = /(?<![\d:.])(\d{1,2})[:.](\d{2})(?![\d:.])/.exec(written);
    if (found && (Number(found[1]) > 23 || Number(found[2]) > 59))
      return unread(`“${found[0]}” is no time of day`);
    const moments = parseMoments(written, world).filter((moment) => moment.time !== null);
    const times = [...new Set(moments.map((moment) => moment.time!))];
    if (times.length === 0) return unread('there is no time of day in it');
    if (times.length > 1) return unread('it holds more than one time');
    return asRead({ type: 'time', value: times[0]! }, moments[0]!.sure ? 1 : 0.7);
  },
};
