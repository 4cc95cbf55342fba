import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, PATIENCE, Person } from './browser.ts';

const TABLES = 100;
const COLUMNS = 49;
const SOURCE = `Berth log ${process.pid}`;
const TAG = `retention ${process.pid}`;
let driver: WebDriver;
let steward: Person;

beforeAll(async () => {
  driver = await openBrowser();
  steward = new Person(driver);
  await steward.signInAs('Jorun Pell');
  const [domain] = await steward.call<{ id: string }[]>('/domains');
  const { id } = await steward.send<{ id: string }>('POST', '/sources', {
    name: SOURCE,
    kind: 'pushed',
    address: { system: 'Berth log' },
    domainId: domain?.id,
    credentialId: null,
    agentGroup: null,
    description: '',
  });
  const assets = Array.from({ length: TABLES }, (_, table) => [
    { path: ['berths', `log_${table}`], kind: 'table' },
    ...Array.from({ length: COLUMNS }, (_, column) => ({
      path: ['berths', `log_${table}`, `field_${column}`],
      kind: 'column',
      type: 'text',
    })),
  ]).flat();
  await steward.send('POST', `/sources/${id}/push`, {
    whole: true,
    assets: [{ path: ['berths'], kind: 'schema' }, ...assets],
  });
});
afterAll(() => driver?.quit());

const found = (filter: string) =>
  steward.call<{ total: number }>(`/assets?limit=1&filter=${encodeURIComponent(filter)}`).then(({ total }) => total);
const until = (met: () => Promise<boolean>, what: string) => driver.wait(met, PATIENCE, what);
const calm = () => driver.executeScript('document.activeElement.blur()');

describe('many at once', () => {
  it('a tag is made with the values that it permits', async () => {
    await steward.goTo('/glossary');
    await driver.wait(
      () => driver.executeScript("return document.querySelector('input[value=tags]') !== null"),
      PATIENCE,
    );
    await driver.executeScript("document.querySelector('input[value=tags]').click()");
    await steward.read('A tag marks assets with a key');
    await steward.press('New tag');
    await steward.fill('Name', TAG);
    await steward.choose('Its values', 'one of a list');
    await (await steward.field('Permitted values')).sendKeys('short', Key.ENTER, 'long', Key.ENTER);
    await steward.fill('Description', 'How long records are kept');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Save tag');
    await steward.read(`The tag “${TAG}” is saved.`);
    await steward.read('Nothing yet.');
  });

  it('five thousand assets get it, while somebody goes on; and are as they were again', async () => {
    const all = TABLES * (COLUMNS + 1) + 1;
    await steward.goTo(`/catalog?filter=${encodeURIComponent(`source:"${SOURCE}" kind:any`)}`);
    await steward.read(`${all.toLocaleString('en')} assets`);
    await calm();
    await steward.shift('x');
    await steward.read(`${all.toLocaleString('en')} chosen`);
    await steward.key('c');
    await steward.choose('Tag', TAG);
    await steward.choose('Its value', 'short');
    await steward.read(`${all.toLocaleString('en')} would change`);
    expect(await steward.axe()).toEqual([]);
    await steward.press(`Change ${all.toLocaleString('en')} assets`);
    // It goes on when the page is left.
    await steward.goTo('/glossary/tags');
    await until(async () => (await found(`tag:"${TAG}/short" kind:any`)) === all, 'not all have the tag');
    await steward.goTo('/catalog/many');
    await steward.xpath(`//tr[contains(., "${TAG}")]/td[contains(., "${all.toLocaleString('en')} assets changed")]`);
    expect(await steward.axe()).toEqual([]);
    // Somebody gives one of them another value: that stays.
    const [one] = (
      await steward.call<{ items: { id: string; version: number; tags: { id: string }[] }[] }>(
        `/assets?limit=1&filter=${encodeURIComponent(`tag:"${TAG}" kind:table`)}`,
      )
    ).items;
    await steward.send(
      'PATCH',
      `/assets/${one?.id}`,
      { tags: [{ id: one?.tags[0]?.id, value: 'long' }] },
      one?.version,
    );
    await steward.press('Take back');
    const back = `${(all - 1).toLocaleString('en')} assets put back; left as they are, since changed again: 1`;
    await steward.xpath(`//tr[contains(., "${TAG}")]/td[contains(., "${back}")]`);
    expect([await found(`tag:"${TAG}/short" kind:any`), await found(`tag:"${TAG}/long" kind:any`)]).toEqual([0, 1]);
  });

  it('rows are chosen by keys, as fast as they come', async () => {
    await steward.goTo(`/catalog?filter=${encodeURIComponent(`source:"${SOURCE}" kind:table tag:none`)}`);
    await steward.read(`${TABLES - 1} assets`);
    await calm();
    await steward.key('j', 'x', 'j', 'x', 'j', 'j', 'x');
    await steward.read('3 chosen');
    const boxes = await driver.executeScript<string[]>(
      "return [...document.querySelectorAll('[role=gridcell] input:checked')].map((box) => box.closest('[role=row]').getAttribute('aria-rowindex'))",
    );
    expect(boxes).toEqual(['1', '2', '4']);
    await steward.key('c');
    await steward.choose('What to do', 'set the standing to');
    await steward.choose('Standing', 'reviewed');
    await steward.read('3 would change');
    await steward.press('Change 3 assets');
    await steward.read('Standing: reviewed: 3 assets changed.');
    await steward.press('Undo');
    await steward.read('3 assets put back.');
    expect(await found(`source:"${SOURCE}" standing:reviewed`)).toBe(0);
  });

  it('one asset gets a tag where it stands; what cannot be is told, and kept', async () => {
    await steward.goTo(`/catalog?filter=${encodeURIComponent(`source:"${SOURCE}" kind:table tag:none`)}`);
    await steward.read('log_1');
    await calm();
    await steward.key('j');
    await steward.press('Edit Tags');
    const field = await steward.field('Tags');
    await field.sendKeys(`${TAG}/medium`, Key.ENTER);
    await steward.read(`“medium” is no value of ${TAG}: use short, long.`);
    // Left without Enter, it is still there; so is what is right beside it.
    await field.sendKeys(Key.BACK_SPACE, 'no such tag');
    await calm();
    await steward.read('There is no tag “no such tag”.');
    await (await steward.field('Tags')).sendKeys(Key.BACK_SPACE, `${TAG}/long`);
    await calm();
    await until(async () => (await found(`source:"${SOURCE}" tag:"${TAG}/long"`)) === 2, 'the tag is not given');
    await steward.press('Open page');
    await steward.read(`${TAG}/long`);
  });
});

describe('a search', () => {
  const name = `Berths without owner ${process.pid}`;
  const filter = `source:"${SOURCE}" kind:table owner:none`;

  it('is kept, stands in the rail, is shared, and comes back when it was removed', async () => {
    await steward.goTo(`/catalog?filter=${encodeURIComponent(filter)}`);
    await steward.read('log_1');
    await steward.press('Searches');
    await steward.press('Keep this search …');
    await steward.fill('Name of the search', name);
    await steward.press('Keep search');
    await steward.read(`“${name}” is kept`);
    await steward.goTo('/worklist');
    await (await steward.xpath(`//nav[@aria-label="Views"]//a[normalize-space()="${name}"]`)).click();
    await steward.read('log_1');
    expect(new URL(await driver.getCurrentUrl()).searchParams.get('filter')).toBe(filter);

    await steward.goTo('/catalog/searches');
    await steward.press(`Edit ${name}`);
    await (await steward.xpath('//label[contains(., "Shared with everybody")]')).click();
    await steward.press('Save search');
    await steward.read('yours, shared');
    expect(await steward.axe()).toEqual([]);
    await steward.press(`Remove ${name}`);
    await steward.read(`“${name}” is kept no more.`);
    await steward.press('Undo');
    await steward.read('yours, shared');
  });

  it('of somebody else is found under Shared, and pinned by whoever likes', async () => {
    const other = await openBrowser();
    try {
      const analyst = new Person(other);
      await analyst.signInAs('Sunniva Dahlmark');
      await analyst.goTo('/catalog/searches');
      await analyst.read('Jorun Pell');
      await (await analyst.see(`input[aria-label="${name} stands in the rail"]`)).sendKeys(Key.SPACE);
      await analyst.xpath(`//nav[@aria-label="Views"]//a[normalize-space()="${name}"]`);
      expect(await analyst.text()).not.toContain(`Remove ${name}`);
    } finally {
      await other.quit();
    }
  });

  it('that was made lately, and what was looked at, are at hand', async () => {
    await steward.goTo(`/catalog?filter=${encodeURIComponent('kind:table passenger')}`);
    await steward.read('booking.passenger');
    await driver.sleep(2000);
    const [one] = (
      await steward.call<{ items: { id: string; path: string }[] }>(
        `/assets?limit=1&filter=${encodeURIComponent(`source:"${SOURCE}" kind:table`)}`,
      )
    ).items;
    await steward.goTo(`/assets/${one?.id}`);
    await steward.read('log_0');
    await steward.goTo('/catalog/searches');
    await steward.read('kind:table passenger');
    await steward.read(one?.path ?? '');
  });
});

describe('the columns of the table', () => {
  const heads = () =>
    driver.executeScript<string[]>(
      "return [...document.querySelectorAll('[role=columnheader]')].map((head) => head.innerText.replace(/[ ↓↑]/g, '')).filter(Boolean)",
    );
  const width = () =>
    driver.executeScript<number>(
      'return document.querySelector(\'[aria-label="Width of Source"]\').parentElement.offsetWidth',
    );
  const opened = async () => {
    await steward.goTo(`/catalog?filter=${encodeURIComponent(`source:"${SOURCE}" kind:table`)}`);
    await steward.read('log_1');
  };

  it('are chosen and made wider by keys, and are so the next time', async () => {
    await opened();
    const usual = await heads();
    await steward.press('Columns');
    await steward.press('Tags: not shown');
    await steward.press('Classes: shown');
    await steward.see('[aria-label="Classes: not shown"]');
    await calm();
    await opened();
    expect(await heads()).toEqual([...usual.filter((head) => head !== 'Classes' && head !== 'Rows'), 'Tags', 'Rows']);
    await steward.read(`${TAG}/long`);
    const before = await width();
    await (await steward.see('[aria-label="Width of Source"]')).sendKeys(Key.ARROW_RIGHT, Key.ARROW_RIGHT);
    await until(async () => (await width()) === before + 32, 'the column is not wider');
    expect(await steward.axe()).toEqual([]);
    await opened();
    expect(await width()).toBe(before + 32);
    await steward.press('Columns');
    await steward.press('As usual');
    await until(async () => (await heads()).join() === usual.join(), 'the columns are not as usual');
  });

  it('a sheet goes out and comes back: what somebody else wrote meanwhile is told, each cell taken or left', async () => {
    const filter = `source:"${SOURCE}" name:log_1,log_2,log_3`;
    await steward.goTo(`/catalog?filter=${encodeURIComponent(filter)}`);
    await steward.read('3 assets');
    await steward.press('Take out');
    await steward.read('Take a sheet back');
    const link = await (await steward.xpath('//a[normalize-space()="As DCAT (Turtle)"]')).getAttribute('href');
    const turtle = await steward.driver.executeAsyncScript<string>(
      'fetch(arguments[0]).then((answer) => answer.text()).then(arguments[1])',
      link,
    );
    expect(turtle.match(/dcat:dataset /g)).toHaveLength(1);
    for (const name of ['log_1', 'log_2', 'log_3']) expect(turtle).toContain(name);
    const { content } = await steward.call<{ content: string }>(
      `/assets-file?format=csv&filter=${encodeURIComponent(filter)}`,
    );
    const sheet = Buffer.from(content, 'base64').toString();
    const rows = sheet.split('\n').map((line) => line.trimEnd().split(','));
    const column = rows[0]?.indexOf('description') ?? -1;
    const owners = rows[0]?.indexOf('owners') ?? -1;
    for (const row of rows.slice(1, 4)) row[column] = `Log of ${row[0]}.`;
    (rows[1] as string[])[owners] = 'Tobias Marow';
    // Meanwhile somebody describes one of them.
    const { items } = await steward.call<{ items: { id: string; name: string; version: number }[] }>(
      `/assets?filter=${encodeURIComponent(filter)}`,
    );
    const meant = items.find(({ name }) => name === 'log_2');
    await steward.send('PATCH', `/assets/${meant?.id}`, { description: 'Theirs.' }, meant?.version);

    await steward.press('Take a sheet back');
    await steward.read('A sheet back');
    const file = join(mkdtempSync(join(tmpdir(), 'idrel-sheet-')), 'assets.csv');
    writeFileSync(file, rows.map((row) => row.join(',')).join('\n'));
    await (await steward.see('input[type=file]')).sendKeys(file);
    await steward.read('3 cells of 3 assets differ');
    await steward.read('Is “Tobias Marrow” meant?');
    await steward.read('1 cell differs on assets that somebody changed');
    await steward.read('Take in 2 cells');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Take in 2 cells');
    await steward.read('2 assets changed.');
    const after = await steward.call<{ items: { name: string; description: string | null }[] }>(
      `/assets?filter=${encodeURIComponent(filter)}`,
    );
    expect(after.items.map(({ description }) => description).sort()).toEqual([
      expect.stringMatching(/^Log of .*log_1\.$/),
      expect.stringMatching(/^Log of .*log_3\.$/),
      'Theirs.',
    ]);
  });
});
