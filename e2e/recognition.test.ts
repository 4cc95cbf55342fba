import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { By, Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Caller } from '../server/test/running/caller.ts';
import { openBrowser, Person } from './browser.ts';

let driver: WebDriver;
let steward: Person;
const folder = mkdtempSync(join(tmpdir(), 'idrel-bench-'));
beforeAll(async () => {
  driver = await openBrowser();
  steward = new Person(driver);
  await steward.signInAs('Sunniva Dahlmark');
});
afterAll(async () => {
  await driver?.quit();
  rmSync(folder, { recursive: true, force: true });
});

const columnsOf = async (key: string) =>
  (
    await steward.call<{ items: { path: string }[] }>(
      `/assets?limit=200&filter=${encodeURIComponent(`kind:column class:${key}`)}`,
    )
  ).items.map((item) => item.path);
const until = (what: () => Promise<boolean>) => expect.poll(what, { interval: 250 }).toBe(true);

describe('a detector written on the bench', () => {
  it('is proposed from an example file, tried on the catalog, and saved', async () => {
    // Booking references as the Booking system writes them, beside other numbers.
    const rows = Array.from(
      { length: 40 },
      (_, index) => `47 22 ${10 + index} ${String(100_000 + index * 37)},${index},TX-${index}`,
    );
    writeFileSync(join(folder, 'references.csv'), `reference,party,other\n${rows.join('\n')}\n`);
    await steward.goTo('/recognition?show=detectors');
    await steward.press('New detector');
    await steward.press('New class');
    await steward.fill('Name', 'Booking number');
    await steward.fill('What it means', 'Under which a booking is known.');
    await steward.press('Save class');
    await steward.read('“Booking number” is saved.');
    await driver.findElement(By.css('input[type=file]')).sendKeys(join(folder, 'references.csv'));
    await steward.read('reference');
    const mark = async (column: string, said: string) =>
      (await steward.xpath(`//*[@aria-label="${column} is of the class"]//label[normalize-space()="${said}"]`)).click();
    await mark('reference', 'is');
    await mark('other', 'is not');
    await steward.read('takes 40 of 40 that are, none that are not');
    await (await steward.xpath('//ul[@aria-label="Proposed patterns"]/li[1]//button')).click();
    await steward.read('40 of 40 taken');
    expect(await steward.text()).toContain('0 of 40 taken');
    // Marked as it is typed: a pattern that cannot be read says where, and nothing is lost.
    await steward.fill('Pattern of the whole value', '47 22 (');
    await steward.read('The pattern cannot be read');
    await steward.read('40 otherwise than marked');
    await steward.fill('Pattern of the whole value', '47 22 \\d{2} \\d{6}');
    await steward.read('40 of 40 taken');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Try on the catalog');
    await steward.read('Would gain the class');
    await until(async () => (await driver.findElements(By.css('[aria-label="How far the trial is"]'))).length === 0);
    expect(await steward.text()).toMatch(/It would add the class to \d+ columns?, take it from 0, and keep it on 0\./);
    expect(await steward.text()).toContain('booking.booking.booking_ref');
    expect(await columnsOf('own-booking-number')).toEqual([]);
    await steward.fill('What changes with this version', 'The first');
    await steward.press('Save detector');
    await steward.read('version 1 of own.booking-number is saved');
    await steward.read('1 version');
  });

  it('looks in the next scan; its change is a version that can be taken back', async () => {
    await scanBooking();
    expect(await columnsOf('own-booking-number')).toContain('booking.booking.booking_ref');
    await steward.goTo('/recognition?show=bench&detector=own.booking-number');
    await steward.fill('Least different values', '9');
    await steward.press('Save version 2');
    await steward.read('version 2 of own.booking-number is saved');
    await steward.read('2 versions');
    await steward.press('Take this one');
    await steward.press('Save version 3');
    await steward.read('3 versions');
    const own = await steward.call<{ version: number; spec: { minDistinct: number } }>(
      '/own-detectors/own.booking-number',
    );
    expect([own.version, own.spec.minDistinct]).toEqual([3, 5]);
  });

  it('is switched off for the organisation, and on again', async () => {
    await steward.goTo('/recognition?show=detectors');
    await steward.fill('Find detectors', 'booking-number');
    await steward.read('1 detector, 0 switched off');
    const turn = async () =>
      (await driver.findElement(By.css('[aria-label="own.booking-number looks"]'))).sendKeys(Key.SPACE);
    await turn();
    // First it is shown what carries a class by it.
    await steward.read('carry a class by own.booking-number');
    await steward.read('Nothing else looks for: Booking number');
    await steward.press('Switch off');
    await steward.read('1 detector, 1 switched off');
    await steward.press('Undo');
    await steward.read('1 detector, 0 switched off');
  });

  it('leaves nothing behind when its class is removed', async () => {
    await steward.goTo('/recognition?show=classes&class=own-booking-number');
    await steward.read('booking.booking.booking_ref');
    await steward.read('own.booking-number');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Remove …');
    const columns = (await columnsOf('own-booking-number')).length;
    await steward.press(`Remove it, from ${columns} columns, with 1 detector`);
    await steward.read('nothing carries it any more');
    expect(await columnsOf('own-booking-number')).toEqual([]);
    expect(
      (await steward.call<{ id: string }[]>('/detectors')).some((detector) => detector.id === 'own.booking-number'),
    ).toBe(false);
    await steward.goTo('/recognition?show=detectors');
    await steward.fill('Find detectors', 'booking-number');
    await steward.read('0 detectors');
    await scanBooking();
    expect(await columnsOf('own-booking-number')).toEqual([]);
  });
});

describe('findings to settle', () => {
  const engineer = new Caller();
  let source = '';
  const name = `Harbour lists ${Math.random().toString(36).slice(2, 8)}`;
  // Two thirds are addresses: enough for a claim, too few for certainty.
  const mixed = (seed: number) =>
    Array.from({ length: 60 }, (_, index) => (index % 3 === 2 ? `desk ${index}` : `agent${seed}.${index}@example.org`));
  const of = (table: string, columns: string[]) => [
    { path: ['Lists', table], kind: 'table' },
    ...columns.map((column, index) => ({
      path: ['Lists', table, column],
      kind: 'column',
      type: 'text',
      values: mixed(index),
    })),
  ];
  const waiting = async () =>
    (await steward.call<{ items: { source: string }[] }>('/findings?state=open&limit=500')).items.filter(
      (finding) => finding.source === name,
    ).length;

  beforeAll(async () => {
    await engineer.as('Rafe Quillon');
    const domains = (await engineer.call('GET', '/domains')).body as { id: string; name: string }[];
    const made = await engineer.call('POST', '/sources', {
      name,
      kind: 'pushed',
      address: { system: 'lists of the harbour' },
      domainId: domains.find((domain) => domain.name === 'Fleet')?.id,
    });
    source = made.body.id;
    const columns = Array.from({ length: 30 }, (_, index) => `a${index}`);
    const assets = [
      { path: ['Lists'], kind: 'application' },
      ...of('first', columns),
      ...of('second', ['desk']),
      ...of('third', ['desk']),
      ...of('fourth', ['desk']),
    ];
    expect((await engineer.call('POST', `/sources/${source}/push`, { assets })).status).toBe(200);
  });
  afterAll(async () => {
    const refused = await engineer.call('DELETE', `/sources/${source}?assets=0`);
    await engineer.call(
      'DELETE',
      `/sources/${source}?assets=${/\d[\d,]*/.exec(refused.body?.detail ?? '')?.[0]?.replaceAll(',', '')}`,
    );
  });

  it('thirty of them are settled with the keyboard alone', async () => {
    expect(await waiting()).toBe(33);
    await steward.goTo('/worklist?kind=finding');
    await steward.read('hold: ');
    const items = async () => driver.findElements(By.css('[aria-label="Items"] li'));
    const before = (await items()).length;
    // Others come first or between: what is not of this list is passed over.
    let settled = 0;
    for (let step = 0; settled < 30 && step < 200; step += 1) {
      const title = await (await steward.see('.pane h2 a')).getText();
      if (!/^a\d+$/.test(title)) {
        await steward.key('j');
        continue;
      }
      await steward.key(settled % 2 === 0 ? 'c' : 'd');
      settled += 1;
      await until(async () => (await items()).length === before - settled);
    }
    expect(settled).toBe(30);
    await until(async () => (await waiting()) === 3);
    const states = (
      await steward.call<{ items: { source: string; state: string }[] }>('/findings?class=email&limit=500')
    ).items
      .filter((finding) => finding.source === name)
      .map((finding) => finding.state);
    expect(
      ['confirmed', 'dismissed', 'to-settle'].map((state) => states.filter((entry) => entry === state).length),
    ).toEqual([15, 15, 3]);
  });

  it('all of one name are decided together, once they were seen, and taken back together', async () => {
    await steward.goTo('/worklist?kind=finding');
    await steward.read('hold: ');
    for (let step = 0; (await (await steward.see('.pane h2 a')).getText()) !== 'desk' && step < 100; step += 1)
      await steward.key('j');
    await steward.read('2 more columns of this name and type wait for the same decision');
    await steward.key('a');
    await steward.see('[aria-label="Columns like it"]');
    expect(await driver.findElements(By.css('[aria-label="Columns like it"] tbody tr'))).toHaveLength(2);
    // The whole of it without the mouse: reason, back to the keys, all of them.
    await steward.key('r');
    await steward.key('Desks of the harbour', Key.ENTER);
    await steward.shift('d');
    await steward.read('E-mail address dismissed for 3 columns.');
    await until(async () => (await waiting()) === 0);
    const reasons = (
      await steward.call<{ items: { source: string; column: string; reason: string }[] }>(
        '/findings?state=dismissed&limit=500',
      )
    ).items.filter((finding) => finding.column === 'desk');
    expect(reasons.map((finding) => finding.reason)).toEqual(Array(3).fill('Desks of the harbour'));
    await steward.press('Undo');
    await until(async () => (await waiting()) === 3);
  });
});

describe('a rule of levels', () => {
  it('shows asset by asset what it would change, raises it when saved, and is taken back', async () => {
    const levelOf = async (path: string) =>
      (
        await steward.call<{ items: { path: string; level: number }[] }>(
          `/assets?limit=200&filter=${encodeURIComponent('kind:table passenger')}`,
        )
      ).items.find((item) => item.path === path)?.level;
    await steward.goTo('/recognition?show=levels');
    await steward.press('New rule');
    await steward.fill('Name', 'Who can be visited');
    for (const label of ["Person's name", 'Postal address'])
      await steward.choose('What holds all of these classes', label);
    await (await steward.see('.page h1')).click(); // the list of choices closes
    await steward.read('from guarded to sealed');
    await steward.read('booking.passenger');
    expect(await levelOf('booking.passenger')).toBe(3);
    expect(await steward.axe()).toEqual([]);
    await steward.press('Save rule');
    await steward.read('“Who can be visited” is saved; levels follow.');
    await until(async () => (await levelOf('booking.passenger')) === 4);
    await steward.press('Remove');
    await steward.read('“Who can be visited” is removed; levels follow.');
    await until(async () => (await levelOf('booking.passenger')) === 3);
  });
});

describe('what needs no person', () => {
  const stateOf = async (path: string) =>
    (await steward.call<{ items: { path: string; state: string }[] }>('/findings?limit=500')).items.find(
      (finding) => finding.path === path,
    )?.state;

  // Whatever else was tried on this demo: here nobody has decided yet.
  beforeAll(async () => {
    const { items } = await steward.call<{ items: { assetId: string; classKey: string; decidedBy: string | null }[] }>(
      '/findings?limit=500',
    );
    const decided = items.filter((finding) => finding.decidedBy !== null);
    if (decided.length === 0) return;
    const caller = new Caller();
    await caller.as('Jorun Pell');
    const opened = await caller.call('POST', '/findings/decisions', {
      decisions: decided.map(({ assetId, classKey }) => ({ assetId, classKey, decision: 'open' })),
    });
    expect(opened.status).toBe(200);
  });

  it('is confirmed by a rule, whose effect is shown before it is saved', async () => {
    await steward.goTo('/recognition?show=certainty');
    await steward.press('New rule');
    await steward.fill('Name', 'Countries');
    await steward.choose('Confirms findings of', 'Country');
    await (await steward.see('.page h1')).click(); // the list of choices closes
    await (await steward.field('when its detector verified check digits')).click();
    await steward.fill('Least different values', '4');
    await steward.read('1 finding from to settle to confirmed');
    await steward.read('ref.country.name');
    expect(await stateOf('ref.country.name')).toBe('to-settle');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Save rule');
    await steward.read('“Countries” is saved');
    await until(async () => (await stateOf('ref.country.name')) === 'confirmed');
    await steward.goTo('/recognition?show=confirmed');
    await steward.read('by the rule “Countries”');
    await steward.goTo('/recognition?show=certainty');
    await (
      await steward.xpath('//section[@aria-label="Rules that confirm"]//button[contains(., "Countries")]')
    ).click();
    await steward.press('Remove');
    await until(async () => (await stateOf('ref.country.name')) === 'to-settle');
  });

  it('is ignored below the threshold of its class', async () => {
    await steward.goTo('/recognition?show=certainty');
    await steward.press('Set for a class');
    await steward.choose('Class', 'Country');
    await steward.fill('To settle from', '95');
    await steward.read('2 findings from to settle to ignored');
    await steward.press('Save thresholds');
    await steward.read('Country: certain from 95 %, shown from 95 %.');
    await until(async () => (await stateOf('ref.country.name')) === undefined);
    await steward.press('Take the usual ones');
    await until(async () => (await stateOf('ref.country.name')) === 'to-settle');
  });

  it('is dismissed for a name once and for all, and forgotten again', async () => {
    await steward.goTo('/worklist?kind=finding');
    await steward.read('hold: ');
    const at = async () =>
      `${await (await steward.see('.pane h2 a')).getText()} ${await (await steward.see('.pane h2')).getText()}`;
    for (let step = 0; !(await at()).includes('remark hold: Text on health') && step < 100; step += 1)
      await steward.key('j');
    await (await steward.xpath('//label[contains(., "for every column called remark")]')).click();
    await (await steward.xpath('//button[starts-with(normalize-space(), "Dismiss")]')).click();
    await steward.read('Text on health dismissed for remark.');
    await until(async () => (await stateOf('medical_check.remark')) === 'dismissed');
    await steward.goTo('/recognition?show=certainty');
    await steward.read('remark is no Text on health');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Forget that remark is no Text on health');
    await steward.read('is forgotten');
    const { items } = await steward.call<{ items: { assetId: string; path: string }[] }>('/findings?limit=500');
    const asset = items.find((finding) => finding.path === 'medical_check.remark')?.assetId;
    const caller = new Caller();
    await caller.as('Sunniva Dahlmark');
    await caller.call('POST', '/findings/decisions', {
      decisions: [{ assetId: asset, classKey: 'health-text', decision: 'open' }],
    });
    expect(await stateOf('medical_check.remark')).toBe('to-settle');
  });

  it('tells why, also where it is certain', async () => {
    await steward.goTo('/recognition?show=certain');
    await (
      await steward.xpath(
        '//tr[contains(., "booking.contact_note.note")]//button[normalize-space()="Free text with personal data"]',
      )
    ).click();
    await steward.read('short notes');
    await steward.read('e-mail address at ');
    await steward.read('How the confidence is made up');
  });
});

describe('levels', () => {
  it('are shown as another level of a class would make them, before it is saved', async () => {
    await steward.goTo('/recognition?show=classes&class=email');
    await steward.press('Edit');
    await steward.choose('Level that follows', 'sealed');
    await steward.read('from guarded to sealed');
    await steward.read('booking.passenger.email');
    await steward.press('Cancel');
  });

  it('are counted by domain, source and kind; a figure opens its assets', async () => {
    await steward.goTo('/coverage?show=levels');
    await steward.read('The upper two since');
    expect(await steward.axe()).toEqual([]);
    await (await steward.xpath('//label[normalize-space()="By kind"]')).click();
    const figure = await steward.xpath(
      '//a[starts-with(@aria-label, "guarded: ") and contains(@aria-label, " of file set")]',
    );
    const count = Number(await figure.getText());
    expect(count).toBeGreaterThan(0);
    await figure.click();
    await steward.read(`${count} asset`);
  });
});

describe('a list on the bench', () => {
  it('takes its entries from a column of a file, and gives them back', async () => {
    writeFileSync(
      join(folder, 'berths.csv'),
      `berth,side\n${Array.from({ length: 3000 }, (_, index) => `B${index},${index % 2 ? 'port' : 'starboard'}`).join('\n')}\n`,
    );
    await steward.goTo('/recognition?show=bench');
    await (await steward.xpath('//*[@aria-label="How values are told"]//label[normalize-space()="List"]')).click();
    const input = await steward.xpath(
      '//*[@aria-label="Entries of the list"]//button[normalize-space()="From a file"]/preceding-sibling::input | //*[@aria-label="Entries of the list"]//input[@type="file"]',
    );
    await input.sendKeys(join(folder, 'berths.csv'));
    await steward.choose('Which column of the file', 'berth: 3,000 different values');
    await steward.read('3,000 entries; up to a million');
    await steward.press('Undo');
    await steward.read('0 entries; up to a million');
    await steward.press('Discard');
  });
});

describe('a column of the catalog on the bench', () => {
  it('gives examples and the entries of a list to whom a policy lets read it', async () => {
    const caller = await new Caller().as('Sunniva Dahlmark');
    const me = (await caller.call('GET', '/session')).body.person.id;
    const ports = (
      await steward.call<{ items: { id: string; path: string }[] }>(
        `/assets?limit=50&filter=${encodeURIComponent('kind:table port')}`,
      )
    ).items.find((asset) => asset.path === 'ref.port');
    await steward.goTo('/recognition?show=bench');
    const pick = async () => {
      await steward.choose('Table or file', 'ref.port · Booking system', 'port name');
      await steward.choose('Column', 'name');
    };
    await steward.press('Take a column');
    await pick();
    await steward.read('port.name is refused for you: no policy allows it.');
    const policy = (
      await caller.call('POST', '/policies', {
        name: `Ports ${Math.random()}`,
        effect: 'allow',
        personIds: [me],
        assetIds: [ports?.id],
      })
    ).body.id;
    await steward.choose('Column', 'name');
    await steward.read('Tarnholm');
    await (await steward.xpath('//*[@aria-label="How values are told"]//label[normalize-space()="List"]')).click();
    await steward.press('From a column');
    await pick();
    await steward.read('6 of 6 taken');
    await steward.press('Discard');
    await caller.call('DELETE', `/policies/${policy}`);
  });
});

async function scanBooking(): Promise<void> {
  const source =
    (await steward.call<{ id: string; name: string }[]>('/sources')).find((entry) => entry.name === 'Booking system')
      ?.id ?? '';
  await steward.goTo(`/sources/${source}`);
  await steward.press('Scan');
  await until(async () => /\/runs\//.test(await driver.getCurrentUrl()));
  const run = (await driver.getCurrentUrl()).split('/').at(-1) ?? '';
  await until(async () => (await steward.call<{ endedAt: string | null }>(`/runs/${run}`)).endedAt !== null);
  expect((await steward.call<{ state: string }>(`/runs/${run}`)).state).toBe('done');
}
