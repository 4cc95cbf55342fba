import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { By, Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, PATIENCE, Person } from './browser.ts';

const mark = process.pid;
const SOURCE = `Slip book ${mark}`;
const folder = mkdtempSync(join(tmpdir(), 'idrel-glossary-'));
let driver: WebDriver;
let steward: Person;
let term = '';

beforeAll(async () => {
  driver = await openBrowser();
  steward = new Person(driver);
  await steward.signInAs('Sunniva Dahlmark');
  const [domain] = await steward.call<{ id: string }[]>('/domains');
  const { id } = await steward.send<{ id: string }>('POST', '/sources', {
    name: SOURCE,
    kind: 'pushed',
    address: { system: 'Slip book' },
    domainId: domain?.id,
    credentialId: null,
    agentGroup: null,
    description: '',
  });
  await steward.send('POST', `/sources/${id}/push`, {
    whole: true,
    assets: [
      { path: ['slips'], kind: 'schema' },
      { path: ['slips', `qzslipway_${mark}`], kind: 'table' },
      { path: ['slips', 'hauling'], kind: 'table' },
    ],
  });
});
afterAll(async () => {
  await driver?.quit();
  rmSync(folder, { recursive: true });
});

const until = (met: () => Promise<boolean>, what: string) => driver.wait(met, PATIENCE, what);
const calm = () => driver.executeScript('document.activeElement.blur()');
const inCatalog = async (filter: string, ...names: string[]) => {
  await steward.goTo(`/catalog?filter=${encodeURIComponent(filter)}`);
  for (const name of names) await steward.read(name);
};
const lines = () =>
  driver.executeScript<string[]>(
    "return [...document.querySelectorAll('ul[aria-label=Glossary] .node')].map((line) => line.querySelector('.grow').innerText)",
  );
const bring = async (name: string, content: string) => {
  writeFileSync(join(folder, name), content);
  await steward.read('Terms from a file');
  await steward.retry(async () => (await steward.see('input[type=file]')).sendKeys(join(folder, name)));
};

describe('the glossary', () => {
  it('a term is made with other names; what is called one way is found by the others, also with a slip', async () => {
    await steward.goTo('/glossary?term=new');
    await steward.fill('Name', `Qzrampart${mark}`);
    await steward.fill('Definition', 'A ramp on which boats are hauled out.');
    await (await steward.field('Other names')).sendKeys(`Qzslipway ${mark}`);
    await (await steward.field('Hidden names')).sendKeys(`qzsl${mark}`);
    await steward.fill('Scope note', 'Not the ramp of a ferry.');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Save term');
    await steward.read(`“Qzrampart${mark}” is saved.`);
    await steward.read('Assets that look like it');
    await steward.read(`qzslipway_${mark}`);
    term = new URL(await driver.getCurrentUrl()).searchParams.get('term') ?? '';
    expect(await steward.axe()).toEqual([]);
    // What the name says is found by the term, and the way it was read is told.
    await inCatalog(`qzrampart${mark}`, `qzslipway_${mark}`, 'what the glossary calls the same');
    await inCatalog(`qzrampatr${mark} kind:table`, `qzslipway_${mark}`, 'Nothing is found by');
  });

  it('is given to assets from the side of the term', async () => {
    await steward.goTo(`/glossary?term=${term}`);
    await steward.press('Find others and add them');
    await steward.read('Choose what it is for (add the term)');
    await steward.goTo(`/catalog?filter=${encodeURIComponent(`source:"${SOURCE}" kind:table`)}&give=term:${term}`);
    await steward.read('hauling');
    await steward.read('2 assets');
    await calm();
    await steward.shift('x');
    await steward.read('2 chosen');
    await steward.key('c');
    await steward.read('Change 2 assets');
    await steward.xpath('//*[@role="status"][contains(., "would change")]');
    await steward.press('Change 2 assets');
    await until(
      async () => (await steward.call<{ assets: number }>(`/terms/${term}`)).assets === 2,
      'the term is not carried',
    );
    // Now each of its labels finds what carries it.
    await inCatalog(`"qzsl${mark}"`, 'hauling');
  });

  it('terms come from a file as they were seen, but those that are left', async () => {
    await steward.goTo('/glossary?show=import');
    await bring(
      'terms.csv',
      `name,definition,broader\nQzrampart${mark},A ramp for boats.,\nQzcradle${mark},Carries a boat on the ramp.,Qzrampart${mark}\nQzwinch${mark},Pulls it.,Qzrampatr${mark}\n`,
    );
    await steward.read('2 terms new, 1 changed');
    await steward.read(`Is “Qzrampart${mark}” meant?`);
    await steward.read('A ramp on which boats are hauled out.');
    expect(await steward.axe()).toEqual([]);
    await steward.retry(async () =>
      (await driver.findElement(By.css(`input[aria-label="Take the change of Qzrampart${mark}"]`))).click(),
    );
    await steward.press('Take in 2 terms');
    await steward.read('2 terms taken in, 0 changed.');
    const known = await steward.call<{ definition: string; narrower: { name: string }[] }>(`/terms/${term}`);
    expect(known.definition).toBe('A ramp on which boats are hauled out.');
    expect(known.narrower.map(({ name }) => name)).toEqual([`Qzcradle${mark}`]);
  });

  it('SKOS comes with its scheme; what it says of another vocabulary stays', async () => {
    await steward.goTo('/glossary?show=import');
    await bring('broken.ttl', '@prefix skos: <http://www.w3.org/2004/02/skos/core#> .\n<urn:a> skos:prefLabel "open .');
    await steward.read('The file is no Turtle');
    await bring(
      'yard.ttl',
      `@prefix skos: <http://www.w3.org/2004/02/skos/core#> . @prefix y: <https://example.org/yard/${mark}/> .
y:yard a skos:ConceptScheme ; skos:prefLabel "Yard ${mark}"@en .
y:dock a skos:Concept ; skos:inScheme y:yard ; skos:prefLabel "Qzdock${mark}"@en, "Qzbecken${mark}"@de ; skos:definition "Where ships are mended."@en ; skos:narrower y:dry .
y:dry a skos:Concept ; skos:inScheme y:yard ; skos:prefLabel "Qzdry dock ${mark}"@en ; skos:exactMatch <https://example.org/other/7> .
`,
    );
    await steward.read('2 terms new, 0 changed');
    await steward.read(`new schemes: Yard ${mark}`);
    await steward.press('Take in 2 terms');
    await steward.read('2 terms taken in');
    await steward.choose('Scheme', `Yard ${mark}`, '');
    await until(async () => (await lines()).join() === `Qzdock${mark},Qzdry dock ${mark}`, 'the scheme is not shown');
  });

  it('is gone through by keys: opened, closed, down and up', async () => {
    await calm();
    await steward.key('j');
    await steward.read('Around it');
    await steward.key('h');
    await until(async () => (await lines()).length === 1, 'it does not close');
    await steward.key('l');
    await until(async () => (await lines()).length === 2, 'it does not open');
    await steward.key('j');
    await until(
      () =>
        driver.executeScript<boolean>(
          'return [...document.querySelectorAll("input")].some((field) => field.value === arguments[0])',
          `Qzdry dock ${mark}`,
        ),
      'the next term is not shown',
    );
    await steward.read('https://example.org/other/7');
    // Found by its label in another language, and by what it is called there.
    await steward.fill('Search terms', `qzbeck`);
    await steward.read(`Qzdock${mark} Qzbecken${mark}`);
  });

  it('who does not agree to the terms of a scheme proposes; its owner agrees', async () => {
    const schemes = await steward.call<{ id: string; name: string; version: number }[]>('/schemes');
    const yard = schemes.find(({ name }) => name === `Yard ${mark}`);
    const [dock] = (await steward.call<{ items: { id: string }[] }>(`/terms?search=qzdock${mark}`)).items;
    const colleague = new Person(await openBrowser());
    try {
      await colleague.signInAs('Tobias Marrow');
      await colleague.goTo(`/glossary?scheme=${yard?.id}&term=${dock?.id}`);
      await colleague.fill('Definition', 'Where ships are built and mended.');
      await colleague.choose('Status', 'proposed', '');
      await colleague.press('Save term');
      await colleague.read('is saved');
      await colleague.read('proposed');
    } finally {
      await colleague.driver.quit();
    }
    await steward.goTo(`/glossary?term=${dock?.id}`);
    await steward.read('Where ships are built and mended.');
    await steward.choose('Status', 'agreed', '');
    await steward.press('Save term');
    await until(
      async () => (await steward.call<{ status: string }>(`/terms/${dock?.id}`)).status === 'agreed',
      'it is not agreed to',
    );
  });

  it('what is amiss is told, with the way to it; a term that is removed comes back', async () => {
    const twin = await steward.send<{ id: string }>('POST', '/terms', {
      name: `Qzwinch ${mark}`,
      labels: [{ kind: 'alternative', language: 'en', text: `Qzwinch${mark}` }],
    });
    await steward.goTo('/glossary?show=conflicts');
    await steward.read('Two terms are called the same');
    expect(await steward.axe()).toEqual([]);
    await steward.press(`Qzwinch ${mark}`);
    await steward.read('Around it');
    await steward.press('Remove');
    await steward.read(`“Qzwinch ${mark}” is removed.`);
    await steward.press('Undo');
    await until(
      async () => (await steward.call<{ name?: string }>(`/terms/${twin.id}`)).name === `Qzwinch ${mark}`,
      'it does not come back',
    );
  });
});

/** A table of the pushed source, by its name. */
const tableOf = async (name: string) => {
  const { items } = await steward.call<{ items: { id: string; name: string; version: number }[] }>(
    `/assets?filter=${encodeURIComponent(`source:"${SOURCE}" kind:table`)}`,
  );
  return items.find((item) => item.name === name) ?? { id: '', name, version: 0 };
};

describe('a notice', () => {
  it('is attached where the asset stands, shown wherever it is shown, and ended', async () => {
    const { id } = await tableOf('hauling');
    await steward.goTo(`/assets/${id}`);
    await steward.press('Add a notice');
    await steward.fill('What is to be known', 'Hauled twice in March.');
    await steward.choose('Kind of notice', 'stop', '');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Save notice');
    await steward.read('The stop is saved.');
    await steward.read('Hauled twice in March.');
    await inCatalog(`source:"${SOURCE}" notice:stop`, 'hauling');
    await steward.see('[role=row] .mark.is-stop');
    expect(await steward.axe()).toEqual([]);
    await steward.goTo(`/catalog?asset=${id}`);
    await steward.read('Hauled twice in March.');
    await steward.press('End it');
    await steward.read('The stop is over.');
    await until(
      async () =>
        (await steward.call<{ total: number }>(`/assets?filter=${encodeURIComponent(`source:"${SOURCE}" notice:any`)}`))
          .total === 0,
      'it holds still',
    );
    await steward.press('Undo');
    await until(
      async () =>
        (
          await steward.call<{ total: number }>(
            `/assets?filter=${encodeURIComponent(`source:"${SOURCE}" notice:stop`)}`,
          )
        ).total === 1,
      'it does not come back',
    );
  });
});

describe('certifying', () => {
  it('waits until all is so that is asked, names who and until when', async () => {
    const { id } = await tableOf('hauling');
    await steward.goTo(`/assets/${id}`);
    await steward.read('Open before it is trusted');
    await steward.choose('Standing', 'trusted', '');
    await steward.read('It is described');
    await steward.read('Could be done by');
    expect(await steward.axe()).toEqual([]);
    expect(
      await driver.executeScript<boolean[]>(
        'return [...document.querySelectorAll("button")].filter((one) => one.innerText === "Certify").map((one) => one.disabled)',
      ),
    ).toEqual([true]);
    await steward.press('Leave it');
    const { version } = await tableOf('hauling');
    const people = await steward.call<{ id: string; name: string }[]>('/people');
    const sunniva = people.find(({ name }) => name === 'Sunniva Dahlmark')?.id;
    await steward.send(
      'PATCH',
      `/assets/${id}`,
      { description: 'When boats were hauled.', ownerIds: [sunniva] },
      version,
    );
    await steward.goTo(`/assets/${id}`);
    await steward.choose('Standing', 'trusted', '');
    await steward.press('Certify');
    await steward.read('certified by Sunniva Dahlmark');
    await steward.press('Undo');
    await until(
      async () => (await steward.call<{ standing: string }>(`/assets/${id}`)).standing === 'unreviewed',
      'it is not taken back',
    );
    await steward.goTo(`/assets/${id}`);
    await steward.choose('Standing', 'trusted', '');
    await steward.press('Certify');
    await steward.read('certified by Sunniva Dahlmark');
    expect((await steward.call<{ standing: string }>(`/assets/${id}`)).standing).toBe('trusted');
  });

  it('lapses with the reason, onto the worklist, when something is not so any more', async () => {
    const { id, version } = await tableOf('hauling');
    await steward.send('PATCH', `/assets/${id}`, { ownerIds: [] }, version);
    await until(
      async () => (await steward.call<{ standing: string }>(`/assets/${id}`)).standing === 'reviewed',
      'it does not lapse',
    );
    await steward.goTo('/worklist?kind=lapsed');
    await steward.read('no longer trusted: owned');
    await steward.retry(async () =>
      (await steward.xpath('//ul[@aria-label="Items"]//button[contains(., "hauling")]')).click(),
    );
    await steward.read('Sunniva Dahlmark had certified it.');
    expect(await steward.axe()).toEqual([]);
    await steward.press('See to it');
    await steward.read('No longer trusted since');
  });

  it('what is retiring names what takes its place', async () => {
    const { id } = await tableOf('hauling');
    await steward.goTo(`/assets/${id}`);
    await steward.choose('Standing', 'retiring', '');
    await steward.choose('Instead', `qzslipway_${mark}`);
    expect(await steward.axe()).toEqual([]);
    await steward.press('Retire it');
    await steward.read('instead.');
    expect(
      (await steward.call<{ retirement: { replacement: { path: string } } }>(`/assets/${id}/standing`)).retirement
        .replacement.path,
    ).toContain(`qzslipway_${mark}`);
  });
});

describe('what an asset holds', () => {
  const meanings = () =>
    driver.executeScript<string[]>(
      "return [...document.querySelectorAll('.contents-list [data-at]')].map((cell) => cell.innerText.trim())",
    );
  const focused = () => driver.executeScript<string>('return document.activeElement.getAttribute("aria-label") ?? ""');
  /** As a spreadsheet puts cells into the clipboard. */
  const paste = (text: string) =>
    driver.executeScript(
      "const data = new DataTransfer(); data.setData('text/plain', arguments[0]); document.activeElement.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))",
      text,
    );

  it('is described where it stands, by keys alone; texts of a spreadsheet are placed by name, and taken back', async () => {
    const push = await steward.call<{ id: string; name: string }[]>('/sources');
    const source = push.find(({ name }) => name === SOURCE)?.id;
    await steward.send('POST', `/sources/${source}/push`, {
      whole: false,
      assets: [
        { path: ['slips', `gauges_${mark}`], kind: 'table' },
        ...['place', 'height', 'read_at'].map((name) => ({
          path: ['slips', `gauges_${mark}`, name],
          kind: 'column',
          type: 'text',
        })),
      ],
    });
    const found = await steward.call<{ items: { id: string }[] }>(
      `/assets?filter=${encodeURIComponent(`kind:table name:gauges_${mark}`)}`,
    );
    await steward.goTo(`/assets/${found.items[0]?.id}`);
    await steward.see('.contents-list [data-at="0"]');
    await driver.executeScript('document.querySelector(\'.contents-list [data-at="0"]\').focus()');
    await steward.key(Key.ARROW_DOWN);
    await until(async () => (await focused()).startsWith('Meaning of height'), 'the next meaning has the keyboard');
    // The first letter begins the text, also one that is a key of the page.
    await steward.key('r');
    await until(async () => (await focused()) === 'Meaning of height', 'the field is open');
    await steward.key('ises over zero');
    await steward.key(Key.ENTER);
    await until(async () => (await focused()).startsWith('Meaning of read_at'), 'it goes on below');
    await until(async () => (await meanings())[1] === 'rises over zero', 'it is saved');

    await paste('read_at\tWhen it was read\nheight\tIn metres\nnowhere\tx');
    await steward.read(
      '2 texts by the names before them; 1 of them replaces what stands there. No place for: nowhere.',
    );
    expect(await steward.axe()).toEqual([]);
    await steward.press('Write 2 meanings');
    await steward.read('2 meanings written');
    await until(async () => (await meanings()).join('|') === '|In metres|When it was read', 'they are written');
    await (
      await steward.xpath(
        '//*[contains(text(), "2 meanings written")]/ancestor::*[.//button][1]//button[normalize-space()="Undo"]',
      )
    ).click();
    await until(async () => (await meanings()).join('|') === '|rises over zero|', 'they are as they were');
  });
});

describe('parts of a source', () => {
  const assetOf = async (filter: string) => {
    const { items } = await steward.call<{ items: { id: string; domain: string; classes: string[] }[] }>(
      `/assets?filter=${encodeURIComponent(filter)}`,
    );
    return items[0] ?? { id: '', domain: '', classes: [] };
  };
  const table = `kind:table name:moored_${mark}`;
  beforeAll(async () => {
    const sources = await steward.call<{ id: string; name: string }[]>('/sources');
    const source = sources.find(({ name }) => name === SOURCE);
    await steward.send('POST', `/sources/${source?.id}/push`, {
      assets: [
        { path: ['slips', `moored_${mark}`], kind: 'table' },
        { path: ['slips', `moored_${mark}`, 'berth_mail'], kind: 'column', type: 'text' },
        { path: ['slips', `moored_${mark}`, 'crew_mail'], kind: 'column', type: 'text' },
      ],
    });
  });

  it('move into another domain with what lies in them, after whose rights change was shown, and back', async () => {
    const { id, domain } = await assetOf(`kind:schema name:slips source:"${SOURCE}"`);
    await steward.goTo(`/assets/${id}`);
    await steward.press('Edit Domain');
    await steward.choose('Domain', 'Crewing');
    await steward.read('becomes steward');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Move');
    await steward.read('chosen for it, not that of what holds it');
    expect((await assetOf(table)).domain).toBe('Crewing');
    const crewing = (await steward.call<{ id: string; name: string }[]>('/domains')).find(
      ({ name }) => name === 'Crewing',
    );
    const below = await steward.call<{ name: string }[]>(`/tree?by=domain&parent=${crewing?.id}&parentType=domain`);
    expect(below.map(({ name }) => name)).toContain(`slips (${SOURCE})`);
    await steward.goTo(`/assets/${id}`);
    await steward.press('Edit Domain');
    await steward.choose('Domain', 'that of what holds it');
    await steward.read('no more');
    await steward.press('Move');
    await until(async () => (await assetOf(table)).domain === domain, 'it did not come back');
  });

  it('carry a class that is confirmed in many columns at once, until that is taken back', async () => {
    await inCatalog(`kind:column under:moored_${mark}`, 'berth_mail', 'crew_mail');
    await calm();
    await steward.shift('x');
    await steward.read('2 chosen');
    await steward.key('c');
    await steward.choose('What to do', 'confirm the class');
    await steward.choose('Class', 'E-mail address');
    await steward.fill('Reason', 'Seen in the form.');
    await steward.read('2 would change');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Change 2 assets');
    await steward.read('With class: E-mail address: Seen in the form.: 2 assets changed.');
    expect((await assetOf(table)).classes).toEqual(['email']);
    await steward.press('Undo');
    await until(async () => (await assetOf(table)).classes.length === 0, 'it was not taken back');
  });

  it('carry classes whose meaning a term says, from either side', async () => {
    await steward.goTo('/recognition?show=classes&class=email');
    await steward.read('What it means in the glossary');
    await steward.choose('Term', `Qzrampart${mark}`);
    await steward.press('Give it the term');
    await steward.read('“E-mail address” carries the term.');
    expect(await steward.axe()).toEqual([]);
    await steward.goTo(`/glossary?term=${term}`);
    await steward.read('Classes and tags that mean it');
    await steward.press('Take away: E-mail address');
    await until(
      async () => (await steward.call<{ classes: unknown[] }>(`/terms/${term}/carriers`)).classes.length === 0,
      'it is still carried',
    );
  });

  it('that are tables are drawn with what refers to them, and lead there', async () => {
    const { id } = await assetOf('kind:table path:booking.passenger');
    await steward.goTo(`/assets/${id}`);
    await steward.read('2 refer to it');
    await steward.read('country_code → code');
    await steward.retry(async () => (await steward.xpath('//a[starts-with(@title, "wake_card.card_holder")]')).click());
    await steward.read('table in Booking system, Wake Card');
  });
});
