import { join } from 'node:path';
import sqlite from 'node-sqlite3-wasm';
import type { WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, Person } from './browser.ts';

let driver: WebDriver;
let engineer: Person;

beforeAll(async () => {
  driver = await openBrowser();
  engineer = new Person(driver);
  await engineer.signInAs('Rafe Quillon');
});
afterAll(() => driver?.quit());

const step = async (name: string) =>
  (await engineer.xpath(`//*[@role="tab"][contains(normalize-space(), "${name}")]`)).click();
const tick = (label: string) =>
  engineer.retry(async () => (await engineer.xpath(`//label[normalize-space()="${label}"]`)).click());

describe('a scan plan', () => {
  it('is scoped from the live tree, scheduled, left, taken up again, saved and run', async () => {
    await engineer.goTo('/sources');
    await engineer.press('Booking system');
    await engineer.read('Everything, now and later, except public.');
    await engineer.press('New plan');
    await engineer.fill('Name', 'Reference data');
    await engineer.read('Covers 22 of 22 objects');
    await tick('Just what is chosen');
    await engineer.fill('Search in the source', 'ref');
    await engineer.retry(async () => (await engineer.field('ref')).click());
    await engineer.read('These 6 of 22 schemas, tables and views; new ones are not covered.');
    await engineer.fill('Exclude patterns', 'ref.fare*');
    await engineer.press('Next');
    await engineer.read('except ref.fare*; new ones are not covered.');
    expect(await engineer.axe()).toEqual([]);

    await step('When');
    await engineer.choose('Runs', 'Monthly, by day of the week');
    await engineer.choose('Time zone', 'Europe/Oslo');
    await engineer.read('The next times');
    expect(await engineer.text()).toMatch(/(Tue, \d+ \w+ \d{4}, 03:00[\s\S]*){5}/);
    expect(await engineer.axe()).toEqual([]);

    await engineer.goTo('/catalog');
    await engineer.read('assets');
    const sources = await engineer.call<{ id: string; name: string }[]>('/sources');
    await engineer.goTo(`/sources/${sources.find((source) => source.name === 'Booking system')?.id}/plans/new`);
    await engineer.read('You left this unfinished');
    await engineer.press('Save plan');
    await engineer.read('The plan “Reference data” is saved.');
    await engineer.read('on the second Tuesday of each month at 03:00 (Europe/Oslo)');

    const row = `//tr[.//a[normalize-space()="Reference data"]]`;
    await engineer.retry(async () => (await engineer.xpath(`${row}//button[normalize-space()="Run now"]`)).click());
    await engineer.read('and leaves');
    await engineer.read('Written: 0 new, 0 changed, 0 gone, 0 back.');
    const { items } = await engineer.call<{ items: { path: string }[] }>(
      `/assets?filter=${encodeURIComponent('kind:table source:"Booking system" gone:no')}`,
    );
    expect(items.map((item) => item.path)).toEqual(expect.arrayContaining(['booking.passenger', 'ref.fare_band']));
  });

  it('says what was left out, can be paused, and can be removed and brought back', async () => {
    await engineer.goTo('/sources');
    await engineer.press('Booking system');
    await engineer.read('objects not covered by the last run');
    const button = (name: string) =>
      engineer.retry(async () =>
        (
          await engineer.xpath(`//tr[.//a[normalize-space()="Reference data"]]//button[normalize-space()="${name}"]`)
        ).click(),
      );
    await button('Pause');
    await engineer.read('paused');
    await button('Resume');
    await button('Remove');
    await engineer.read('The plan “Reference data” is removed; its runs stay.');
    await engineer.press('Undo');
    await engineer.xpath('//a[normalize-space()="Reference data"]');
    const sources = await engineer.call<{ id: string; name: string }[]>('/sources');
    const plans = await engineer.call<{ name: string; enabled: boolean }[]>(
      `/sources/${sources.find((source) => source.name === 'Booking system')?.id}/plans`,
    );
    expect(plans.map((plan) => plan.name)).toEqual(['Nightly', 'Reference data']);
  });

  it('finds a renamed table, and moves what was written when a person confirms it', async () => {
    const find = async (name: string) =>
      (
        await engineer.call<{ items: { id: string; path: string; gone: boolean }[] }>(
          `/assets?filter=${encodeURIComponent(`kind:table source:Crewing ${name}`)}`,
        )
      ).items.find((item) => item.path === name);
    const before = await find('certificate');
    const database = new sqlite.Database(join(process.env.IDREL_TEST_DEMO ?? '', 'crewing/crewing.sqlite'));
    database.exec('alter table certificate rename to licence');
    database.close();
    await engineer.goTo('/sources');
    await engineer.press('Crewing');
    await engineer.press('Run now');
    await engineer.read('1 likely renamed');
    await engineer.read('100 % of the columns are the same');
    expect(await engineer.axe()).toEqual([]);
    await engineer.press('The same');
    await engineer.read('with everything written about it');
    await engineer.press('the same');
    await engineer.read('licence');
    expect(await find('licence')).toMatchObject({ id: before?.id, gone: false });
    expect(await find('certificate')).toBeUndefined();
  });

  it('tells what is wrong with a pattern while it is written, and keeps it', async () => {
    await engineer.goTo('/sources');
    await engineer.press('Crewing');
    await engineer.press('New plan');
    await (await engineer.field('Exclude patterns')).sendKeys('a***b,');
    await engineer.read('three stars in a row mean nothing');
    await engineer.fill('Name', 'Odd');
    await engineer.press('Save plan');
    await engineer.read('A * stands for anything within a name');
    await engineer.press('Discard');
    await engineer.read('Every Sunday');
  });
});

describe('a detector set', () => {
  it('is made under Recognition, chosen in a plan, and says which plans use it', async () => {
    await engineer.goTo('/recognition?show=sets');
    await engineer.press('New set');
    await engineer.fill('Name', 'Without identity');
    await engineer.retry(async () => (await engineer.xpath('//label[normalize-space()="identity"]')).click());
    await engineer.press('Save set');
    await engineer.read('“Without identity” is saved');
    await engineer.goTo('/sources');
    await engineer.press('Crewing');
    await engineer.press('New plan');
    await engineer.fill('Name', 'Only contacts');
    await step('How');
    await engineer.choose('Which detectors look', 'Without identity', '');
    await engineer.fill('Longest time in minutes', '30');
    await engineer.fill('Tries after a failure', '2');
    await engineer.press('Save plan');
    await engineer.read('The plan “Only contacts” is saved.');
    await engineer.goTo('/recognition?show=sets');
    await engineer.retry(async () =>
      (await engineer.xpath('//ul[@aria-label="Detector sets"]//button[contains(., "Without identity")]')).click(),
    );
    await engineer.read('Only contacts of Crewing');
    await engineer.press('Remove');
    await engineer.read('One plan uses this set: Only contacts of Crewing.');
  });
});
