import type { LoopSurroundings, PhoneMessage, PhonePage } from '@dart-loop/contract';
import type { ChannelKind, Loop } from '@dart-loop/core';
import { CheckWorld } from '@dart-loop/core/loops/check/check';
import { pathsOf } from '@dart-loop/core/loops/check/paths';
import { stranger } from '@dart-loop/core/people/person';
import { pathLines } from '@dart-loop/core/engine/rehearsal/pathLines';
import { openSession, performed } from '@dart-loop/core/engine/rehearsal/session';
import { oursIn } from '@dart-loop/core/loops/takes/takes';
import { DEMO_LOOPS } from '../../../packages/core/test/demoLoops';
import { graphAccess } from '../../standins/src/graph/access';
import { WoundClock } from '../src/platform/clock';
import { BOT, NUMBER, Stage, until, type LoopPage, type LoopRow } from './support/stage';

let stage: Stage;
let clock: WoundClock;
let ticking: NodeJS.Timeout;
beforeAll(async () => {
  // A Tuesday, ten in the morning: everybody is open, nobody sleeps.
  clock = new WoundClock(Date.UTC(2026, 10, 24, 10));
  stage = await Stage.open({ clock, limits: false });
  ticking = setInterval(() => clock.wind(clock.now() + 200), 20);
  // What can be booked at its own client can be booked here.
  const { calendars } = stage.world.clients.find(({ slug }) => slug === 'northgate-climbing')!;
  for (const calendar of calendars) await stage.api.post(`${CLIENT}/calendars`, calendar);
  // One client with a line on each channel, whose own loops rest meanwhile.
  await stage.api.post(`${CLIENT}/lines`, { channel: 'messenger', ...graphAccess('messenger', '100220044') });
  await stage.api.post(`${CLIENT}/lines`, { channel: 'instagram', ...graphAccess('instagram', '178410044') });
  lines = await stage.api.get(`${CLIENT}/lines`);
  for (const { id } of await stage.api.get<LoopRow[]>(`${CLIENT}/loops`))
    await stage.api.post(`${CLIENT}/loops/${id}/state`, { state: 'stopped' });
});
afterAll(async () => {
  clearInterval(ticking);
  await stage.close();
});

const CLIENT = '/clients/saltmarsh-ferries';
/** Of each loop so many paths, on each channel. */
const PATHS = 2;
let lines: { id: number; key: string; channel: ChannelKind }[] = [];

/** How the stand-ins name the client's lines. */
const ACCOUNTS: Record<ChannelKind, string> = {
  messenger: 'messenger:100220044',
  instagram: 'instagram:178410044',
  whatsapp: 'whatsapp:106540011',
  telegram: BOT,
  sms: NUMBER,
};

let numbers = 10;

/** The telephone of one person on one channel, at the stand-ins: it reaches us by the webhooks alone. */
class Phone {
  #seen = 0;
  #who = '';
  constructor(private readonly channel: ChannelKind) {}

  async begin(): Promise<this> {
    // A number that nobody has on WhatsApp: one number is one person on every line.
    this.#who =
      this.channel === 'sms'
        ? `+4477009019${String(++numbers).padStart(2, '0')}`
        : (await this.#ask<{ who: string }>('somebody', {})).who;
    return this;
  }

  async does(line: string): Promise<void> {
    const tapped = /^\[(.+)\]$/.exec(line)?.[1];
    if (tapped === undefined) return void (await this.#ask('act', { do: 'write', name: 'Mira', text: line }));
    const { messages } = await this.#look();
    const message = messages.findLast((each) => each.buttons.some((button) => button.text === tapped))!;
    await this.#ask('act', {
      do: 'tap',
      messageId: message.id,
      data: message.buttons.find((button) => button.text === tapped)!.data!,
    });
  }

  /** The next messages of ours, once there are so many. */
  async hears(count: number): Promise<PhoneMessage[]> {
    const all = await until(
      async () => (await this.#look()).messages.filter((message) => message.from === 'line'),
      (messages) => messages.length >= this.#seen + count,
    );
    const next = all.slice(this.#seen);
    this.#seen = all.length;
    return next;
  }

  #look = () => this.#ask<PhonePage>('look', {});

  async #ask<T>(what: string, body: object): Promise<T> {
    const response = await fetch(`${stage.standinsAddress}/phone/${what}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ channel: this.channel, line: ACCOUNTS[this.channel], who: this.#who, ...body }),
    });
    const answer = (await response.json()) as T;
    if (!response.ok) throw new Error(JSON.stringify(answer));
    return answer;
  }
}

describe('the rehearsal and the server say the same', () => {
  test.each(DEMO_LOOPS.map(({ name, text }) => [name, text]))(
    '%s, on all five channels: its paths and its takes',
    async (_name, file) => {
      const { id } = await stage.api.post<{ id: string }>(`${CLIENT}/loops/import`, { file });
      const path = `${CLIENT}/loops/${id}`;
      const imported = await stage.api.get<LoopPage>(path);
      // On every line; its takes are played here as conversations, whatever they said elsewhere.
      const { takes = [], ...bare } = imported.draft;
      const draft: Loop = {
        ...bare,
        lines: [],
        cues: bare.cues.map(({ lines: _own, ...cue }) => cue as Loop['cues'][number]),
      };
      const saved = await stage.api.put<LoopPage>(`${path}/draft`, {
        revision: imported.revision,
        loop: draft,
      });
      await stage.api.post(`${path}/publish`, { revision: saved.revision });
      const known = await stage.api.get<LoopSurroundings>(`${path}/surroundings`);
      // What the person decides, one after the other: no waiting, no team, no chance.
      const theirs = pathsOf(new CheckWorld(draft, known)).paths.filter(({ steps }) =>
        steps.every(({ by }) =>
          ['choice', 'answer', 'itself', 'go', 'could not read', 'condition', 'booked'].includes(by),
        ),
      );
      const written = draft.cues.some((cue) => cue.kind === 'keyword' && cue.match !== 'pattern');
      const conversations = [
        ...(written
          ? theirs.slice(0, PATHS).map((wanted) => pathLines(draft, wanted, known.types).lines)
          : []),
        ...takes.map((take) => take.turns.map(({ does }) => does)),
      ];
      let compared = 0;
      for (const line of lines)
        for (const does of conversations) {
          // As it is now: the conversations before this one may have booked.
          const now = await stage.api.get<LoopSurroundings>(`${path}/surroundings`);
          compared += await playBoth(draft, now, line, does);
        }
      expect(lines).toHaveLength(5);
      if (conversations.length > 0) expect(compared).toBeGreaterThan(4);
      await stage.api.post(`${path}/state`, { state: 'stopped' });
    },
    240_000,
  );
});

/**
 * One conversation rehearsed and played by the server, turn by turn; gives how many messages of ours were the
 * same.
 */
async function playBoth(
  draft: Loop,
  known: LoopSurroundings,
  line: (typeof lines)[number],
  conversation: string[],
): Promise<number> {
  const phone = await new Phone(line.channel).begin();
  // Only this line, as the conversation is on it.
  const here = { ...known, lines: known.lines.filter(({ key }) => key === line.key) };
  const person = { ...stranger('p'), firstName: line.channel === 'sms' ? null : 'Mira' };
  let session = openSession(draft, here, { channel: line.channel, person, now: clock.now() });
  let compared = 0;
  for (const does of conversation) {
    const next = performed(session, does);
    // A condition may lead off the path, and the clock is not wound here; what is said up to there is
    // compared all the same.
    if (next.problem !== null || /^[+~!/@]/.test(does)) break;
    // A label that is too long for the channel is tapped as it is shown; on SMS a tap is its letter.
    const label = /^\[(.+)\]$/.exec(does)?.[1];
    const shown = session.rehearsal.offered.find((choice) => choice.label === label)?.shown ?? label;
    session = next;
    const { entries } = session.turns.at(-1)!;
    const them = entries.find((entry) => entry.from === 'them');
    await phone.does(
      label === undefined ? does : line.channel === 'sms' ? (them as { text: string }).text : `[${shown}]`,
    );
    const ours = oursIn(entries).filter((words) => !words.startsWith('('));
    const said = (await phone.hears(ours.length)).map(({ text, buttons }) => {
      const labels =
        line.channel === 'sms'
          ? []
          : buttons.filter((button) => button.data).map((button) => `[${button.text}]`);
      return [text, ...(labels.length > 0 ? [labels.join(' ')] : [])].join('\n');
    });
    expect({ line: line.key, does, said }).toEqual({ line: line.key, does, said: ours });
    compared += ours.length;
  }
  return compared;
}
