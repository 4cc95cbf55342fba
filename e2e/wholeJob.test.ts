import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Caller } from '../server/test/running/caller.ts';
import { openBrowser, PATIENCE, Person } from './browser.ts';

const DEMO = process.env.IDREL_TEST_DEMO ?? '';
const databasePort = new URL(process.env.IDREL_TEST_DATABASE_URL ?? 'postgres://x').port;
let driver: WebDriver;
let steward: Person;

beforeAll(async () => {
  driver = await openBrowser();
  steward = new Person(driver);
  await steward.signInAs('Sunniva Dahlmark');
});
afterAll(() => driver?.quit());

const assetId = async (filter: string, path: string) => {
  const found = await steward.call<{ items: { id: string; path: string }[] }>(
    `/assets?limit=200&filter=${encodeURIComponent(filter)}`,
  );
  const asset = found.items.find((item) => item.path === path);
  if (!asset) throw new Error(`${path} is not in the catalog`);
  return asset.id;
};

// One walk through the whole job: each step stands on the one before.
describe('the whole job', () => {
  it('registers the Warehouse with a new credential, and tests the connection step by step', async () => {
    await steward.goTo('/sources');
    await steward.read('Booking system');
    await steward.press('Register a source');
    await steward.fill('Name', 'Warehouse');
    await steward.fill('Host', '127.0.0.1');
    await steward.fill('Port', databasePort);
    await steward.fill('Database', 'warehouse');
    await steward.choose('Domain', 'Reporting');
    await steward.press('New credential');
    await steward.fill('Name of the credential', 'Warehouse reader');
    await steward.fill('User', 'ferry_reader');
    await steward.fill('Password of the user', 'wrong at first');
    await steward.press('Store credential');
    // Its name can be read in the field where it is typed, too: it is stored when the fields are gone.
    await steward.unread('Store credential');
    await steward.read('Warehouse reader');
    await steward.press('Register');
    await steward.press('Test connection');
    await steward.read('ALTER ROLE "ferry_reader" LOGIN PASSWORD');
    expect(await steward.text()).toMatch(/Authenticate\s+failed[\s\S]*Rights to read data\s+not reached/);
    await steward.choose('Credential', 'Ferry reader');
    await steward.read('Credential');
    await steward.driver.wait(
      async () =>
        (await steward.call<{ name: string; credential: string }[]>('/sources')).find(
          (source) => source.name === 'Warehouse',
        )?.credential === 'Ferry reader',
      PATIENCE,
    );
    await steward.press('Test connection');
    await steward.read('tables and views can be read.');
    expect(await steward.text()).not.toMatch(/not reached/);
  });

  it('scans it, with stages, live counts, log and comparison', async () => {
    await steward.press('Scan');
    await steward.read('Scan of Warehouse');
    await steward.read('The first scan of this source');
    const text = await steward.text();
    expect(text).toMatch(/waiting\s+structure\s+sampling\s+recognition\s+lineage\s+done/);
    expect(text).toMatch(/Structure: \d+ objects with \d+ columns/);
    await steward.press('Scan again');
    await steward.read('Nothing is different from the run before.');
  });

  it('registers and scans the folder of Voyage files', async () => {
    await steward.goTo('/sources/new');
    await steward.choose('Kind', 'Folder of files');
    await steward.fill('Name', 'Voyage files');
    await steward.fill('Folder', join(DEMO, 'voyage-files'));
    await steward.choose('Domain', 'Fleet');
    await steward.press('Register');
    await steward.press('Test connection');
    await steward.read('files can be read.');
    await steward.press('Scan');
    await steward.read('The first scan of this source');
    expect(readFileSync(join(DEMO, 'voyage-files/freight/manifest.csv'), 'utf8')).toContain('consignor');
    await steward.goTo(`/catalog?filter=${encodeURIComponent('class:email source:"Voyage files" kind:file')}`);
    await steward.read('manifest.csv');
  });

  it('settles findings by keyboard, and a re-scan respects what was decided', async () => {
    await steward.goTo('/worklist?kind=finding');
    await steward.read('How the confidence is made up');
    const { items } = await steward.call<{
      items: { finding: { assetId: string; classKey: string; column: string; label: string } }[];
    }>('/worklist?kind=finding');
    const [first, second] = items.map((item) => item.finding);
    await steward.key('c');
    await steward.read(`${first?.column} confirmed as ${first?.label}.`);
    await steward.read(`Does ${second?.column} hold`);
    await steward.key('d');
    await steward.read(`${second?.label} dismissed for ${second?.column}.`);
    const sources = await steward.call<{ id: string; isRead: boolean }[]>('/sources');
    for (const source of sources.filter(({ isRead }) => isRead)) {
      await steward.goTo(`/sources/${source.id}`);
      await steward.press('Scan');
      await steward.read('Written:');
    }
    const state = async (finding: typeof first) =>
      (
        await steward.call<{ items: { classKey: string; state: string }[] }>(`/findings?asset=${finding?.assetId}`)
      ).items.find((item) => item.classKey === finding?.classKey)?.state;
    expect([await state(first), await state(second)]).toEqual(['confirmed', 'dismissed']);
  });

  it('finds in spite of slips of the finger, completes what is typed, and says why something stands where it does', async () => {
    await steward.goTo('/catalog');
    await steward.read('assets');
    await steward.key('/');
    const offered = (text: string) => steward.xpath(`//*[@role="option"][starts-with(normalize-space(), "${text}")]`);
    await steward.see('input[aria-label="Search the catalog"]:focus');
    await steward.key('passanger kin');
    await offered('kind:');
    await steward.key(Key.ARROW_DOWN, Key.ENTER);
    await offered('view');
    await steward.key('tab');
    await offered('table');
    await steward.key(Key.ARROW_DOWN, Key.ENTER);
    await steward.key(Key.ENTER);
    await steward.read('Nothing is found by passanger kind:table. Shown: passenger kind:table');
    await steward.read('booking.passenger');
    await driver.executeScript('document.activeElement.blur()');
    await steward.key('j');
    await steward.see('aside[aria-label="booking.passenger"]');
    await steward.press('Why here?');
    await steward.read('its whole name was asked for');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Search for that');
    expect(new URL(await driver.getCurrentUrl()).searchParams.get('filter')).toBe('passenger kind:table');
    // What cannot be read is told where it stands, and stays as it was typed.
    await steward.goTo('/catalog');
    await steward.read('assets');
    await steward.key('/');
    await steward.see('input[aria-label="Search the catalog"]:focus');
    await steward.key('asked>=soon', Key.ENTER);
    await steward.read('"soon" is no value of asked.');
    expect(await (await steward.see('input[aria-label="Search the catalog"]')).getAttribute('value')).toBe(
      'asked>=soon',
    );
    await steward.key(Key.ESCAPE);
  });

  it('finds by words and filters, moves by keyboard, and edits in the reading pane', async () => {
    await steward.goTo('/catalog');
    await steward.read('assets');
    await steward.key('/');
    await steward.key('travell kind:view', Key.ENTER);
    await steward.read('mart.traveller_contact');
    await steward.key(Key.ESCAPE);
    await driver.executeScript('document.activeElement.blur()');
    await steward.key('j');
    await steward.see('aside[aria-label^="mart."]');
    await steward.key('e');
    await steward.fill('Description', 'Written where it stands');
    await steward.press('Save');
    await steward.read('Saved.');
    await steward.driver.wait(
      async () =>
        (await steward.call<{ total: number }>(`/assets?filter=${encodeURIComponent('"written" kind:view')}`)).total ===
        1,
      PATIENCE,
    );
    await steward.goTo('/catalog?filter=colour%3Ared');
    await steward.read('"colour" is not something to filter by.');
  });

  it('documents an asset: owner, term, standing, each in the journal', async () => {
    const id = await assetId('kind:view', 'mart.traveller_contact');
    await steward.goTo(`/assets/${id}`);
    await steward.press('Edit Owner');
    await steward.choose('Owner', 'Tobias Marrow');
    await steward.key(Key.TAB);
    await steward.driver.wait(
      async () =>
        (await steward.call<{ owners: { name: string }[] }>(`/assets/${id}`)).owners
          .map((person) => person.name)
          .join() === 'Tobias Marrow',
      PATIENCE,
    );
    await steward.press('Edit Terms');
    await steward.choose('Terms', 'Contact data');
    await steward.key(Key.TAB);
    await steward.choose('Standing', 'reviewed', '');
    await steward.driver.wait(async () => {
      const entries = await steward.call<
        { person: string; after: Record<string, unknown>; before: Record<string, unknown> }[]
      >(`/journal?subject=${id}`);
      const told = JSON.stringify(entries);
      return (
        told.includes('"owners":["Tobias Marrow"]') &&
        told.includes('"terms":["Contact data"]') &&
        told.includes('"standing":"reviewed"') &&
        told.includes('"standing":"unreviewed"')
      );
    }, PATIENCE);
    await steward.goTo('/glossary?term=new');
    await steward.fill('Name', 'Contact list');
    await steward.fill('Definition', 'Whom to write to when a sailing is late.');
    await steward.press('Save term');
    await steward.read('“Contact list” is saved.');
  });

  it('follows one column end to end, from the Booking system into the marts', async () => {
    const id = await assetId('kind:column', 'booking.passenger.email');
    await steward.goTo(`/lineage?focus=${id}&down=6`);
    await steward.read('following email');
    await steward.read('landing.passenger');
    const marked = async () =>
      (
        await driver.executeScript<string[]>(
          `return [...document.querySelectorAll('.react-flow__node-table li button')].filter((el) => el.style.background.includes('kelp-soft')).map((el) => el.innerText.split('\\n')[0])`,
        )
      ).sort();
    // The picture is drawn in steps: lanes are laid out by a worker, and tables come into view after them.
    const wanted = [
      'email',
      'email',
      'email',
      'email',
      'email',
      'email',
      'email_key',
      'email_masked',
      'newest address',
      'travellers who can be reached',
    ];
    await driver.wait(
      async () => (await marked()).length >= wanted.length,
      PATIENCE,
      'the column is not followed to its end',
    );
    expect(await marked()).toEqual(wanted);
    await steward.press('Impact list');
    await steward.read('email_key');
    expect(await steward.text()).toMatch(/masked/);
    await steward.press('Open them in the catalog');
    await steward.driver.wait(
      async () => new URL(await driver.getCurrentUrl()).pathname === '/catalog',
      PATIENCE,
      'the catalog does not open',
    );
    expect(new URL(await driver.getCurrentUrl()).searchParams.get('filter')).toBe(
      'downstream:booking.passenger.email kind:any',
    );
    await steward.read('email_key');
  });

  it('writes a policy as a sentence and sees its reach before it is saved', async () => {
    await steward.goTo('/access?edit=new');
    await steward.fill('Name', 'Fares analysts read the marts');
    await steward.choose('Whom', 'Fares analysts');
    await steward.key(Key.ESCAPE);
    await steward.choose('Assets', 'mart (schema in Warehouse)', 'mart');
    await steward.key(Key.ESCAPE);
    await steward.read('Reach, if saved now');
    await steward.read('Bettina Sark');
    expect(await steward.text()).toMatch(/1 person, \d+ tables, \d+ columns/);
    await steward.press('Save policy');
    await steward.read('is in force.');
    await steward.goTo('/access?edit=new');
    await steward.fill('Name', 'E-mail addresses are masked');
    await steward.choose('Effect', 'Protect', '');
    await steward.choose('Data classes', 'E-mail address');
    await steward.key(Key.ESCAPE);
    await steward.read('reads masked');
    await steward.press('Save policy');
    await steward.read('is in force.');
  });

  it('tries a query as the analyst, and explains it', async () => {
    await steward.goTo('/access?show=try');
    await steward.choose('As', 'Bettina Sark');
    await steward.fill('Query', 'select given_name, email from mart.traveller_contact order by traveller_id limit 5');
    await steward.press('Run as this person');
    await steward.read('•••');
    const text = await steward.text();
    // What the steward gets stands beside it: of that nothing is said here.
    const theirs = await (await steward.xpath("//section[h2='Bettina Sark']")).getText();
    expect(text).toMatch(/mart\.traveller_contact: partly/);
    expect(text).toMatch(/email\s+masked: its first character\s+E-mail addresses are masked/);
    expect(theirs).toContain('•••');
    expect(theirs).not.toMatch(/@example|@post/);
    await steward.fill('Query', 'select * from core.traveller');
    await steward.press('Run as this person');
    await steward.read('core.traveller may not be read: no policy allows it.');
    const asset = await assetId('kind:view', 'mart.traveller_contact');
    const people = await steward.call<{ id: string; name: string }[]>('/people');
    await steward.goTo(
      `/access?show=explain&person=${people.find((person) => person.name === 'Bettina Sark')?.id}&asset=${asset}`,
    );
    await steward.read('protect: E-mail addresses are masked · allow: Fares analysts read the marts');
  });

  it('limits rows by a policy, and the analyst gets these alone', async () => {
    const asAnalyst = async (query: string, awaited: string) => {
      await steward.goTo('/access?show=try');
      await steward.choose('As', 'Bettina Sark');
      await steward.fill('Query', query);
      await steward.press('Run as this person');
      await steward.read(awaited);
    };
    const query = 'select distinct state from mart.fare_history order by 1';
    await asAnalyst(query, 'ended');
    await steward.goTo('/access?edit=new');
    await steward.fill('Name', 'Ended fares stay with us');
    await steward.choose('Effect', 'Protect', '');
    await steward.choose('Assets', 'mart.fare_history (Warehouse)', 'fare_history');
    await steward.key(Key.ESCAPE);
    await steward.choose('Whom', 'Fares analysts');
    await steward.key(Key.ESCAPE);
    await steward.choose('How', 'rows: show only some of them', '');
    await steward.fill('Column that limits rows', 'state');
    await steward.fill('Values of permitted rows', 'current');
    await steward.key(Key.ENTER);
    await steward.press('Save policy');
    await steward.read('is in force.');
    await asAnalyst(query, 'Only rows where state is current: Ended fares stay with us');
    expect(
      await driver.executeScript(
        "return [...document.querySelectorAll('table[aria-label$=Sark] tbody tr')].map((row) => row.innerText.trim())",
      ),
    ).toEqual(['current']);
  });

  it('names where lineage carries guarded values on, and extends the policy to there', async () => {
    await steward.goTo('/access?edit=new');
    await steward.fill('Name', 'Travellers stay in the core');
    await steward.choose('Effect', 'Protect', '');
    await steward.choose('Assets', 'core.traveller (Warehouse)', 'traveller');
    await steward.key(Key.ESCAPE);
    await steward.read('Carried on, and read there as it is');
    expect(await steward.text()).toMatch(/mart\.traveller_contact\.\w+\s+core\.traveller\.\w+/);
    await steward.press('Extend the policy to what carries the values on');
    await driver.wait(
      async () => !(await steward.text()).includes('Carried on, and read there as it is'),
      PATIENCE,
      'it is still carried on',
    );
    await steward.press('Leave as it was');
  });

  it('keeps masking a column whose class was dismissed, until somebody lets the class go', async () => {
    const caller = await new Caller().as('Sunniva Dahlmark');
    const column = await assetId('kind:column email', 'mart.traveller_contact.email');
    const decide = (decision: string) =>
      caller.call('POST', '/findings/decisions', {
        decisions: [{ assetId: column, classKey: 'email', decision, reason: '', remember: false }],
      });
    expect((await decide('dismissed')).status).toBe(200);
    await steward.goTo('/access?show=held');
    await steward.read('mart.traveller_contact.email');
    await steward.press('What letting go would open');
    await steward.read('reads masked (its first character)');
    expect(await steward.text()).toMatch(
      /Bettina Sark\s+mart\.traveller_contact\.email\s+reads masked \(its first character\)\s+reads/,
    );
    expect(await steward.axe()).toEqual([]);
    await steward.press('Let the class go');
    await steward.read('no longer protects mart.traveller_contact.email.');
    // What came by it along lineage holds by itself.
    await steward.read('newest address');
    await steward.press('What letting go would open');
    await steward.press('Let the class go');
    await steward.read('Nothing is held');
    // Found again, it holds again.
    expect((await decide('open')).status).toBe(200);
  });
});

describe('every view', () => {
  const views = [
    '/worklist',
    '/catalog',
    '/sources',
    '/sources/new',
    '/sources/credentials',
    '/sources/agents',
    '/recognition',
    '/recognition?show=detectors',
    '/recognition?show=certain',
    '/recognition?show=sets&set=new',
    '/access?show=held',
    '/glossary',
    '/glossary/tags',
    '/glossary?term=new',
    '/glossary?show=import',
    '/glossary?show=conflicts',
    '/glossary?show=new scheme',
    '/catalog/many',
    '/catalog/sheet',
    '/catalog/searches',
    '/lineage',
    '/access',
    '/access?edit=new',
    '/access?show=try',
    '/access?show=explain',
    '/routines',
    '/routines?routine=new',
    '/coverage',
    '/settings',
    '/settings/api',
    '/settings/checklists?kind=table',
    '/worklist?kind=lapsed',
    '/nowhere',
  ];

  it('has nothing that axe finds, in the light and in the dark', async () => {
    const table = await assetId('kind:table', 'booking.passenger');
    const [source] = await steward.call<{ id: string; lastRun: { id: string } }[]>('/sources');
    const all = [
      ...views,
      `/assets/${table}`,
      `/catalog?asset=${table}`,
      `/lineage?focus=${table}`,
      `/lineage?focus=${table}&list=downstream`,
      `/sources/${source?.id}`,
      `/runs/${source?.lastRun.id}`,
    ];
    const problems: string[] = [];
    for (const view of all) {
      await steward.goTo(view);
      await steward.see(view.startsWith('/lineage?focus') ? '.react-flow__node-table' : '#main h1, #main h2');
      await driver.sleep(500);
      await steward.theme('light');
      for (const violation of await steward.axe()) problems.push(`${view}: ${violation}`);
      // Of the dark theme colours alone are different.
      await steward.theme('dark');
      for (const violation of await steward.axe(['color-contrast'])) problems.push(`${view}, dark: ${violation}`);
    }
    expect(problems).toEqual([]);
  });

  it('shows its keys, and a palette of commands', async () => {
    await steward.goTo('/worklist');
    await steward.see('#main h1');
    await steward.key('?');
    await steward.read('confirm the finding');
    await steward.key(Key.ESCAPE);
    await driver.sleep(400);
    await driver.actions().keyDown(Key.CONTROL).sendKeys('k').keyUp(Key.CONTROL).perform();
    await steward.see('.mantine-Spotlight-search');
    await steward.key('glossary');
    await steward.read('Go to Glossary');
    await steward.key(Key.ENTER);
    await steward.read('New term');
  });

  it('signs out, and what another person may not see is not there', async () => {
    const id = await assetId('kind:table', 'booking.passenger');
    await steward.press('Sunniva Dahlmark');
    await steward.press('Sign out');
    await steward.signInAs('Maud Ilkley');
    await steward.goTo(`/assets/${id}`);
    await steward.read('is not there, or you may not see it.');
  });
});
