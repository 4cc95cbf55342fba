import type { WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, Person } from './browser.ts';

/** Somebody asks for access, and whoever answers for it answers: both at their own browser. */
let driver: WebDriver;
let other: WebDriver;
let analyst: Person;
let owner: Person;
let table: string;

interface Request {
  id: string;
  number: number;
  state: string;
  version: number;
  granted: object | null;
}

beforeAll(async () => {
  [driver, other] = await Promise.all([openBrowser(), openBrowser()]);
  analyst = new Person(driver);
  owner = new Person(other);
  await analyst.signInAs('Maud Ilkley');
  await owner.signInAs('Jorun Pell');
  const { items } = await analyst.call<{ items: { id: string }[] }>(
    `/assets?limit=5&filter=${encodeURIComponent('kind:table path:budget.budget_round')}`,
  );
  table = items[0]?.id ?? '';
});
afterAll(() => Promise.all([driver?.quit(), other?.quit()]));

const own = async () => (await analyst.call<{ items: Request[] }>(`/access/requests?asset=${table}`)).items;
const readable = async () => (await analyst.call<{ columns: string[] }>(`/assets/${table}/rows?limit=1`)).columns;
const label = async (person: Person, words: string) => (await person.xpath(`//label[contains(., "${words}")]`)).click();

describe('a request', () => {
  it('goes from the page of a table to whoever owns it, is granted in part, and ends', async () => {
    expect(await readable()).toEqual([]);
    await analyst.goTo(`/assets/${table}`);
    await analyst.press('Ask for access');
    await analyst.read('Jorun Pell answers');
    await analyst.fill('What for', 'Budget of the cafés');
    await analyst.fill('What else should be known', 'For the talks in spring.');
    expect(await analyst.axe()).toEqual([]);
    await analyst.press('Ask');
    await analyst.read('Asked. Jorun Pell answers.');
    await analyst.read('waits for Jorun Pell');

    await owner.goTo('/worklist?kind=request');
    await owner.read('Maud Ilkley asks for access: Budget of the cafés');
    await (await owner.xpath("//button[contains(., 'Budget of the cafés')]")).click();
    await owner.read('For the talks in spring.');
    await owner.read('Maud Ilkley would read 21 columns of 1 table more than now');
    await owner.choose('Columns', 'approved_by');
    await owner.choose('Which of its columns', 'all but');
    await owner.read('Maud Ilkley would read 20 columns of 1 table more than now');
    await label(owner, 'Mask some of it');
    await owner.choose('Masked columns', 'code');
    await owner.choose('How', 'fixed: replaced by one text');
    expect(await owner.axe()).toEqual([]);
    await owner.press('Grant g');
    await owner.read('of Maud Ilkley is granted.');

    await analyst.goTo('/worklist?kind=request');
    await analyst.read('your request is granted, masked');
    await analyst.press('Noted n');
    await analyst.read('Noted.');
    await analyst.goTo(`/assets/${table}`);
    await analyst.press('Read some rows');
    await analyst.read('withheld');
    await analyst.read('not for you: approved_by');

    // It ends by itself when its day is over: here, in a moment.
    const [request] = await own();
    if (!request) throw new Error('nothing was asked');
    await owner.send<Request>(
      'POST',
      `/access/requests/${request.id}/answer`,
      {
        decision: 'granted',
        text: '',
        grant: { ...request.granted, until: new Date(Date.now() + 2500).toISOString() },
      },
      request.version,
    );
    await expect.poll(readable).toEqual([]);
    await analyst.press('Read them again');
    await analyst.read('You may read nothing of it');
    await analyst.goTo(`/access?show=requests&request=${request.id}`);
    await analyst.read('Ended by Jorun Pell');
  });

  it('is refused with a reason, answered anew, and taken back by a key', async () => {
    await analyst.goTo('/access?show=requests');
    await analyst.press('Ask again');
    await analyst.press('Ask');
    await analyst.read('Asked. Jorun Pell answers.');
    await owner.goTo(`/access?show=requests&which=waiting&request=${(await own())[0]?.id}`);
    await owner.read('How it was answered before');
    await owner.key('r');
    await owner.read('A refusal says why.');
    await owner.fill('What you say to it', 'The round is not closed yet.');
    expect(await owner.axe()).toEqual([]);
    await owner.press('Refuse r');
    await owner.read('of Maud Ilkley is refused.');
    await analyst.goTo('/access?show=requests');
    await analyst.read('The round is not closed yet.');
    expect(await analyst.axe()).toEqual([]);
    // Whoever answered takes it back, and the request waits again.
    await owner.press('Undo');
    await expect.poll(async () => (await own())[0]?.state).toBe('waiting');
    await analyst.goTo('/access?show=requests');
    await analyst.press('Take it back');
    await analyst.read('Your request is taken back.');
    expect((await own())[0]?.state).toBe('taken back');
  });

  it('is answered by somebody else while the owner is away', async () => {
    await owner.goTo('/settings');
    await owner.choose('Who answers', 'Rafe Quillon');
    await (await owner.field('Until the end of')).sendKeys('12312099');
    expect(await owner.axe()).toEqual([]);
    await owner.press('Save it');
    await owner.read('Rafe Quillon answers requests for you while you are away.');
    await analyst.goTo(`/access?show=requests&ask=${table}`);
    await analyst.fill('What for', 'Budget of the cafés');
    await analyst.press('Ask');
    await analyst.read('Asked. Rafe Quillon answers for Jorun Pell, who is away.');
    await owner.driver.manage().deleteAllCookies();
    await owner.signInAs('Rafe Quillon');
    await owner.goTo('/worklist?kind=request');
    await owner.read('Maud Ilkley asks to read');
    await owner.key('g');
    await owner.read('of Maud Ilkley is granted.');
    expect((await readable()).length).toBeGreaterThan(10);
    await analyst.goTo('/access?show=requests');
    await analyst.read('Granted by Rafe Quillon, for Jorun Pell');
    await analyst.press('I need it no more');
    await analyst.read('What was granted to Maud Ilkley has ended.');
    expect(await readable()).toEqual([]);
    await owner.driver.manage().deleteAllCookies();
    await owner.signInAs('Jorun Pell');
    await owner.goTo('/settings');
    await owner.press('I am back');
    await owner.read('You answer requests yourself.');
  });
});

describe('a review of rights', () => {
  it('asks about a right, which ends by a key and comes back, and is over', async () => {
    const [asked] = await analyst.send<Request[]>('POST', '/access/requests', {
      assetIds: [table],
      purpose: 'Budget of the cafés',
    });
    await owner.send(
      'POST',
      `/access/requests/${asked?.id}/answer`,
      { decision: 'granted', grant: { assetIds: [table] } },
      1,
    );
    expect((await readable()).length).toBeGreaterThan(10);
    await owner.goTo('/access?show=reviews');
    await owner.press('Start a review');
    await owner.fill('Name', 'Who reads the budgets');
    await owner.fill('Rights on', 'path:budget.budget_round');
    await owner.read('It asks about 1 right by 1 policy: Jorun Pell 1.');
    expect(await owner.axe()).toEqual([]);
    await owner.press('Start it');
    await owner.read('“Who reads the budgets” asks about 1 right.');
    await owner.read('For you (1)');
    await owner.press('What would end with it');
    await owner.read('1 person would read 21 columns of 1 table no more');
    expect(await owner.axe()).toEqual([]);
    await owner.press('Leave it');
    await owner.key('e');
    await owner.read('has ended.');
    expect(await readable()).toEqual([]);
    await owner.press('Undo');
    await expect.poll(async () => (await readable()).length).toBeGreaterThan(10);
    await owner.read('For you (1)');
    await owner.key('y');
    await owner.read('is kept.');
    await owner.read('No right waits for you here.');
    await owner.press('What would end with it');
    await owner.read('Everything is decided');
    await owner.press('End it now');
    await owner.read('“Who reads the budgets” is over.');
    expect((await readable()).length).toBeGreaterThan(10);

    // Nothing stays behind.
    const [request] = await own();
    await analyst.send('POST', `/access/requests/${request?.id}/answer`, { decision: 'ended' }, request?.version);
    expect(await readable()).toEqual([]);
  });
});
