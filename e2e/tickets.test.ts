import type { WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { ADDRESS, openBrowser, PATIENCE, Person } from './browser.ts';

let driver: WebDriver;
let analyst: Person;
let table = { id: '' };
/** Where the tracker of the demo is. */
let tracker = '';

beforeAll(async () => {
  driver = await openBrowser();
  analyst = new Person(driver);
  await analyst.signInAs('Bettina Sark');
  const session = (await (await fetch(`${ADDRESS}/api/v1/session`)).json()) as { ways: { mailbox: string } };
  tracker = session.ways.mailbox.replace(/\/mail$/, '/tracker');
  const { items } = await analyst.call<{ items: (typeof table)[] }>(
    '/assets?filter=name:lost_property kind:table&limit=1',
  );
  table = items[0] as typeof table;
});
afterAll(() => driver?.quit());

const ticketsThere = async () =>
  (await (await fetch(`${tracker}/tickets`)).json()) as { key: string; title: string; link: string; by: string }[];

it('a reader who finds something wrong opens a ticket, sees it closed, and the history tells of both', async () => {
  await analyst.goTo(`/assets/${table.id}`);
  await analyst.press('Open a ticket');
  await analyst.fill('What is wrong', 'Umbrellas are counted as dogs');
  await analyst.fill('More of it', 'Since the new form.');
  expect(await analyst.axe()).toEqual([]);
  await analyst.press('Open it');
  await analyst.read('“Umbrellas are counted as dogs” is given to the tracker.');
  // It is there at once, and under its key as soon as the tracker has it.
  await expect
    .poll(async () => (await ticketsThere()).some(({ title }) => title === 'Umbrellas are counted as dogs'), {
      timeout: PATIENCE,
    })
    .toBe(true);
  const there = (await ticketsThere()).find(({ title }) => title === 'Umbrellas are counted as dogs');
  expect(there).toMatchObject({ link: `${ADDRESS}/assets/${table.id}`, by: 'bettina.sark@tarnholm.example' });
  await analyst.read(`${there?.key}: Umbrellas are counted as dogs`);
  // Somebody closes it in the tracker.
  await driver.get(`${tracker}/${there?.key}`);
  await analyst.press('Close it');
  await analyst.read('closed, opened by');
  await analyst.goTo(`/assets/${table.id}`);
  await analyst.read('closed · Bettina Sark');
  await analyst.read('ticket opened');
  await analyst.read('ticket closed');
});

it('what was typed of a ticket is there again when it is left in the middle', async () => {
  await analyst.press('Open a ticket');
  await analyst.fill('What is wrong', 'Half a thought');
  await analyst.goTo('/catalog');
  await analyst.goTo(`/assets/${table.id}`);
  await analyst.press('Open a ticket');
  await analyst.read('Half a thought');
  await analyst.press('Leave it');
});
