import pg from 'pg';
import type { WebDriver } from 'selenium-webdriver';
import { Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, Person } from './browser.ts';

/** Something is shared with another organisation: offered, accepted there, read by its people and programs, and ended. */
let driver: WebDriver;
let other: WebDriver;
let giver: Person;
let ines: Person;
/** A name and an address are those of one person. */
const ODD = `odd.${Date.now()}@marrick.example`;
const NAME = `Odd Sande ${Date.now()}`;

beforeAll(async () => {
  [driver, other] = await Promise.all([openBrowser(), openBrowser()]);
  giver = new Person(driver);
  ines = new Person(other);
  await giver.signInAs('Emrys Strand');
  await ines.signInAs('Ines Carrow');
});
afterAll(() => Promise.all([driver?.quit(), other?.quit()]));

describe('a share', () => {
  it('is offered, accepted, read by people and programs of the partner within its limits, and over at once', async () => {
    await giver.goTo('/access?show=shares&offer=new');
    await giver.choose('With', 'Marrick Harbour Trust');
    await giver.fill('Name', 'The port itself');
    await giver.choose('Assets', 'ref.port (Booking system)', 'ref.port');
    await giver.key(Key.ESCAPE);
    await giver.read('Anybody of Marrick Harbour Trust would read');
    await (await giver.xpath('//label[normalize-space()="Only some of the rows"]')).click();
    await giver.choose('Column that limits the rows', 'name');
    await giver.fill('Values of the rows', 'Marrick');
    await giver.key(Key.ENTER);
    await giver.fill('What it is for, and what was agreed', 'For the chart of the approach.');
    await giver.read('of 1 table more than now');
    expect(await giver.axe()).toEqual([]);
    await giver.press('Offer it');
    await giver.read('“The port itself” is offered to Marrick Harbour Trust.');
    await giver.read('nothing is read before it is accepted');

    await ines.goTo('/');
    await (await ines.xpath('//button[contains(., "The port itself")]')).click();
    await ines.read('For the chart of the approach.');
    await ines.read('1 table that you would read');
    expect(await ines.axe()).toEqual([]);
    await ines.fill('Read it as', 'approach');
    await ines.press('Accept it');
    await ines.read('is read as approach');
    await ines.press('Run it');
    await ines.read('1 row');
    expect(await ines.text()).toContain('Marrick');
    expect(await ines.axe()).toEqual([]);
    // Nothing else of the house is there for them.
    await ines.goTo('/catalog');
    await ines.read('Shared with you');
    const refused = await ines.call<{ code: string }>('/assets').catch((error: unknown) => String(error));
    expect(JSON.stringify(refused)).toMatch(/forbidden|403/);

    const { key } = await ines.send<{ key: string }>('POST', '/client-keys', { name: 'Chart', days: 1 });
    const { port, user } = await ines.call<{ port: number; user: string }>('/client-keys');
    const program = new pg.Client({ host: '127.0.0.1', port, user, password: key, database: 'approach' });
    program.on('error', () => undefined); // told by its end
    await program.connect();
    expect((await program.query('select name from ref.port')).rows).toEqual([{ name: 'Marrick' }]);
    await expect(program.query('select * from booking.passenger')).rejects.toMatchObject({ code: '42P01' });

    await giver.goTo('/access?show=shares');
    await (await giver.xpath('//button[contains(., "The port itself")]')).click();
    await giver.read('read as approach');
    await giver.read('2 queries by 1 person in the last thirty days');
    const ended = new Promise((resolve) => program.once('end', resolve));
    await giver.press('End it');
    await giver.fill('Why', 'The chart is drawn.');
    await giver.press('End it now');
    await giver.read('is not shared with Marrick Harbour Trust any more');
    await ended;
    await ines.goTo('/');
    await (await ines.xpath('//button[contains(., "approach")]')).click();
    await ines.read('nothing of it is read any more');
    const again = new pg.Client({ host: '127.0.0.1', port, user, password: key, database: 'approach' });
    again.on('error', () => undefined);
    await expect(again.connect()).rejects.toMatchObject({ code: '3D000' });
  });

  it('is read by people whom the partner names itself, until it ends them', async () => {
    await ines.goTo('/?show=people');
    await ines.press('Add a person of Marrick Harbour Trust');
    await ines.fill('Name', NAME);
    await ines.fill('E-mail address', ODD);
    await ines.press('Add them');
    await ines.read(`${NAME} comes in from now on.`);
    await giver.goTo('/access?show=shares&which=partners');
    await giver.read(ODD);
    expect(await giver.axe()).toEqual([]);
    await ines.press(`End it for ${NAME}`);
    await ines.read(`${NAME} does not come in any more`);
  });
});
