import { writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { DomainAnswer } from '@idrel/contract/people';
import { Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Caller } from '../server/test/running/caller.ts';
import { ADDRESS, openBrowser, PATIENCE, Person } from './browser.ts';

const mark = process.pid;
const NAME = `Wenche Lund ${mark}`;
let driver: WebDriver;
let head: Person;
let caller: Caller;
let table = '';

beforeAll(async () => {
  driver = await openBrowser();
  head = new Person(driver);
  await head.signInAs('Jorun Pell');
  caller = await new Caller().as('Jorun Pell');
  const found = await caller.call('GET', `/assets?filter=${encodeURIComponent('kind:table name:lost_property')}`);
  table = found.body.items[0].id;
});
afterAll(() => driver?.quit());

const owners = async () =>
  ((await caller.call('GET', `/assets/${table}`)).body.owners as { name: string }[]).map(({ name }) => name);
const put = async (change: object) => {
  const { version } = (await caller.call('GET', `/assets/${table}`)).body;
  expect((await caller.call('PATCH', `/assets/${table}`, change, { 'if-match': `"v${version}"` })).status).toBe(200);
};

describe('people', () => {
  it('are added with groups and roles; what they hold is listed, and goes to another when they leave', async () => {
    await head.goTo('/settings/people?person=new');
    await head.fill('Name', NAME);
    await head.fill('E-mail', `wenche.${mark}@tarnholm.example`);
    await head.fill('Job', 'summer help');
    await head.choose('Groups', 'Fares analysts');
    await head.key(Key.TAB);
    await head.choose('Where role 1 holds', 'in Travel and below');
    await head.choose('Role 1', 'editor');
    expect(await head.axe()).toEqual([]);
    await head.press('Save person');
    await head.read(`${NAME} is saved.`);
    await head.read('They answer for nothing');
    const id = new URL(await driver.getCurrentUrl()).searchParams.get('person') ?? '';
    const before = (await caller.call('GET', `/assets/${table}`)).body.owners as { id: string }[];
    await put({ ownerIds: [id] });
    expect(await owners()).toEqual([NAME]);

    await head.goTo(`/settings/people?person=${id}`);
    await head.read('assets owned: 1');
    await head.press(`${NAME} leaves …`);
    await head.read('1 thing to pass on, 1 group and 1 role end');
    await head.choose('All of it goes to', 'Tobias Marrow');
    expect(await head.axe()).toEqual([]);
    await head.press('They leave');
    await head.read(`${NAME} has left.`);
    expect(await owners()).toEqual(['Tobias Marrow']);
    const people = (await caller.call('GET', '/people')).body as { name: string }[];
    expect(people.map(({ name }) => name)).not.toContain(NAME);
    await head.goTo(`/assets/${table}`);
    await head.read(`passed on`);

    // One thing of the history is put back by itself; who has left cannot be.
    await driver.executeScript("document.getElementById('history').scrollIntoView()");
    await head.retry(async () =>
      (await head.xpath('//tr[contains(., "passed on")]//button[normalize-space()="Put back"]')).click(),
    );
    await head.read(`There is no person or group “${NAME}” any more.`);
    await put({ ownerIds: before.map((person) => person.id) });
  });

  it('who know something say so themselves, and are found by it', async () => {
    await head.goTo(`/assets/${table}`);
    await head.press('I know it');
    await head.read('You stand here as somebody who knows it.');
    await head.goTo(`/catalog?filter=${encodeURIComponent('expert:"Jorun Pell"')}`);
    await head.read('booking.lost_property');
    await head.goTo(`/assets/${table}`);
    await head.press('I know it no longer');
    await head.read('You stand here no longer.');
    expect((await caller.call('GET', `/assets/${table}`)).body.experts).toEqual([]);
  });

  it('change of a description is put back from the history, and taken back again', async () => {
    const { description } = (await caller.call('GET', `/assets/${table}`)).body as { description: string | null };
    await put({ description: `First ${mark}` });
    await put({ description: `Second ${mark}` });
    await head.goTo(`/assets/${table}`);
    await head.read(`Second ${mark}`);
    await head.retry(async () =>
      (await head.xpath(`//tr[contains(., "Second ${mark}")]//button[normalize-space()="Put back"]`)).click(),
    );
    await head.read('The description is as it was before.');
    const now = async () => (await caller.call('GET', `/assets/${table}`)).body.description as string;
    await driver.wait(async () => (await now()) === `First ${mark}`, PATIENCE, 'it is not put back');
    await head.press('Undo');
    await driver.wait(async () => (await now()) === `Second ${mark}`, PATIENCE, 'it is not taken back');
    await put({ description });
  });
});

it('people are taken in from a file, after what would change was shown', async () => {
  const file = join(tmpdir(), `people-${mark}.csv`);
  writeFileSync(
    file,
    `e-mail,name,job,groups\nliv.${mark}@tarnholm.example,Liv ${mark},quay,Port partner\ndag.${mark}@tarnholm.example,Dag ${mark},quay,Port partners\n`,
  );
  await head.signInAs('Jorun Pell');
  await head.goTo('/settings/people');
  await head.press('File');
  await (await head.see('input[type=file]')).sendKeys(file);
  await head.read('2 people new, 0 changed, 0 the same.');
  await head.read('Is “Port partners” meant?');
  await (await head.see(`input[aria-label="Take Liv ${mark}"]`)).click();
  expect(await head.axe()).toEqual([]);
  await head.press('Take in 1 person');
  await head.read('1 person taken in, 0 changed.');
  const names = ((await caller.call('GET', '/people')).body as { name: string }[]).map(({ name }) => name);
  expect([names.includes(`Dag ${mark}`), names.includes(`Liv ${mark}`)]).toEqual([true, false]);
});

it('domains are made, given an owner, moved after whose rights change was shown, and removed', async () => {
  const name = `Ports ${mark}`;
  await head.goTo('/settings/domains');
  await head.press('New domain');
  await head.fill('Name', name);
  await head.fill('Purpose', 'Where ships call.');
  await head.choose('Owner', 'Tobias Marrow');
  await head.choose('Lies in', 'Travel');
  await head.press('Save domain');
  await head.read(`${name} is saved.`);
  await head.read('Nothing that you may see.');
  await head.choose('Lies in', 'Commerce');
  await head.read(`The rights of 3 people change in ${name} and below.`);
  await head.read('is editor and policy administrator no more');
  expect(await head.axe()).toEqual([]);
  await head.press('Save and move');
  await driver.wait(
    async () => {
      const domains = (await caller.call('GET', '/domains')).body as DomainAnswer[];
      const parent = domains.find((domain) => domain.name === name)?.parentId;
      return domains.find(({ id }) => id === parent)?.name === 'Commerce';
    },
    PATIENCE,
    'the domain was not moved',
  );
  await head.read('Travel');
  await head.press('Remove');
  await head.read(`${name} is removed.`);
});

describe('signing in', () => {
  const out = async () => {
    await driver.manage().deleteAllCookies();
    await driver.executeScript('sessionStorage.clear()');
  };
  const mailbox = async () =>
    ((await (await fetch(`${ADDRESS}/api/v1/session`)).json()) as { ways: { mailbox: string } }).ways.mailbox;

  it('by the identity provider one comes back to the view that was asked for; who is not known here is told what to do', async () => {
    await out();
    await head.goTo('/glossary');
    await head.read('Sign in with Harbour Pass');
    expect(await head.axe()).toEqual([]);
    await (await head.xpath('//a[contains(., "Harbour Pass")]')).click();
    await (await head.xpath('//button[normalize-space()="Emrys Strand"]')).click();
    await head.see('.shell');
    expect(await driver.getCurrentUrl()).toBe(`${ADDRESS}/glossary`);
    await head.read('Emrys Strand');
    await out();
    // The provider forgets as well who was there.
    await driver.get(await mailbox());
    await driver.manage().deleteAllCookies();
    await head.goTo('/');
    await (await head.xpath('//a[contains(., "Harbour Pass")]')).click();
    await (await head.xpath('//button[normalize-space()="Ivo Lenz"]')).click();
    await head.read('nobody in Idrel has your e-mail address');
  });

  it('a password is set by a link from the mailbox, changed in Settings, and taken at the next sign-in', async () => {
    const email = `tyra.${mark}@tarnholm.example`;
    const body = {
      name: `Tyra Holm ${mark}`,
      email,
      job: '',
      groupIds: [],
      grants: [{ role: 'reader', domainId: null }],
    };
    expect((await caller.call('POST', '/people', body)).status).toBe(200);
    await out();
    await head.goTo('/');
    await head.press('Forgotten, or none yet');
    await head.fill('E-mail', email);
    await head.press('Send a link');
    await head.read('a link is on its way');
    await driver.get(`${await mailbox()}?to=${encodeURIComponent(email)}`);
    await driver.wait(
      async () => {
        if ((await head.text()).includes('set-password')) return true;
        await driver.navigate().refresh();
        return false;
      },
      PATIENCE,
      'no mail came',
    );
    await (await head.xpath('//a[contains(., "set-password")]')).click();
    await head.fill('New password', 'password1234');
    await head.press('Set the password');
    await head.read('It is among the passwords that are tried first.');
    expect(await head.axe()).toEqual([]);
    await head.fill('New password', `lantern ${mark} heron quay`);
    await head.press('Set the password');
    await head.read('The password is set');
    await (await head.xpath('//a[normalize-space()="Sign in with it"]')).click();
    await head.read('Sign in with Harbour Pass');
    await head.read(email);
    await head.fill('Password', `lantern ${mark} heron quay`);
    await head.press('Sign in');
    await head.see('.shell');
    await head.goTo('/settings');
    await head.fill('Password now', `lantern ${mark} heron quay`);
    await head.fill('New password', `lantern ${mark} heron mole`);
    await head.press('Change it');
    await head.read('Your password is changed');
    await out();
    await head.goTo('/');
    await head.fill('E-mail', email);
    await head.fill('Password', `lantern ${mark} heron quay`);
    await head.press('Sign in');
    await head.read('E-mail or password is not right.');
    await head.fill('Password', `lantern ${mark} heron mole`);
    await head.press('Sign in');
    await head.see('.shell');
  });
});
