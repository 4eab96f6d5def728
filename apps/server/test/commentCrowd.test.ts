import { WoundClock } from '../src/platform/clock';
import { times } from '../../../packages/core/test/thorough';
import { Stage, until } from './support/stage';

const HOUR = 3_600_000;
const PEOPLE = times(2_000, 10_000);
const ACCOUNT = '178410011';
const POST = '178410011001';
const WRITERS = 16;

test('thousands of comments in a minute are answered once each, at the pace that is allowed, and nobody is written to twice', async () => {
  const clock = new WoundClock(Date.now());
  const stage = await Stage.open({ clock, limits: false });
  try {
    const { graph } = stage.standins;
    graph.reports = false;
    const account = graph.account('instagram', ACCOUNT)!;
    const wind = (ms: number) => {
      clock.wind(clock.now() + ms);
      stage.standins.clock.wind(clock.now());
    };
    wind(0);
    const people = Array.from({ length: PEOPLE }, (_, at) => String(17_900_000_000_000 + at));
    const url = graph.subscriptions.get('instagram')!;
    for (let from = 0; from < PEOPLE; from += 100) {
      const some = people.slice(from, from + 100);
      for (const who of some)
        account.comments.push({
          id: `c${who}`,
          postId: POST,
          who,
          name: 'Walker',
          text: 'COMET',
          at: clock.now(),
          under: null,
          removed: false,
          answered: false,
          replies: [],
        });
      const changes = some.map((who) => ({
        field: 'comments',
        value: {
          id: `c${who}`,
          text: 'COMET',
          from: { id: who, username: `walker.${who}` },
          media: { id: POST },
        },
      }));
      const { headers, body } = graph.signed('instagram', [{ id: ACCOUNT, time: clock.now(), changes }]);
      expect((await fetch(url, { method: 'POST', headers, body })).status).toBe(200);
      wind(600);
    }
    const got = () => people.reduce((sum, who) => sum + (account.threads.get(who)?.messages.length ?? 0), 0);
    // However slow the machine: what is paced by the second goes on only as the clock does.
    await until(
      () => {
        wind(100);
        return got();
      },
      (count) => count === 750,
      120_000,
    );
    // Those whose private answer has to wait hold nobody up who writes of their own: their answers are under
    // way beside each other.
    let underWay = 0;
    let most = 0;
    stage['standinsServer'].on('request', ({ url: path }, response) => {
      if (!/\/messages(\?|$)/.test(path ?? '')) return;
      most = Math.max(most, ++underWay);
      response.on('close', () => underWay--);
    });
    account.mood = 'slow';
    await Promise.all(
      Array.from({ length: WRITERS }, (_, each) =>
        graph.act(`instagram:${ACCOUNT}`, String(17_800_000_001_000 + each), {
          do: 'write',
          name: 'Mira',
          text: 'PROGRAMME',
        }),
      ),
    );
    await until(
      () => {
        wind(100);
        return most;
      },
      (count) => count >= WRITERS / 2,
      120_000,
    );
    account.mood = 'well';
    // The first hour's share is gone; each further hour brings another, and the public answers do not wait
    // for it.
    for (let hour = 1; got() < PEOPLE; hour++) {
      const due = Math.min(PEOPLE, 750 * (hour + 1));
      for (let minute = 0; minute < 61; minute += 1) wind(60_000);
      await until(
        () => {
          wind(100);
          return got();
        },
        (count) => count >= due,
        120_000,
      );
      expect(hour).toBeLessThan(20);
    }
    await until(
      () => {
        wind(1_000);
        return account.comments.reduce((sum, comment) => sum + comment.replies.length, 0);
      },
      (count) => count === PEOPLE,
      120_000,
    );
    // The loop nudges after twenty hours: nobody has answered, so nobody hears of it.
    for (let hours = 0; hours < 48; hours += 4) {
      wind(4 * HOUR);
      await stage.server.path.settled();
    }
    expect(graph.refusedPrivately).toBe(0);
    expect(people.filter((who) => account.threads.get(who)?.messages.length !== 1)).toEqual([]);
  } finally {
    await stage.close();
  }
}, 600_000);
