import type { WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, PATIENCE, Person } from './browser.ts';

let driver: WebDriver;
let steward: Person;
beforeAll(async () => {
  driver = await openBrowser();
  steward = new Person(driver);
  await steward.signInAs('Sunniva Dahlmark');
});
afterAll(() => driver?.quit());

describe('coverage over time', () => {
  it('shows ninety days of a measure, of everything and row by row, and the figures of each day', async () => {
    await steward.goTo('/coverage?show=time');
    await steward.read('+');
    await steward.read('points');
    const chart = await steward.see('[role="img"][aria-label^="Owned: All"]');
    expect(await chart.getAttribute('aria-label')).toMatch(/Commerce \d+ % on \d+ \w+ \d{4}, \d+ % on/);
    await steward.press('Described');
    await steward.see('[role="img"][aria-label^="Described: All"]');
    await (await steward.xpath('//label[normalize-space()="By source"]')).click();
    await steward.read('Fleet office');
    await (await steward.xpath('//label[normalize-space()="30 days"]')).click();
    await driver.wait(async () => (await driver.getCurrentUrl()).includes('days=30'), PATIENCE, 'the address stays');
    await (await steward.xpath('//summary[normalize-space()="Figures of each day"]')).click();
    const rows = async () =>
      (await steward.call<{ days: string[] }>('/coverage/course?by=source&measure=described&days=30')).days.length;
    expect(await rows()).toBe(30);
    await expect
      .poll(async () => (await driver.findElements({ css: 'table[aria-label="Figures of each day"] tbody tr' })).length)
      .toBe(30);
    expect(await steward.axe()).toEqual([]);
  });

  it('is narrowed to a domain, whose figures open its assets', async () => {
    await steward.goTo('/coverage');
    await steward.press('Vessels');
    await steward.read('Fleet office');
    await driver.wait(
      async () => /domain=[0-9a-f-]+&by=source|by=source&domain=/.test(await driver.getCurrentUrl()),
      PATIENCE,
      'the domain is not in the address',
    );
    const cell = await steward.xpath('//a[starts-with(@aria-label, "Owned: ") and contains(@aria-label, ", Vessels")]');
    const told = /Owned: [^,]+, ([\d,]+) of/.exec((await cell.getAttribute('aria-label')) ?? '')?.[1];
    await cell.click();
    await driver.wait(
      async () => decodeURIComponent(await driver.getCurrentUrl()).includes('domain:Vessels owner:any'),
      PATIENCE,
      'the figure opens nothing',
    );
    await steward.read(`${told} assets`);
  });
});

describe('a target', () => {
  it('is set, tells where it leads, is changed, removed, and back again', async () => {
    await steward.goTo('/coverage?show=targets');
    await steward.press('New target');
    await steward.choose('Domain', 'Bookings');
    await steward.choose('Measure', 'With terms');
    await steward.press('Set the target');
    await steward.read('Bookings: the target is set.');
    await steward.see('[aria-label="Change: Bookings, With terms"]');
    // One that is there already is refused with words, beside the field; what was typed stays.
    await steward.press('New target');
    await steward.choose('Domain', 'Bookings');
    await steward.choose('Measure', 'With terms');
    await steward.press('Set the target');
    await steward.read('The domain has a target for this measure already.');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Leave it');
    await steward.press('Change: Bookings, With terms');
    await steward.fill('Share', '1');
    await steward.press('Save the target');
    await steward.read('Bookings: the target is changed.');
    await steward.read('reached');
    await steward.press('Remove: Bookings, With terms');
    await steward.read('The target is removed.');
    // That of the change may still be there, above it.
    await (await steward.xpath('(//button[normalize-space()="Undo"])[last()]')).click();
    await steward.see('[aria-label="Change: Bookings, With terms"]');
    await steward.press('Remove: Bookings, With terms');
    await steward.read('The target is removed.');
  });
});

describe('room and use', () => {
  it('tells what unused room costs, at the price that an administrator sets', async () => {
    const second = await openBrowser();
    const administrator = new Person(second);
    await administrator.signInAs('Jorun Pell');
    await administrator.goTo('/coverage?show=room');
    await administrator.read('nobody asked for in 90 days');
    await administrator.read('€120.00 for a gigabyte a month');
    await administrator.press('Change the price');
    await administrator.fill('A gigabyte costs, a month', '5000');
    await administrator.press('Save the price');
    await administrator.read('€5,000.00 for a gigabyte a month');
    await administrator.press('Undo');
    await administrator.read('€120.00 for a gigabyte a month');
    expect(await administrator.axe()).toEqual([]);
    await second.quit();
  });

  it('names what would gain most, and opens it', async () => {
    await steward.goTo('/coverage?show=use');
    await steward.read('What would gain most');
    await steward.read('booking.booking_leg');
    await steward.read('without owner');
    expect(await steward.axe()).toEqual([]);
    await steward.press('booking.booking_leg');
    await driver.wait(async () => (await driver.getCurrentUrl()).includes('/assets/'), PATIENCE, 'nothing opens');
    await steward.goTo('/coverage?show=use');
    const unused = await steward.xpath('//p[contains(., "were not;")]/a[2]');
    const many = await unused.getText();
    await unused.click();
    await steward.read(`${many} assets`);
    await steward.read('Size');
  });
});

describe('the report', () => {
  it('is one page on paper, and is sent each month to who asks for it', async () => {
    await steward.goTo('/coverage/report');
    await steward.read('How far the catalog is governed');
    await steward.read('Targets');
    await steward.read('are taken; nobody asked in 90 days');
    await steward.see('[role="img"][aria-label^="Shares since"] svg');
    expect(await steward.axe()).toEqual([]);
    const printed = (await driver.printPage({} as never)) as unknown as string;
    const pdf = Buffer.from(printed, 'base64').toString('latin1');
    expect(pdf.match(/\/Type\s*\/Page\b(?!s)/g)).toHaveLength(1);
    await (await steward.xpath('//label[normalize-space()="Send it to me each month"]')).click();
    await steward.read('The report comes with the first days of each month.');
    await (await steward.xpath('//label[normalize-space()="Send it to me each month"]')).click();
    await steward.read('It is sent no longer.');
  });
});

describe('my week', () => {
  it('tells what was done and what waits, which opens the worklist', async () => {
    await steward.goTo('/coverage?show=week');
    await steward.read('What you did');
    await steward.read('Descriptions');
    await steward.read('What waits for you');
    expect(await steward.axe()).toEqual([]);
    await steward.press('assets without owner');
    await driver.wait(async () => (await driver.getCurrentUrl()).includes('kind=unowned'), PATIENCE, 'nothing opens');
  });
});
