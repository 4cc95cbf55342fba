import type { WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ADDRESS, openBrowser, PATIENCE, Person } from './browser.ts';

let drivers: WebDriver[];
let admin: Person;
let analyst: Person;
/** Where the stand-ins of the demo are. */
let standIns = '';
let table = { id: '', path: '', description: '' };

beforeAll(async () => {
  drivers = [await openBrowser(), await openBrowser()];
  const people = drivers.map((driver) => new Person(driver));
  [admin, analyst] = people as [Person, Person];
  await admin.signInAs('Jorun Pell');
  await analyst.signInAs('Bettina Sark');
  const session = (await (await fetch(`${ADDRESS}/api/v1/session`)).json()) as { ways: { mailbox: string } };
  standIns = session.ways.mailbox.replace(/\/mail$/, '');
  const { items } = await admin.call<{ items: (typeof table)[] }>(
    '/assets?filter=name:lost_property kind:table&limit=1',
  );
  table = items[0] as typeof table;
});
afterAll(async () => {
  for (const driver of drivers ?? []) await driver.quit();
});

const listener = async (path: string, body: object) => {
  const response = await fetch(`${standIns}/listener${path}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  expect(response.status).toBe(204);
};
interface Heard {
  readonly signed: boolean | null;
  readonly event: {
    readonly type: string;
    readonly subject: string;
    readonly data: { after?: { description?: string } };
  };
}
const heard = async () => (await (await fetch(`${standIns}/listener/messages`)).json()) as Heard[];
/** Changes what the table means, as its administrator. */
const describeIt = async (description: string) => {
  const { version } = await admin.call<{ version: number }>(`/assets/${table.id}`);
  await admin.send('PATCH', `/assets/${table.id}`, { description }, version);
};
const heardOf = async (description: string) =>
  (await heard()).find(({ event }) => event.data.after?.description === description);
const arrives = (description: string) =>
  expect.poll(async () => (await heardOf(description)) !== undefined, { timeout: PATIENCE }).toBe(true);

describe('a webhook', () => {
  it('is made, tried, told what changes, signed, and again once it takes messages', async () => {
    await admin.goTo('/settings/webhooks');
    await admin.press('New webhook');
    await admin.fill('What it is for', 'Security’s log of events');
    await admin.fill('Address', `${standIns}/listener`);
    expect(await admin.axe()).toEqual([]);
    await admin.press('Make the webhook');
    await admin.read('The secret is not shown again.');
    const secret = (await (await admin.see('.notice pre.code')).getText()).trim();
    await admin.press('I have it');
    await listener('/secret', { secret });
    await admin.press('Try: Security’s log of events');
    await admin.read('took the message (204');
    await describeIt('Things left on board, kept for sixty days.');
    await arrives('Things left on board, kept for sixty days.');
    expect(await heardOf('Things left on board, kept for sixty days.')).toMatchObject({
      signed: true,
      event: { type: 'idrel.table.edited', subject: `table/${table.id}` },
    });
    await listener('/refuse', { refuse: true });
    await describeIt('Things left on board, kept for ninety days.');
    await admin.press('Not taken: Security’s log of events');
    await admin.read('It answers with an error (503).');
    expect(await admin.axe()).toEqual([]);
    await listener('/refuse', { refuse: false });
    await (await admin.see('[aria-label^="Send again: "]')).click();
    await arrives('Things left on board, kept for ninety days.');
    await admin.unread('It answers with an error (503).');
  });

  it('is called by a routine, about all that it finds', async () => {
    await admin.goTo(`/catalog?filter=${encodeURIComponent('kind:table name:lost_property')}`);
    await admin.press('As a routine');
    await admin.fill('Name', 'Tell the clean-up');
    await admin.choose('Step 1', 'calls a webhook');
    await admin.choose('Webhook', 'Security’s log of events');
    await admin.fill('Word', 'expired');
    expect(await admin.axe()).toEqual([]);
    await admin.read('Call “Security’s log of events”: expired');
    await admin.press('Save routine');
    await admin.press('Run now: 0 changes');
    await admin.read('1 message to webhooks');
    const called = async () => (await heard()).find(({ event }) => event.type === 'idrel.routine.called');
    await expect.poll(async () => (await called()) !== undefined, { timeout: PATIENCE }).toBe(true);
    expect(await called()).toMatchObject({
      signed: true,
      event: { data: { word: 'expired', assets: [{ id: table.id, path: 'booking.lost_property' }] } },
    });
    await admin.press('Remove');
    await admin.read('is removed; what it changed stays.');
  });

  it('is sent nothing while it is off, goes on when it is on, and by nothing that is not signed', async () => {
    await admin.goTo('/settings/webhooks');
    await admin.press('Turn off: Security’s log of events');
    await admin.read('What changes meanwhile waits for it.');
    await describeIt('Things left on board, kept for a year.');
    await admin.press('New secret: Security’s log of events');
    await admin.read('The secret is not shown again.');
    const renewed = (await (await admin.see('.notice pre.code')).getText()).trim();
    await admin.press('I have it');
    await listener('/secret', { secret: renewed });
    expect(await heardOf('Things left on board, kept for a year.')).toBeUndefined();
    await admin.press('Turn on: Security’s log of events');
    await arrives('Things left on board, kept for a year.');
    await listener('/secret', { secret: 'whsec_AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA=' });
    await admin.press('Try: Security’s log of events');
    await admin.read('did not take it');
    await listener('/secret', {});
    const before = (await heard()).length;
    await admin.press('Begin at: Security’s log of events');
    const place = Number(await (await admin.field('Begin behind place')).getAttribute('value'));
    await admin.fill('Begin behind place', String(place - 2));
    await admin.press('Begin there');
    await admin.read(`begins behind place ${place - 2}`);
    await expect.poll(async () => (await heard()).length, { timeout: PATIENCE }).toBeGreaterThan(before);
    await admin.press('Remove: Security’s log of events');
    await admin.read('No webhooks yet');
  });
});

describe('news', () => {
  it('tells what others changed of what somebody subscribed to, here and by mail, until they end it', async () => {
    await analyst.goTo(`/assets/${table.id}`);
    await analyst.press('Subscribe');
    await (await analyst.xpath('//*[@role="menuitemradio"][contains(., "At once")]')).click();
    await analyst.read('You are told at once what others change.');
    await analyst.press('Told at once');
    await analyst.read('Also by mail');
    await describeIt('Things left on board: what, where, and who came for it.');
    // The way there says how many are unread, wherever one is.
    await analyst.goTo('/settings');
    await expect
      .poll(
        async () => {
          await analyst.driver.navigate().refresh();
          await analyst.driver.sleep(500);
          return analyst.text();
        },
        { timeout: PATIENCE },
      )
      .toMatch(/News\s*1/);
    expect(await analyst.axe()).toEqual([]);
    await analyst.goTo('/news');
    await expect
      .poll(
        async () => {
          await analyst.goTo('/news');
          await analyst.driver.sleep(500);
          return (await analyst.text()).includes('and who came for it');
        },
        { timeout: PATIENCE },
      )
      .toBe(true);
    await analyst.read('Jorun Pell');
    expect(await analyst.axe()).toEqual([]);
    await expect
      .poll(
        async () => {
          const mails = (await (await fetch(`${standIns}/mail/messages?to=bettina.sark@tarnholm.example`)).json()) as {
            text: string;
          }[];
          return mails.some(({ text }) => text.includes('→ Things left on board: what, where, and who came for it.'));
        },
        { timeout: 300_000 },
      )
      .toBe(true);
    // What was read is read.
    await analyst.goTo('/catalog');
    await analyst.xpath('//header//a[@href="/news"][normalize-space()="News"]');
    await analyst.goTo('/news?show=subscriptions');
    await analyst.read('lost_property');
    expect(await analyst.axe()).toEqual([]);
    await (await analyst.see('[aria-label^="End: asset "]')).click();
    await analyst.read('You are told of it no more.');
    await analyst.press('Undo');
    await analyst.read('lost_property');
    await (await analyst.see('[aria-label^="End: asset "]')).click();
    await analyst.read('No subscriptions yet');
  });
});

describe('the chat', () => {
  const say = async (text: string, from = 'bettina.sark@tarnholm.example') => {
    const response = await fetch(`${standIns}/chat/say`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ from, text }),
    });
    expect(response.status).toBe(204);
  };

  it('tells somebody alone what changed, once they say so', async () => {
    await analyst.goTo(`/assets/${table.id}`);
    await analyst.press('Subscribe');
    await (await analyst.xpath('//*[@role="menuitemradio"][contains(., "At once")]')).click();
    await analyst.press('Told at once');
    await (await analyst.xpath('//*[@role="menuitemcheckbox"][contains(., "Also in the chat")]')).click();
    await analyst.read('How you are told is changed.');
    await describeIt('Things left on board, with the ship and the day.');
    await expect
      .poll(
        async () => {
          await analyst.driver.get(`${standIns}/chat?as=bettina.sark@tarnholm.example`);
          return (await analyst.text()).includes('→ Things left on board, with the ship and the day.');
        },
        { timeout: PATIENCE },
      )
      .toBe(true);
    await analyst.driver.get(`${standIns}/chat?as=jorun.pell@tarnholm.example`);
    expect(await analyst.text()).not.toContain('with the ship and the day');
  });

  it('answers searches and unfolds addresses, to whoever wrote as they may see', async () => {
    await say('find lost_property');
    await say(`Is this still kept? ${ADDRESS}/assets/${table.id}`);
    await analyst.driver.get(`${standIns}/chat?as=bettina.sark@tarnholm.example`);
    await analyst.read('booking.lost_property (table in Booking system): Things left on board');
    await analyst.read('table in Booking system, Bookings · unreviewed');
    await say('find kind:table', 'nobody@tarnholm.example');
    await analyst.driver.get(`${standIns}/chat?as=nobody@tarnholm.example`);
    await analyst.read('Nobody here has the address nobody@tarnholm.example.');
  });

  it('tells who may answer of a request, says what granting it would open, and refuses it there', async () => {
    const owner = 'tobias.marrow@tarnholm.example';
    const until = async (what: string) =>
      expect
        .poll(
          async () => {
            await analyst.driver.get(`${standIns}/chat?as=${owner}`);
            return analyst.text();
          },
          { timeout: PATIENCE },
        )
        .toContain(what);
    await analyst.goTo(`/assets/${table.id}`);
    const [asked] = await analyst.send<{ id: string; number: number }[]>('POST', '/access/requests', {
      assetIds: [table.id],
      purpose: 'What is left on board',
    });
    if (!asked) throw new Error('nothing was asked');
    await until(`${asked.number}: Bettina Sark asks to read booking.lost_property for “What is left on board”`);
    await say(`grant ${asked.number}`, owner);
    await until(`To grant it so: grant ${asked.number} `);
    expect(await analyst.text()).toContain('Granting request');
    await say(`refuse ${asked.number} The counter keeps the list.`, owner);
    await until(`Request ${asked.number} is refused, and Bettina Sark is told why.`);
    await analyst.goTo('/access?show=requests');
    await analyst.read('The counter keeps the list.');
  });
});
