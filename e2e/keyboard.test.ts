import { Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { Caller } from '../server/test/running/caller.ts';
import { ADDRESS, openBrowser, PATIENCE } from './browser.ts';
import { ByKeys } from './byKeys.ts';

const mark = process.pid;
let driver: WebDriver;
let head: ByKeys;
let caller: Caller;

beforeAll(async () => {
  driver = await openBrowser();
  head = new ByKeys(driver);
  caller = await new Caller().as('Jorun Pell');
  await driver.get(`${ADDRESS}/`);
  await head.press('Jorun Pell');
  await head.see('.shell');
});
// Where each begins; from there on all is done by keys.
beforeEach(async () => {
  await driver.get(`${ADDRESS}/worklist`);
  await head.see('.shell');
});
afterAll(async () => {
  await driver?.quit();
  const id = await tableId('navigation.radar');
  await caller.call('PUT', `/assets/${id}/knowing`, { knows: false });
  const { version } = (await caller.call('GET', `/assets/${id}`)).body;
  await caller.call('PATCH', `/assets/${id}`, { description: null, custodianIds: [] }, { 'if-match': `"v${version}"` });
});

const tableId = async (path: string): Promise<string> =>
  (await caller.call('GET', `/assets?filter=${encodeURIComponent(`kind:table path:${path}`)}`)).body.items[0].id;

/** Every task of the user guide, in its order, with the keyboard alone. */
describe('by keyboard alone', () => {
  it('a source is registered, and removed', async () => {
    await head.press('Sources');
    await head.press('Register a source');
    await head.choose('Kind', 'Folder of files', '');
    await head.fill('Name', `Keys ${mark}`);
    await head.fill('Folder', `${process.env.IDREL_TEST_DEMO}/voyage-files`);
    await head.choose('Domain', 'Fleet');
    await head.press('Register');
    // What is typed into the field is called the same: it is there when the server has it.
    const made = async () =>
      ((await caller.call('GET', '/sources')).body as { id: string; name: string }[]).find(
        ({ name }) => name === `Keys ${mark}`,
      )?.id;
    await expect.poll(made, { timeout: PATIENCE }).toBeDefined();
    const id = await made();
    expect((await caller.call('DELETE', `/sources/${id}?assets=0`)).status).toBe(204);
  });

  it('a plan is made', async () => {
    await head.press('Sources');
    await head.press('Crewing');
    await head.press('New plan');
    await head.fill('Name', `Keys ${mark}`);
    await head.press('Save plan');
    await head.read(`The plan “Keys ${mark}” is saved.`);
  });

  it('findings are settled', async () => {
    await head.press('Worklist');
    await head.tick('Findings *');
    await head.read('How the confidence is made up');
    await head.key('c');
    await head.read('confirmed as');
    await head.press('Undo');
    await head.read('How the confidence is made up');
  });

  it('a detector is written from examples, tried where one writes it, and removed', async () => {
    await head.press('Recognition');
    await head.turn('To settle', 'Detectors');
    await head.press('New detector');
    await head.press('New class');
    await head.fill('Name', `Keys ${mark}`);
    await head.fill('What it means', 'What stands on the keys of cabins.');
    await head.press('Save class');
    await head.read(`“Keys ${mark}” is saved.`);
    await head.press('Paste values');
    await head.fill('Values, one a line', 'KB-1001\nKB-2044\nKB-3907');
    await head.press('These are');
    await head.fill('Pattern of the whole value', 'KB-\\d{4}');
    await head.read('3 of 3 taken');
    await head.fill('What changes with this version', 'The first');
    await head.press('Save detector');
    await head.read(`version 1 of own.keys-${mark} is saved`);
    // Nobody has scanned with it: it goes without a trace.
    for (const path of [`/own-detectors/own.keys-${mark}`, `/classes/own-keys-${mark}?columns=0`])
      expect((await caller.call('DELETE', path)).status).toBe(204);
  });

  it('assets are found and opened', async () => {
    await head.key('/');
    await head.see('input[aria-label="Search the catalog"]:focus');
    await head.key('wrok order path:maintenance.*', Key.ENTER);
    await head.read('Nothing is found by');
    await head.key(Key.ESCAPE);
    await head.key('j', Key.ENTER);
    await head.read('Contents');
  });

  it('what an asset means, who keeps it and what is to be known of it is said', async () => {
    const id = await tableId('navigation.radar');
    await driver.get(`${ADDRESS}/assets/${id}`);
    await head.press('Edit Description');
    await head.control('a');
    await head.key(`Which radars there are, ${mark}.`);
    await head.control(Key.ENTER);
    await head.read(`Which radars there are, ${mark}.`);
    await head.press('Edit Custodians');
    await head.choose('Custodians', 'Rafe Quillon');
    await head.key(Key.TAB);
    await head.press('I know it');
    await head.read('You stand here as somebody who knows it.');
    await head.press('Add a notice');
    await head.fill('What is to be known', `Exchanged, ${mark}.`);
    await head.press('Save notice');
    await head.read('The note is saved.');
    await head.press('Ask something');
    await head.see('.ProseMirror-focused');
    await head.key(`Which of them is spare, ${mark}?`);
    await head.key(Key.TAB);
    await head.press('Ask');
    await head.read('It waits on the worklist of those who answer for it.');
  });

  it('who changed what is seen, and a change put back', async () => {
    await driver.get(`${ADDRESS}/assets/${await tableId('navigation.radar')}`);
    await head.press('Edit Description');
    await head.control('a');
    await head.key(`In haste, ${mark}.`);
    await head.control(Key.ENTER);
    await head.read(`In haste, ${mark}.`);
    await head.press('Put back the description as it was before*');
    await head.read(`Which radars there are, ${mark}.`);
    await head.press('Settings');
    await head.read('Journal');
    await head.press('navigation.radar');
    await head.read('History');
  });

  it('a term is written', async () => {
    await head.press('Glossary');
    await head.press('New term');
    await head.fill('Name', `Berthing ${mark}`);
    await head.fill('Definition', 'Making a vessel fast at a quay.');
    await head.press('Save term');
    await head.read('Making a vessel fast at a quay.');
  });

  it('lineage is followed, and what it leads to is listed', async () => {
    await head.press('Lineage');
    await head.press('booking.open_booking');
    await head.read('edges between columns');
    await head.press('Impact list');
    await head.turn('Downstream', 'Upstream');
    await head.read('booking.passenger');
  });

  it('a policy is written, with its reach seen before', async () => {
    await head.press('Access');
    await head.press('New policy');
    await head.fill('Name', `Keys ${mark}`);
    await head.choose('Whom', 'Port partners');
    await head.key(Key.TAB);
    await head.choose('Assets', 'navigation (schema in Fleet office)', 'navigation');
    await head.key(Key.TAB);
    await head.read('Reach, if saved now');
    await head.press('Save policy');
    await head.read(`Keys ${mark}`);
  });

  it('many are changed at once, and put back', async () => {
    await head.press('Catalog');
    await head.read('assets');
    await head.key('/');
    await head.control('a');
    await head.key('path:navigation.berth_* kind:table', Key.ENTER);
    await head.read('navigation.berth_slot_note');
    await head.key(Key.ESCAPE);
    await head.key('j', 'x', 'j', 'x', 'c');
    await head.choose('What to do', 'set the standing to', '');
    await head.choose('Standing', 'reviewed', '');
    await head.press('Change 2 assets');
    await head.read('2 assets changed.');
    await head.press('Undo');
    await head.read('2 assets put back.');
  });

  it('somebody is taken in, and a domain is made and removed', async () => {
    await head.press('Settings');
    await head.press('people and groups');
    await head.press('New person');
    await head.fill('Name', `Ragna Vik ${mark}`);
    await head.fill('E-mail', `ragna.${mark}@tarnholm.example`);
    await head.press('Save person');
    await head.read(`Ragna Vik ${mark}`);
    await head.press('Settings');
    await head.press('domains');
    await head.press('New domain');
    await head.fill('Name', `Quays ${mark}`);
    await head.press('Save domain');
    await head.read(`Quays ${mark}`);
    await head.press('Remove');
    await head.read('is removed');
  });

  it('figures lead to the assets behind them', async () => {
    await head.press('Coverage');
    await head.read('What would raise coverage most');
    await head.turn('How governed', 'Levels');
    await head.read('The upper two since');
  });

  it('a routine is written and removed', async () => {
    await head.press('Catalog');
    await head.read('assets');
    await head.key('/');
    await head.key('path:navigation.berth_* kind:table', Key.ENTER);
    await head.press('As a routine');
    await head.fill('Name', `Keys ${mark}`);
    await head.choose('Person or group', 'Rafe Quillon');
    await head.press('Save routine');
    await head.read(`“Keys ${mark}” is saved.`);
    await head.press('Remove');
    await head.read('is removed; what it changed stays.');
  });
});

it('what was said is there', async () => {
  const { body } = await caller.call('GET', `/assets/${await tableId('navigation.radar')}`);
  expect(body).toMatchObject({
    description: `Which radars there are, ${mark}.`,
    custodians: [{ name: 'Rafe Quillon' }],
    experts: [{ name: 'Jorun Pell' }],
  });
});
