import type { LoopSurroundings, PhoneMessage, PhonePage } from '@dart-loop/contract';
import type { ChannelKind } from '@dart-loop/core';
import { CheckWorld } from '@dart-loop/core/check/check';
import { pathsOf } from '@dart-loop/core/check/paths';
import { stranger } from '@dart-loop/core/model/person';
import { pathLines } from '@dart-loop/core/rehearse/pathLines';
import { openSession, performed } from '@dart-loop/core/rehearse/session';
import { oursIn } from '@dart-loop/core/rehearse/takes';
import { WoundClock } from '../src/clock';
import { Stage, until, type LoopPage, type LoopRow } from './support/stage';

let stage: Stage;
let clock: WoundClock;
let ticking: NodeJS.Timeout;
beforeAll(async () => {
  // A Tuesday, ten in the morning: everybody is open, nobody sleeps.
  clock = new WoundClock(Date.UTC(2026, 10, 24, 10));
  stage = await Stage.open({ clock, limits: false });
  ticking = setInterval(() => clock.wind(clock.now() + 200), 20);
});
afterAll(async () => {
  clearInterval(ticking);
  await stage.close();
});

const CLIENTS = ['saltmarsh-ferries', 'northgate-climbing', 'orrery-picture-house', 'bramble-row-nursery', 'kestrel-language-school'];
/** Of each loop so many paths, on each line. */
const PATHS = 3;

/** The test phone of one person on one line of a client, through the real webhooks. */
class Phone {
  #seen = 0;
  constructor(
    private readonly path: string,
    private readonly line: number,
    private readonly who: string,
  ) {}

  async does(line: string): Promise<void> {
    const tapped = /^\[(.+)\]$/.exec(line)?.[1];
    const act = (body: object) => stage.api.post(`${this.path}`, { line: this.line, who: this.who, ...body });
    if (tapped === undefined) return void (await act({ do: 'write', name: 'Mira', text: line }));
    const { messages } = await this.look();
    const message = messages.findLast((each) => each.buttons.some((button) => button.text === tapped))!;
    await act({ do: 'tap', messageId: message.id, data: message.buttons.find((button) => button.text === tapped)!.data! });
  }

  /** The next messages of ours, once there are so many. */
  async hears(count: number): Promise<PhoneMessage[]> {
    const all = await until(
      async () => (await this.look()).messages.filter((message) => message.from === 'line'),
      (messages) => messages.length >= this.#seen + count,
    );
    const next = all.slice(this.#seen);
    this.#seen = all.length;
    return next;
  }

  private look(): Promise<PhonePage> {
    return stage.api.get(`${this.path}?line=${this.line}&who=${encodeURIComponent(this.who)}`);
  }
}

describe('the rehearsal and the server say the same', () => {
  test.each(CLIENTS)(
    'on every loop of %s, on each of its lines',
    async (client) => {
      const rows = await stage.api.get<LoopRow[]>(`/clients/${client}/loops`);
      const lines = (await stage.api.get<{ id: number; key: string; channel: ChannelKind }[]>(`/clients/${client}/lines`)).map(
        ({ id, key, channel }) => ({ id, key, channel }),
      );
      let compared = 0;
      for (const row of rows) {
        const path = `/clients/${client}/loops/${row.id}`;
        const [{ draft }, known] = [await stage.api.get<LoopPage>(path), await stage.api.get<LoopSurroundings>(`${path}/surroundings`)];
        const keyword = draft.cues.find((cue) => cue.kind === 'keyword' && cue.match !== 'pattern');
        if (!keyword) continue;
        const world = new CheckWorld(draft, known);
        // What the person decides, one after the other: no waiting, no team, no chance.
        const theirs = pathsOf(world).paths.filter(({ steps }) =>
          steps.every(({ by }) => ['choice', 'answer', 'itself', 'go', 'could not read', 'condition'].includes(by)),
        );
        for (const line of lines.filter(({ key }) => draft.lines.length === 0 || draft.lines.includes(key)))
          for (const wanted of theirs.slice(0, PATHS)) {
            const { who } = await stage.api.post<{ who: string }>(`/clients/${client}/test-phone/somebody`, { line: line.id });
            const phone = new Phone(`/clients/${client}/test-phone`, line.id, who);
            // Only this line, as the conversation is on it.
            const here = { ...known, lines: known.lines.filter(({ key }) => key === line.key) };
            let session = openSession(draft, here, {
              channel: line.channel,
              person: { ...stranger('p'), firstName: line.channel === 'sms' ? null : 'Mira' },
              now: clock.now(),
            });
            const does = pathLines(draft, wanted, known.types).lines;
            for (const each of does) {
              const next = performed(session, each);
              // A condition may lead off the path; what is said up to there is compared all the same.
              if (next.problem !== null || /^[+~!/@]/.test(each)) break;
              // A label that is too long for the channel is tapped as it is shown.
              const label = /^\[(.+)\]$/.exec(each)?.[1];
              const shown = session.rehearsal.offered.find((choice) => choice.label === label)?.shown ?? label;
              session = next;
              // On SMS a tap is its letter.
              const letter =
                line.channel === 'sms' && /^\[/.test(each)
                  ? (session.turns.at(-1)!.entries.find((entry) => entry.from === 'them') as { text: string }).text
                  : shown
                    ? `[${shown}]`
                    : each;
              await phone.does(letter);
              const ours = oursIn(session.turns.at(-1)!.entries).filter((words) => !words.startsWith('('));
              const heard = await phone.hears(ours.length);
              const taps = heard.map((message) =>
                [
                  message.text,
                  ...(line.channel === 'sms' || message.buttons.every((button) => !button.data)
                    ? []
                    : [
                        message.buttons
                          .filter((button) => button.data)
                          .map((button) => `[${button.text}]`)
                          .join(' '),
                      ]),
                ].join('\n'),
              );
              expect({ loop: row.name, line: line.key, does: each, said: taps }).toEqual({
                loop: row.name,
                line: line.key,
                does: each,
                said: ours,
              });
              compared += ours.length;
            }
          }
      }
      expect(compared).toBeGreaterThan(3);
    },
    240_000,
  );
});
