import { By, Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Caller } from '../server/test/running/caller.ts';
import { openBrowser, PATIENCE, Person } from './browser.ts';

const mark = process.pid;
const NAME = `hatch_${mark}`;
let driver: WebDriver;
let steward: Person;
let other: Caller;
let table = '';
let column = '';

beforeAll(async () => {
  driver = await openBrowser();
  steward = new Person(driver);
  await steward.signInAs('Sunniva Dahlmark');
  other = await new Caller().as('Jorun Pell');
  const [domain] = (await other.call('GET', '/domains')).body;
  const source = await other.call('POST', '/sources', {
    name: `Deck book ${mark}`,
    kind: 'pushed',
    address: { system: 'Deck book' },
    domainId: domain.id,
    credentialId: null,
    agentGroup: null,
    description: '',
  });
  await other.call('POST', `/sources/${source.body.id}/push`, {
    whole: true,
    assets: [
      { path: ['deck'], kind: 'schema' },
      { path: ['deck', NAME], kind: 'table' },
      { path: ['deck', `hold_${mark}`], kind: 'table' },
      { path: ['deck', `hold_${mark}`, `qzcleat${mark}`], kind: 'column', type: 'text' },
      { path: ['deck', `rail_${mark}`], kind: 'table' },
      { path: ['deck', `rail_${mark}`, `qzcleat${mark}`], kind: 'column', type: 'text' },
    ],
  });
  const idOf = async (filter: string) =>
    (await other.call('GET', `/assets?filter=${encodeURIComponent(filter)}`)).body.items[0].id as string;
  table = await idOf(`kind:table name:${NAME}`);
  column = await idOf('kind:column name:date_of_birth source:"Booking system"');
});
afterAll(() => driver?.quit());

const until = (met: () => Promise<boolean>, what: string) => driver.wait(met, PATIENCE, what);
/** The field for a long text, in which one types as on paper. */
const paper = async (...keys: string[]) => {
  const field = await steward.see('.ProseMirror');
  await field.sendKeys(...keys);
};
/** Types at the beginning of the text. */
const first = async (text: string) => {
  // It takes the focus by itself when it is there, and puts the caret at its end.
  await steward.see('.ProseMirror-focused');
  await driver.sleep(300);
  await paper(Key.chord(Key.CONTROL, Key.HOME), text);
};
const guide = async () => (await other.call('GET', `/assets/${table}/guide`)).body as { text: string; version: number };
const saveOther = async (text: string) => {
  const { version } = await guide();
  const saved = await other.call('PUT', `/assets/${table}/guide`, { text }, { 'if-match': `"v${version}"` });
  expect(saved.status).toBe(200);
};
const open = async (section: string) => {
  await steward.goTo(`/assets/${table}`);
  await steward.see(`#${section} button`);
  await driver.executeScript('document.getElementById(arguments[0]).scrollIntoView()', section);
};

describe('a guide', () => {
  it('begins with the questions of its kind, mentions people and assets, and is found by its words', async () => {
    await open('guide');
    await steward.press('Write a guide');
    await steward.read('What to look out for');
    await paper(`Money given back, code qzrefund${mark}. Ask @rafe`);
    await steward.read('data engineer');
    expect(await steward.axe()).toEqual([]);
    await paper(Key.ENTER, 'about @booking.payment');
    await until(
      async () => (await driver.findElements(By.css('.mention-offer [aria-selected=true] .mono'))).length > 0,
      'nothing is offered to be mentioned',
    );
    await paper(Key.ENTER, '.');
    await steward.press('Save');
    await steward.read('The guide is saved.');
    await steward.read('One version');
    const link = await steward.see('#guide a.mention.of-asset');
    expect(await link.getText()).toBe('booking.payment');
    expect((await guide()).text).toContain('[Rafe Quillon](idrel:person/');
    expect(await steward.axe()).toEqual([]);
    await steward.goTo(`/catalog?filter=${encodeURIComponent(`"qzrefund${mark}"`)}`);
    await steward.read(NAME);
  });

  it('that two write in at once shows the other, and puts changes of other paragraphs together', async () => {
    await saveOther('First paragraph.\n\nSecond paragraph.\n\nThird paragraph.');
    await open('guide');
    await steward.press('Change the guide');
    await steward.read('Third paragraph.');
    await first('Mine: ');
    await other.call('PUT', `/assets/${table}/guide/here`, { writing: true });
    await steward.read('Jorun Pell is writing here, too.');
    await saveOther('First paragraph.\n\nSecond paragraph.\n\nTheirs: third paragraph.');
    await steward.press('Save');
    await steward.read('both changes are in it now');
    await steward.press('Save');
    await steward.read('The guide is saved.');
    expect((await guide()).text).toBe('Mine: First paragraph.\n\nSecond paragraph.\n\nTheirs: third paragraph.');
  });

  it('that two change in the same paragraph shows both sides, and loses neither; a draft outlives the page', async () => {
    await saveOther('One paragraph.\n\nAnother.');
    await open('guide');
    await steward.press('Change the guide');
    await first('Mine: ');
    await steward.goTo('/sources');
    await steward.read('Booking system');
    await saveOther('Theirs: one paragraph.\n\nAnother, theirs.');
    await open('guide');
    await steward.press('Go on writing');
    await steward.read('Somebody else changed 1 paragraph that you changed, too.');
    await steward.read('Mine: One paragraph.');
    expect(await steward.axe()).toEqual([]);
    const both = await steward.see('input[type=radio][value=both]');
    await driver.executeScript('arguments[0].click()', both);
    await steward.press('Go on with these');
    await steward.press('Save');
    await steward.read('The guide is saved.');
    expect((await guide()).text).toBe('Theirs: one paragraph.\n\nMine: One paragraph.\n\nAnother, theirs.');
  });

  it('shows how its versions differ, and brings one back', async () => {
    await open('guide');
    await steward.retry(async () => (await steward.xpath('//button[contains(., " versions")]')).click());
    await steward.read('Compared with');
    expect(await (await steward.see('.differences ins')).getText()).toContain('Mine: One paragraph.');
    expect(await steward.axe()).toEqual([]);
    const { version } = await guide();
    await steward.choose('Version', `${version - 1} · Jorun Pell`);
    await steward.press(`Bring version ${version - 1} back`);
    await steward.read(`Version ${version - 1} stands again.`);
    expect((await guide()).text).toBe('Theirs: one paragraph.\n\nAnother, theirs.');
    await steward.press('Undo');
    await until(async () => (await guide()).text.includes('Mine: One'), 'it is not taken back');
  });

  it('that is only looked at in its field is not changed by that, however it was written', async () => {
    const odd = '* one\n* two\n\n| a | b |\n|-|-|\n| 1 | 2 |\n\nEnd';
    const before = (await guide()).text;
    await saveOther(odd);
    await open('guide');
    await steward.press('Change the guide');
    await steward.see('.ProseMirror-focused');
    await driver.sleep(500);
    await paper(Key.ESCAPE);
    await steward.read('Change the guide');
    expect(await steward.text()).not.toContain('unsaved text');
    await steward.press('Change the guide');
    await steward.see('.ProseMirror-focused');
    await paper('x', Key.BACK_SPACE);
    await steward.press('Save');
    await steward.read('Change the guide');
    expect((await guide()).text).toBe(odd);
    await saveOther(before);
  });
});

describe('a question', () => {
  it('reaches who answers for the asset, is answered on the worklist, settled, and put into the guide', async () => {
    await open('discussion');
    const people = (await other.call('GET', '/people')).body as { id: string; name: string }[];
    const me = people.find(({ name }) => name === 'Sunniva Dahlmark')?.id;
    const { version, owners } = (await other.call('GET', `/assets/${table}`)).body;
    await other.call('PATCH', `/assets/${table}`, { ownerIds: [me] }, { 'if-match': `"v${version}"` });
    const asker = await new Caller().as('Bettina Sark');
    const asked = await asker.call('POST', `/assets/${table}/discussions`, {
      question: true,
      text: `Are **refunds** of qzcard${mark} in it?`,
    });
    expect(asked.status).toBe(200);
    await steward.goTo('/worklist?kind=discussion');
    await steward.retry(async () => (await steward.xpath(`//button[contains(., "${NAME}")]`)).click());
    await steward.read(`A question about ${NAME}`);
    await steward.read(`Are refunds of qzcard${mark} in it?`);
    await steward.press('Answer');
    await paper(`Yes, since version ${mark}.`);
    await steward.press('Say it');
    await steward.read('This answers it');
    expect(await steward.axe()).toEqual([]);
    await steward.press('This answers it');
    await steward.read('Settled.');
    await until(
      async () => !(await steward.text()).includes(`qzcard${mark}`),
      'what is settled still stands on the worklist',
    );
    await open('discussion');
    await steward.press('1 discussion settled');
    await steward.read('the answer');
    await driver.executeScript(
      "[...document.querySelectorAll('.remark.answer button')].find((button) => button.textContent === 'Put it into the guide').click()",
    );
    await steward.read('It stands at the end of the guide now.');
    expect((await guide()).text).toContain(`Yes, since version ${mark}.`);
    const now = (await other.call('GET', `/assets/${table}`)).body;
    await other.call(
      'PATCH',
      `/assets/${table}`,
      { ownerIds: owners.map(({ id }: { id: string }) => id) },
      { 'if-match': `"v${now.version}"` },
    );
  });

  it('is kept as it was typed until it is asked, and taken away and brought back', async () => {
    await open('discussion');
    await steward.press('Ask something');
    await paper(`Who fills qzfill${mark}?`);
    await steward.goTo('/sources');
    await steward.read('Booking system');
    await open('discussion');
    await steward.press('Ask something');
    await steward.read(`Who fills qzfill${mark}?`);
    await steward.press('Ask');
    await steward.read('It waits on the worklist of those who answer for it.');
    await steward.press('Take away');
    await steward.read('The remark is taken away.');
    // The history goes on telling that it was asked.
    const said = () => driver.executeScript<string>("return document.getElementById('discussion').innerText");
    await until(async () => !(await said()).includes(`qzfill${mark}`), 'it still stands there');
    await steward.press('Undo');
    await until(async () => (await said()).includes(`Who fills qzfill${mark}?`), 'it is not brought back');
  });
});

it('rows are read as the policies say for who looks: some columns masked, some refused', async () => {
  const people = (await other.call('GET', '/people')).body as { id: string; name: string }[];
  const me = people.find(({ name }) => name === 'Sunniva Dahlmark')?.id;
  const { parentId } = (await other.call('GET', `/assets/${column}`)).body;
  await steward.goTo(`/assets/${parentId}`);
  await steward.press('Read some rows');
  await steward.read('You may read nothing of it: no policy allows it.');
  const made: string[] = [];
  for (const body of [
    { effect: 'allow', assetIds: [parentId], columns: ['id', 'date_of_birth', 'town'] },
    { effect: 'protect', assetIds: [column], mask: { kind: 'general', to: 'year', step: null } },
  ]) {
    const policy = await other.call('POST', '/policies', {
      name: `Rows ${mark} ${body.effect}`,
      personIds: [me],
      ...body,
    });
    expect([policy.status, policy.body.detail]).toEqual([200, undefined]);
    made.push(policy.body.id);
  }
  await steward.press('Read them again');
  await steward.read('20 rows in');
  const heads = await driver.executeScript<string[]>(
    "return [...document.querySelectorAll('#rows th')].map((head) => head.innerText.replace(/\\s+/g, ' '))",
  );
  expect(heads.map((head) => head.split(' ')[0])).toEqual(['id', 'date_of_birth', 'town']);
  const born = await driver.executeScript<string[]>(
    "return [...document.querySelectorAll('#rows tbody tr')].map((row) => row.children[1].innerText)",
  );
  expect(born).toHaveLength(20);
  // Of some no day is known.
  expect(born.filter((text) => !/^(\d{4}|null)$/.test(text))).toEqual([]);
  expect(born.some((text) => text !== 'null')).toBe(true);
  await steward.read('not for you: given_name, family_name');
  expect(await steward.axe()).toEqual([]);
  for (const id of made) await other.call('DELETE', `/policies/${id}`);
});

it('what nobody has said yet is suggested by what others say, taken by a key, taken back, and refused for good', async () => {
  const idOf = async (filter: string) =>
    (await other.call('GET', `/assets?filter=${encodeURIComponent(filter)}`)).body.items[0].id as string;
  const said = await idOf(`kind:column name:qzcleat${mark} under:hold_${mark}`);
  const silent = await idOf(`kind:column name:qzcleat${mark} under:rail_${mark}`);
  const describe = { description: `Where lines are made fast, ${mark}` };
  const { version } = (await other.call('GET', `/assets/${said}`)).body;
  expect((await other.call('PATCH', `/assets/${said}`, describe, { 'if-match': `"v${version}"` })).status).toBe(200);
  await steward.goTo(`/assets/${await idOf(`kind:table name:rail_${mark}`)}`);
  await steward.read('1 suggestion for what nobody has said yet');
  await steward.read('the one other column of its name says so');
  expect(await steward.axe()).toEqual([]);
  const now = async () => (await other.call('GET', `/assets/${silent}`)).body.description as string | null;
  await driver.executeScript('document.activeElement.blur()');
  await steward.key('t');
  await steward.read('1 suggestion taken.');
  expect(await now()).toBe(describe.description);
  await steward.press('Undo');
  await until(async () => (await now()) === null, 'it is not taken back');
  await steward.read('1 suggestion for what nobody has said yet');
  await driver.executeScript('document.activeElement.blur()');
  await steward.key('r');
  await steward.read('Refused. It does not come back.');
  await driver.navigate().refresh();
  await steward.read('Write what it means');
  expect(await steward.text()).not.toContain('1 suggestion for');
});
