import { mkdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { checkNode, ensureBuild, ensurePackages, ROOT } from './lib/house.mjs';
import { say } from './lib/say.mjs';
import { ensureChromium } from './lib/system.mjs';

// npm run screenshots: makes the demo anew on a cluster of its own, brings in its other sources and some policies, and takes one picture of each main view.
checkNode();
ensurePackages();
ensureBuild();
ensureChromium();
const { Builder, By, Key, until } = await import('selenium-webdriver');
const { default: chrome } = await import('selenium-webdriver/chrome.js');
const { startIdrel } = await import('./lib/idrel.mjs');
const { removeHome } = await import('./lib/cluster.mjs');
const { Client } = await import('../demo/dist/client.js');
const home = join(tmpdir(), 'idrel'); // its path can be read in the pictures
const folder = join(ROOT, 'docs/screenshots');
mkdirSync(folder, { recursive: true });
await removeHome(home, 57780);
const idrel = await startIdrel({ home, databasePort: 57780, webPort: 7780, quiet: true });
let driver;
// What is asked for is written out here: the definitions of the contract are for programs with types.
const get = (client, path) => client.ask({ method: 'get', path });
const post = (client, path, body = {}) => client.ask({ method: 'post', path }, { body });

async function furnish() {
  const client = new Client(idrel.address);
  await client.signInAs('Sunniva Dahlmark');
  const domains = await get(client, '/domains');
  const domain = (name) => domains.find((entry) => entry.name === name).id;
  const credential = (await get(client, '/credentials')).find((entry) => entry.name === 'Ferry reader');
  const sources = [
    await post(client, '/sources', {
      name: 'Warehouse',
      kind: 'postgresql',
      address: { host: '127.0.0.1', port: idrel.cluster.port, database: 'warehouse' },
      domainId: domain('Reporting'),
      credentialId: credential.id,
    }),
    await post(client, '/sources', {
      name: 'Voyage files',
      kind: 'folder',
      address: { path: join(idrel.demoFolder, 'voyage-files') },
      domainId: domain('Fleet'),
    }),
  ];
  for (const source of sources) await client.runEnds((await post(client, `/sources/${source.id}/runs`, {})).id);
  const find = async (filter, path) =>
    (await get(client, `/assets?limit=200&filter=${encodeURIComponent(filter)}`)).items.find(
      (entry) => entry.path === path,
    ).id;
  const groups = await get(client, '/groups');
  const group = (name) => groups.find((entry) => entry.name === name).id;
  await post(client, '/policies', {
    name: 'Fares analysts read the marts',
    effect: 'allow',
    groupIds: [group('Fares analysts')],
    assetIds: [await find('kind:schema source:Warehouse', 'mart')],
  });
  await post(client, '/policies', {
    name: 'Minors stay with Privacy',
    effect: 'deny',
    everyone: true,
    exceptGroupIds: [group('Privacy')],
    assetIds: [await find('kind:view minor', 'mart.minor_travellers')],
  });
  const passenger = await find('kind:table passenger', 'booking.passenger');
  const email = await find('kind:column email', 'booking.passenger.email');
  const draft = {
    name: 'E-mail addresses are masked',
    effect: 'protect',
    everyone: true,
    groupIds: [],
    personIds: [],
    exceptGroupIds: [group('Privacy')],
    assetIds: [],
    classKeys: ['email'],
    columns: null,
    mask: { kind: 'partial', first: 1, last: 0 },
    rows: null,
    enabled: true,
  };
  const runs = await get(client, `/sources/${sources[0].id}/runs`);
  const plan = {
    name: 'Reference data',
    scope: { cover: 'chosen', chosen: ['ref'], include: [], exclude: ['ref.fare*'] },
    options: { sample: true, rows: 500 },
    schedule: {
      rhythm: { on: 'weekday', nth: 2, weekday: 2 },
      time: '03:00',
      timeZone: 'Europe/Oslo',
      blackouts: [{ from: '08:00', to: '18:00' }],
    },
    enabled: true,
  };
  const booking = (await get(client, '/sources')).find((source) => source.name === 'Booking system').id;
  return { client, passenger, email, draft, plan, booking, run: runs[0].id };
}

const wait = (milliseconds) => new Promise((resolve) => setTimeout(resolve, milliseconds));
try {
  const { client, passenger, email, draft, plan, booking, run } = await furnish();
  const options = new chrome.Options();
  options.setChromeBinaryPath('/usr/bin/chromium');
  options.addArguments(
    '--headless=new',
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--window-size=1280,800',
    '--hide-scrollbars',
  );
  driver = await new Builder()
    .forBrowser('chrome')
    .setChromeOptions(options)
    .setChromeService(new chrome.ServiceBuilder('/usr/bin/chromedriver'))
    .build();
  await driver.sendDevToolsCommand('Emulation.setDeviceMetricsOverride', {
    width: 1280,
    height: 800,
    deviceScaleFactor: 1,
    mobile: false,
  });
  const take = async (name) =>
    writeFileSync(join(folder, `${name}.png`), Buffer.from(await driver.takeScreenshot(), 'base64'));
  const show = async (name, path, pause = 1600, act = async () => undefined) => {
    await driver.get(`${idrel.address}${path}`);
    await wait(pause);
    await act();
    await take(name);
  };
  await driver.get(idrel.address);
  const person = await driver.wait(
    until.elementLocated(By.xpath('//button[normalize-space()="Sunniva Dahlmark"]')),
    10_000,
  );
  await wait(600);
  await person.click();
  await driver.wait(until.elementLocated(By.css('.shell')), 10_000);
  await show('worklist', '/worklist?kind=finding');
  await show('catalog', `/catalog?asset=${passenger}`);
  await show('asset', `/assets/${passenger}`);
  await show('sources', '/sources');
  await show('requests', '/access?show=requests&which=waiting', 2600);
  await show('run', `/runs/${run}`);
  const me = await driver.executeAsyncScript(
    "const done = arguments[0]; fetch('/api/v1/session').then((answer) => answer.json()).then((session) => done(session.person.id))",
  );
  /** A form as somebody left it: where it began, and what was changed. */
  const left = async (key, fresh, changes) => {
    const place = `idrel-form:${me}:${key}`;
    await driver.executeScript(
      'localStorage.setItem(arguments[0], arguments[1])',
      place,
      JSON.stringify({ base: { version: 0, values: fresh }, changes }),
    );
    return () => driver.executeScript('localStorage.removeItem(arguments[0])', place);
  };
  let forget = await left(`plan:new:${booking}`, { ...plan, name: '' }, { name: plan.name });
  await show('plan', `/sources/${booking}/plans/new?step=what`, 2600, () =>
    driver.findElement(By.css('.outline .turn[aria-label="Open ref"]')).click(),
  );
  await forget();
  await show('detectors', '/recognition?show=detectors');
  const references = Array.from(
    { length: 24 },
    (_, index) => `47 22 ${10 + index * 3} ${String(index * 373).padStart(6, '0')}`,
  );
  const draftDetector = {
    classKey: '',
    spec: {
      value: { kind: 'pattern', pattern: '47 22 \\d{2} \\d{6}', caseless: false },
      checksum: 'none',
      namePattern: 'ref',
      nameNeeded: false,
      minShare: 0.8,
      minDistinct: 5,
      accepts: [],
      rejects: [],
    },
    note: '',
    pasted: '',
  };
  const made = await post(client, '/classes', {
    label: 'Booking reference',
    theme: 'own',
    level: 2,
    meaning: 'Under which a booking is known.',
    legalBasis: '',
    synonyms: [],
    parentKey: null,
  });
  forget = await left('detector:new', draftDetector, { classKey: made.key });
  const paste = async (values, words) => {
    await driver.findElement(By.xpath('//button[normalize-space()="Paste values"]')).click();
    await wait(300);
    await driver.findElement(By.css('textarea[aria-label="Values, one a line"]')).sendKeys(values.join('\n'));
    await driver.findElement(By.xpath(`//button[normalize-space()="${words}"]`)).click();
    await wait(500);
  };
  await show('bench', '/recognition?show=bench', 1800, async () => {
    await paste(references, 'These are');
    await paste(['+47 22 12 34 56', '+44 20 7946 0958', 'TF-2026-00017', '2026-05-14', '47 22 12 34'], 'These are not');
    await driver.findElement(By.xpath('//button[normalize-space()="Try on the catalog"]')).click();
    await driver.wait(until.elementLocated(By.css('table[aria-label="Would gain the class"]')), 30_000);
    await wait(1500);
  });
  await forget();
  await post(client, '/level-rules', {
    name: 'A whole person',
    classKeys: ['person-name', 'date-of-birth', 'email'],
    level: 4,
    kinds: null,
  });
  forget = await left(
    'level-rule:new',
    { name: '', classKeys: [], level: 4, kinds: null },
    { name: 'Who can be visited', classKeys: ['person-name', 'postal-address'] },
  );
  await show('news', '/news', 2200);
  await forget();
  const terms = await get(client, '/terms');
  await show('glossary', `/glossary?term=${terms.items.find((term) => term.name === 'Traveller').id}`);
  await show('lineage', `/lineage?focus=${email}&down=6`, 3200);
  const noPolicy = {
    groupIds: [],
    personIds: [],
    exceptGroupIds: [],
    assetIds: [],
    classKeys: [],
    carried: false,
    columns: null,
    mask: null,
    rows: null,
    filter: null,
    columnsBut: false,
    until: null,
    hours: null,
    purposes: [],
    opens: 'read',
    passesOn: false,
    enabled: true,
  };
  forget = await left('policy:new', { ...noPolicy, ...draft, name: '' }, { name: draft.name });
  await show('policy', '/access?edit=new', 2600);
  await forget();
  // What the analyst gets stands beside what the steward gets, who reads all of it.
  const people = await get(client, '/people');
  const idOf = (name) => people.find((person) => person.name === name).id;
  const schemas = await get(client, `/assets?filter=${encodeURIComponent('kind:schema source:Warehouse')}`);
  await post(client, '/policies', { ...draft, everyone: false, personIds: [idOf('Bettina Sark')] });
  await post(client, '/policies', {
    ...noPolicy,
    name: 'The steward reads the marts',
    effect: 'allow',
    everyone: false,
    personIds: [idOf('Sunniva Dahlmark')],
    assetIds: [schemas.items.find(({ path }) => path === 'mart').id],
  });
  await left('try', { text: '' }, { text: 'select * from mart.last_booking order by traveller_id limit 12' });
  await show('try', '/access?show=try', 1600, async () => {
    const field = await driver.findElement(By.css('input[placeholder="Choose a person"]'));
    await field.click();
    await field.sendKeys('Bettina');
    await wait(500);
    await driver.findElement(By.xpath('//*[@role="option"][contains(., "Bettina")]')).click();
    await driver.findElement(By.xpath('//button[contains(., "Run as")]')).click();
    await driver.wait(until.elementLocated(By.css('table[aria-label="Result: Bettina Sark"]')), 20_000);
    await wait(400);
  });
  const tags = [
    {
      name: 'retention',
      description: 'How long records are kept after the voyage',
      permitted: ['short', 'seven years'],
      kinds: null,
    },
    { name: 'pilot', description: 'Part of the trial of autumn', permitted: [], kinds: ['table'] },
  ];
  for (const tag of tags) await post(client, '/tags', { ...tag, groupIds: [] });
  await show(
    'many',
    `/catalog?filter=${encodeURIComponent('source:"Booking system" kind:table,view')}`,
    2200,
    async () => {
      await driver.executeScript('document.activeElement.blur()');
      await driver.actions().keyDown(Key.SHIFT).sendKeys('x').keyUp(Key.SHIFT).sendKeys('c').perform();
      await wait(600);
      const field = await driver.executeScript(
        "return document.getElementById([...document.querySelectorAll('label')].find((label) => label.textContent === 'Tag').getAttribute('for'))",
      );
      await field.click();
      await driver.wait(until.elementLocated(By.xpath('//*[@role="option"][normalize-space()="pilot"]')), 5000);
      await wait(300);
      await driver.findElement(By.xpath('//*[@role="option"][normalize-space()="pilot"]')).click();
      await wait(1200);
    },
  );
  await show('coverage', '/coverage?show=time', 2200);
  const kept = (await get(client, '/routines')).find(({ name }) => name === 'Wake Card has a custodian');
  const [ran] = await get(client, `/routines/${kept.id}/runs`);
  await show('routine', `/routines?routine=${kept.id}&run=${ran.id}`, 2200);
  const booked = (await get(client, `/assets?limit=200&filter=${encodeURIComponent('kind:column amount')}`)).items.find(
    (entry) => entry.path === 'booking.payment.amount',
  ).id;
  await show('profile', `/assets/${booked}`, 2200, () =>
    driver.executeScript("document.getElementById('profile').scrollIntoView()"),
  );
  await driver.executeScript("localStorage.setItem('mantine-color-scheme-value', 'dark')");
  await show('dark', `/lineage?focus=${email}&down=6&list=downstream`, 3200);
  say(`Pictures are in ${folder}`);
} finally {
  await driver?.quit();
  await idrel.stop();
  await removeHome(home, 57780);
}
process.exit(0);
