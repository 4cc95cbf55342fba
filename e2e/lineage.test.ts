import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Key, Origin, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, Person } from './browser.ts';

let driver: WebDriver;
let steward: Person;

beforeAll(async () => {
  driver = await openBrowser();
  steward = new Person(driver);
  await steward.signInAs('Sunniva Dahlmark');
});
afterAll(() => driver?.quit());

const idOf = async (filter: string, path: string): Promise<string> => {
  const { items } = await steward.call<{ items: { id: string; path: string }[] }>(
    `/assets?limit=200&filter=${encodeURIComponent(filter)}`,
  );
  const found = items.find((item) => item.path === path);
  if (!found) throw new Error(`${path} is not found by ${filter}`);
  return found.id;
};

describe('what no scan sees', () => {
  it('is drawn where it leads to, with what it is and who answers for it, and followed', async () => {
    const invoice = await idOf('kind:table name:invoice', 'invoicing.invoice');
    await steward.goTo(`/lineage?focus=${invoice}`);
    await steward.press('invoicing.invoice');
    await steward.press('Say where it comes from');
    await steward.press('It is not in the catalog: add it');
    await steward.fill('Name', 'Quotation sheet');
    await steward.choose('What it is', 'file, a spreadsheet of somebody');
    await steward.fill('What it means', 'In it quotes are worked out.');
    await steward.choose('Who answers for it', 'Maud Ilkley');
    await steward.fill('Columns', 'number\nprice');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Add it');
    await steward.read('Quotation sheet is added.');
    await steward.choose('Into', 'estimate');
    await steward.choose('Its column', 'price');
    await steward.choose('Through', 'invoices to the bank', 'invoices bank');
    await steward.fill('How you know', 'The desk types it over.');
    await steward.press('Say it');
    await steward.read('copied, said by Sunniva Dahlmark through invoices to the bank');
    await steward.read('The desk types it over.');
    // It stands in the picture, in whichever part of it.
    await steward.read('3 tables, 1 flow');
    expect(await steward.axe()).toEqual([]);

    // It is followed from its own page, and stands in its history.
    await steward.press('Quotation sheet/price');
    await steward.read('invoicing.invoice.estimate');
    const sheet = await idOf('kind:file', 'Quotation sheet');
    await steward.goTo(`/lineage?focus=${sheet}&list=downstream`);
    await steward.read('invoicing.invoice');
    await steward.goTo(`/assets/${sheet}`);
    await steward.read('Drawn by hand: no scan sees it.');
    await steward.read('Maud Ilkley');
    expect(await steward.axe()).toEqual([]);

    // The edge is taken back, and the sheet taken away.
    await steward.goTo(`/lineage?focus=${invoice}&at=${invoice}`);
    await steward.press('Take back Quotation sheet/price → estimate');
    await steward.read('The edge is taken back.');
    await steward.read('Nothing is known to lead here.');

    // What stands no more is still known: with the asset, and in the picture of before.
    await steward.press('What it came from before');
    await steward.read('copied, told by a person through invoices to the bank');
    await steward.press('As of …');
    await steward.read('When its edges changed');
    expect(await steward.axe()).toEqual([]);
    await steward.retry(async () => (await steward.xpath("//button[contains(., '1 went')]")).click());
    await steward.read('0 came, 1 went');
    await steward.read('3 tables, 1 flow');
    // In whichever part of the picture it lies.
    await steward.press('Outline');
    await steward.read('(copied, went)');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Back to now');
    await steward.read('2 tables, ');
    await steward.goTo(`/assets/${sheet}`);
    await steward.press('Take it away');
    await steward.read('Gone from the source since');
  });
});

describe('a found edge that is wrong', () => {
  it('is struck with the reason, and stays so when it is found again', async () => {
    const view = await idOf('kind:view', 'booking.open_booking');
    await steward.goTo(`/lineage?focus=${view}&at=${view}`);
    await steward.press('Wrong: booking.passenger.email → email');
    await steward.fill('Why it is wrong', 'It is the address of the counter.');
    await steward.press('Say it is wrong');
    await steward.read('Wrong, says Sunniva Dahlmark');
    expect(await steward.axe()).toEqual([]);
    const email = await idOf('kind:column name:email', 'booking.passenger.email');
    const impact = async () =>
      (await steward.call<{ path: string }[]>(`/lineage/impact?asset=${email}&direction=downstream`)).map(
        ({ path }) => path,
      );
    expect(await impact()).not.toContain('booking.open_booking.email');

    // Scanned again, whole.
    const sources = await steward.call<{ id: string; name: string }[]>('/sources');
    const booking = sources.find(({ name }) => name === 'Booking system');
    const run = await steward.send<{ id: string }>('POST', `/sources/${booking?.id}/runs`, { sample: false });
    await steward.goTo(`/runs/${run.id}`);
    await driver.wait(
      async () => (await steward.call<{ state: string }>(`/runs/${run.id}`)).state === 'done',
      120_000,
      'the scan does not end',
    );
    expect(await impact()).not.toContain('booking.open_booking.email');
    await steward.goTo(`/lineage?focus=${view}&at=${view}`);
    await steward.read('It is the address of the counter.');
    await steward.press('Not wrong: booking.passenger.email → email');
    await steward.read('The edge is followed again.');
    expect(await impact()).toContain('booking.open_booking.email');
  });
});

describe('the picture', () => {
  it('is searched, read as an outline, and taken along as files', async () => {
    const view = await idOf('kind:view', 'booking.open_booking');
    await steward.goTo(`/lineage?focus=${view}`);
    await steward.fill('Find in the picture', 'EMAIL');
    await steward.read('1 of 2');
    await steward.press('Outline');
    await steward.read('From left to right, as it stands in the picture.');
    await steward.read('from booking.booking');
    expect(await steward.axe()).toEqual([]);
    for (const [words, ending, holds] of [
      ['SVG, as it stands here', '.svg', 'booking.passenger'],
      ['PNG, as it stands here', '.png', 'PNG'],
      ['CSV: an edge a row', '.csv', 'booking.passenger.email,Booking system,booking.open_booking.email'],
      ['Mermaid: a flowchart as text', '.mmd', 'flowchart LR'],
      ['OpenLineage: events of jobs', '.json', '"columnLineage"'],
    ] as const) {
      await steward.press('Export');
      await steward.press(words);
      expect(await steward.kept(ending)).toContain(holds);
    }
  });
});

describe('many edges', () => {
  it('are pasted, shown with what would become of each, and said', async () => {
    await steward.goTo('/lineage');
    await steward.press('Say many edges at once');
    await steward.fill(
      'Pasted from a spreadsheet, or written as CSV',
      [
        'from;to;what happens;note',
        'Booking system/booking/fare_band/x;Booking system/booking/booking;copied;',
        'Booking system/booking/passenger/town;Booking system/booking/booking/status;transformed;Looked up at the desk.',
      ].join('\n'),
    );
    await steward.press('Look at it');
    await steward.read('1 new or changed, 0 known already, 1 refused.');
    await steward.read('Booking system/booking/fare_band/x: The asset at this address is not there');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Say 1 edge');
    await steward.read('1 edge said.');
    const status = await idOf('kind:column name:status', 'booking.booking.status');
    const { items } = await steward.call<{ items: { said: { id: string; note: string } | null }[] }>(
      `/lineage/edges?asset=${status}`,
    );
    expect(items.map(({ said }) => said?.note)).toEqual(['Looked up at the desk.']);
    await steward.send('DELETE', `/lineage/edges/${items[0]?.said?.id}`, undefined);
  });
});

describe('a class', () => {
  it('travels along lineage, is refused where it is not wanted, and goes with the edge by which it came', async () => {
    const [email, status] = [
      await idOf('kind:column name:email', 'booking.passenger.email'),
      await idOf('kind:column name:status', 'booking.booking.status'),
    ];
    const found = async () =>
      (
        await steward.call<{ items: { path: string }[] }>(
          `/assets?filter=${encodeURIComponent('kind:column class:email via:lineage')}`,
        )
      ).items.map(({ path }) => path);
    const [said] = await steward.send<{ state: string; id: string }[]>('POST', '/lineage/edges', {
      edges: [{ from: { id: email }, to: { id: status }, kind: 'copied' }],
    });
    expect(said?.state).toBe('said');
    await steward.goTo(`/assets/${status}`);
    await steward.read('E-mail address along lineage from booking.pass');
    await steward.unread('not given');
    await expect.poll(found).toContain('booking.booking.status');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Refuse: E-mail address in booking.booking.status');
    await steward.read('E-mail address is refused in status, and goes no further from there.');
    await steward.read('Take it as it comes');
    await steward.read('not given');
    await steward.press('Take it as it comes: E-mail address in booking.booking.status');
    await steward.read('E-mail address comes to status again.');
    await steward.unread('not given');

    await steward.goTo(`/lineage?focus=${status}&at=${await idOf('kind:table name:booking', 'booking.booking')}`);
    await steward.press('Take back booking.passenger.email → status');
    await steward.read('The edge is taken back.');
    await steward.goTo(`/assets/${status}`);
    await steward.unread('along lineage');
    await expect.poll(found).not.toContain('booking.booking.status');
  });
});

describe('the picture', () => {
  it('is folded, marked, moved in, kept under a name, and opened again by its address', async () => {
    const booking = await idOf('kind:table name:booking', 'booking.booking');
    await steward.goTo(`/lineage?focus=${booking}&up=6&down=6`);
    await steward.read('booking.open_booking');
    await steward.press('Shown');
    await (await steward.xpath('//label[normalize-space()="schema"]')).click();
    await steward.fill('Mark what a search finds', 'class:email');
    await steward.press('Mark');
    await steward.read(' marked');
    expect(await steward.axe()).toEqual([]);
    await (await steward.xpath('//label[normalize-space()="decides rows"]')).click();
    await steward.driver.actions().sendKeys(Key.ESCAPE).perform();
    const group = await steward.xpath('//button[starts-with(@aria-label, "Unfold booking: ")]');
    expect(await group.getAttribute('aria-label')).toMatch(/: 1 of \d tables marked$/);
    expect(await steward.axe()).toEqual([]);

    await steward.press('Outline');
    await steward.read('tables folded');
    await steward.press('Close');
    // Moved by keyboard, it stays where it is put; taken back, it stands where it was laid.
    const at = () =>
      steward.driver.executeScript<string>(
        "return document.querySelector('.react-flow__node[data-id=\"' + arguments[0] + '\"]').style.transform",
        booking,
      );
    const laid = await at();
    await (await steward.xpath(`//*[@data-id="${booking}"]//button[@title="Show what it does"]`)).click();
    await steward.read('Say where it comes from');
    await steward.driver.executeScript('document.activeElement.blur()');
    const arrow = (key: string) => steward.driver.actions().keyDown(Key.SHIFT).sendKeys(key).keyUp(Key.SHIFT).perform();
    await arrow(Key.ARROW_DOWN);
    await arrow(Key.ARROW_DOWN);
    const moved = await at();
    expect(moved).not.toBe(laid);
    await arrow(Key.ARROW_RIGHT);
    expect(await at()).not.toBe(moved);
    await steward.driver.actions().sendKeys('u').perform();
    await expect.poll(at).toBe(moved);
    // Dragged with the mouse as well: along with it what leads to it.
    const grip = await steward.see(`.react-flow__node[data-id="${booking}"] .kind`);
    const drag = steward.driver.actions({ async: true }).move({ origin: grip }).press();
    await drag
      .move({ origin: Origin.POINTER, x: 12, y: 9 })
      .move({ origin: Origin.POINTER, x: 40, y: 30 })
      .release()
      .perform();
    expect(await at()).not.toBe(moved);
    await steward.driver.actions().sendKeys('u').perform();
    await expect.poll(at).toBe(moved);

    await steward.press('Kept');
    await steward.press('Keep this picture …');
    await steward.fill('Name of the picture', 'Around bookings');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Keep picture');
    await steward.read('“Around bookings” is kept; its address leads here.');
    const view = new URL(await steward.driver.getCurrentUrl()).searchParams.get('view');
    await steward.goTo('/lineage');
    await steward.goTo(`/lineage?view=${view}`);
    await steward.xpath('//button[starts-with(@aria-label, "Unfold booking: ")]');
    await expect.poll(at).toBe(moved);
    await steward.read('Shown (3)');
    await (await steward.xpath('//button[starts-with(@aria-label, "Unfold booking: ")]')).click();
    await steward.read('booking.open_booking');
    await steward.press('Kept');
    await steward.press('Keep “Around bookings” no more');
    await steward.read('“Around bookings” is kept no more.');
  });
});

describe('an edge', () => {
  it('says what happens to the value on it', async () => {
    const view = await idOf('kind:view name:open_booking', 'booking.open_booking');
    await steward.goTo(`/lineage?focus=${view}&at=${view}`);
    await steward.read("(p.given_name || ' '::text) || p.family_name");
    expect(await steward.axe()).toEqual([]);
  });
});

describe('a tag', () => {
  it('is set to travel, with what that brings shown before, is refused on the way, and gone once it is removed', async () => {
    const [email, status] = [
      await idOf('kind:column name:email', 'booking.passenger.email'),
      await idOf('kind:column name:status', 'booking.booking.status'),
    ];
    const [said] = await steward.send<{ id: string }[]>('POST', '/lineage/edges', {
      edges: [{ from: { id: email }, to: { id: status }, kind: 'copied' }],
    });
    const name = 'checked by counsel';
    const tag = await steward.send<{ id: string }>('POST', '/tags', {
      name,
      description: '',
      permitted: null,
      kinds: null,
      groupIds: [],
    });
    const { version } = await steward.call<{ version: number }>(`/assets/${email}`);
    await steward.send('PATCH', `/assets/${email}`, { tags: [{ id: tag.id, value: '2026' }] }, version);

    await steward.goTo(`/glossary/tags?tag=${tag.id}`);
    await (await steward.xpath('//label[normalize-space()="copied"]')).click();
    await steward.read('Along lineage it comes to');
    await steward.read('booking.booking.status');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Save tag');
    await steward.read(`The tag “${name}” is saved.`);
    await steward.goTo(`/assets/${status}`);
    await steward.read(`${name}/2026 along lineage from booking.pass`);
    expect(await steward.axe()).toEqual([]);
    const found = async () =>
      (
        await steward.call<{ items: { path: string }[] }>(
          `/assets?filter=${encodeURIComponent(`kind:column tag:"${name}" via:lineage`)}`,
        )
      ).items.map(({ path }) => path);
    await expect.poll(found).toContain('booking.booking.status');
    await steward.press(`Refuse: ${name}/2026`);
    await steward.read(`${name} is refused in status, and goes no further from there.`);
    await expect.poll(found).not.toContain('booking.booking.status');
    await steward.press(`Take it as it comes: ${name}/2026`);
    await steward.read(`${name} comes to status again.`);
    await expect.poll(found).toContain('booking.booking.status');

    await steward.send('DELETE', `/tags/${tag.id}`, undefined);
    await steward.send('DELETE', `/lineage/edges/${said?.id}`, undefined);
    await steward.goTo(`/assets/${status}`);
    // Its name stays in the history of the column.
    await steward.unread(`${name}/2026`);
    expect(await found()).toEqual([]);
  });
});

describe('a change that is planned', () => {
  it('is told with what it would do to what is made of it; the list goes out as a sheet and comes back filled in', async () => {
    const kilograms = await idOf(
      'kind:column name:kilograms',
      'kafka://yard.tarnholm.example:9092/weighbridge.readings/kilograms',
    );
    const reading = await idOf('kind:table name:weighbridge_reading', 'depot.weighbridge_reading');
    await steward.goTo(`/assets/${kilograms}`);
    await steward.press('To be changed?');
    await steward.read('gets nothing new');
    await steward.read('What fills it names the column: from its next run on nothing new comes.');
    await steward.read('It names kilograms: its next run fails.');
    expect(await steward.axe()).toEqual([]);
    await (await steward.xpath('//label[normalize-space()="Change its type"]')).click();
    await steward.fill('New type', 'bigint');
    await steward.read('look whether the expression takes bigint');
    await (await steward.xpath('//label[normalize-space()="Drop it"]')).click();
    await steward.read('gets nothing new');

    await steward.press('As CSV');
    const sheet = Buffer.from(await steward.kept('impact of kilograms.csv'), 'latin1')
      .toString('utf8')
      .replace(/^\uFEFF/, '');
    const [heads = [], ...rows] = sheet
      .trimEnd()
      .split('\n')
      .map((line) => line.trimEnd().split(','));
    const at = (head: string) => heads.indexOf(head);
    const row = rows.find((cells) => cells[at('path')] === 'depot.weighbridge_reading') ?? [];
    expect([row[at('consequence')], row[at('steps')], row[at('answers')]]).toEqual(['stale', '1', 'Jorun Pell']);
    row[at('notices')] = 'caution until 2099-12-31: Gets no weights for a week';
    row[at('remark')] = 'We weigh by hand meanwhile.';
    const file = join(mkdtempSync(join(tmpdir(), 'idrel-impact-')), 'impact.csv');
    writeFileSync(file, [heads, ...rows].map((cells) => cells.join(',')).join('\n'));
    await steward.press('Bring a filled-in sheet back');
    await (await steward.see('input[type=file]')).sendKeys(file);
    await steward.read('2 cells of 1 asset differ');
    await steward.read('We weigh by hand meanwhile.');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Take in 2 cells');
    await steward.read('1 asset changed.');
    await steward.goTo(`/assets/${reading}`);
    await steward.read('Gets no weights for a week');
    await steward.read('We weigh by hand meanwhile.');

    // Whoever answers for it is told, and finds it on the worklist.
    await steward.goTo(`/lineage/change?asset=${kilograms}`);
    await steward.press('Write to 1 person');
    await steward.see('[contenteditable=true]');
    await steward.press('Tell 1 person');
    await steward.read('1 person or group told: it waits on their worklists.');
    const jorun = await openBrowser();
    try {
      const other = new Person(jorun);
      await other.signInAs('Jorun Pell');
      await other.goTo('/worklist?kind=discussion');
      await (
        await other.xpath(
          "//li[contains(., 'Sunniva Dahlmark mentioned you')]|//button[contains(., 'Sunniva Dahlmark mentioned you')]",
        )
      ).click();
      await other.read('is to be dropped. Something that you answer for or ask for is made of it');
    } finally {
      await jorun.quit();
    }

    const { own } = await steward.call<{ own: { id: string; text: string }[] }>(`/assets/${reading}/notices`);
    for (const { id, text } of own)
      if (text === 'Gets no weights for a week') await steward.send('DELETE', `/notices/${id}`, null);
    for (const asset of [reading, kilograms]) {
      const { items } = await steward.call<{ items: { id: string; version: number }[] }>(
        `/assets/${asset}/discussions?settled=false`,
      );
      for (const { id, version } of items)
        await steward.send('PUT', `/discussions/${id}/settled`, { settled: true }, version);
    }
  });
});

describe('what matters most', () => {
  it('is found by a rule, looked at before, and inherited by what it is made of', async () => {
    await steward.goTo('/settings/priority');
    await steward.press('New rule');
    await steward.fill('Name', 'What the bank gets');
    await steward.fill('Which assets', 'path:"*invoices.csv" priority:critical');
    await steward.read('A rule of priority cannot ask for priority.');
    await steward.fill('Which assets', 'path:"*invoices.csv"');
    await (await steward.xpath('//label[normalize-space()="Critical"]')).click();
    await steward.read('It finds 1 asset. With what inherits,');
    await steward.read('invoicing.invoice');
    expect(await steward.axe()).toEqual([]);
    await steward.press('Save rule');
    await steward.read('“What the bank gets” is saved');

    const found = async (filter: string) =>
      (
        await steward.call<{ items: { path: string }[] }>(`/assets?limit=50&filter=${encodeURIComponent(filter)}`)
      ).items.map(({ path }) => path);
    await expect.poll(() => found('priority:critical source:"Freight desk" kind:table')).toContain('invoicing.invoice');
    const invoice = await idOf('kind:table name:invoice', 'invoicing.invoice');
    await steward.goTo(`/assets/${invoice}`);
    await steward.read('by what is made from it:');
    await steward.press('Edit Priority');
    await steward.choose('Priority', 'important');
    await steward.fill('Reason', 'The desk lives by it.');
    await steward.press('Save');
    await steward.read('stated: The desk lives by it.');
    await steward.press('Undo');
    await steward.unread('stated: The desk lives by it.');
    expect(await steward.axe()).toEqual([]);

    await steward.goTo('/coverage?by=priority');
    await steward.read('critical');
    expect(await steward.axe()).toEqual([]);
    await steward.goTo('/settings/priority');
    await (await steward.xpath('//button[contains(., "What the bank gets")]')).click();
    await steward.press('Remove');
    await steward.read('“What the bank gets” is removed.');
    await expect
      .poll(() => found('priority:critical source:"Freight desk" kind:table'))
      .not.toContain('invoicing.invoice');
  });
});

describe('a figure that looks wrong', () => {
  it('is traced to what happened upstream, the likeliest first', async () => {
    const bank = await idOf('kind:table path:"*invoices.csv"', 'sftp://bank.tarnholm.example//out/invoices.csv');
    await steward.goTo(`/assets/${bank}`);
    await steward.press('A figure looks wrong?');
    await steward.read('What could be wrong with');
    await steward.read('The bank refuses the connection.');
    expect(await steward.text()).toMatch(/failed run[\s\S]*freight\/invoices to the bank/);
    expect(await steward.axe()).toEqual([]);
    // The same run waits on the worklist of who looks after what it writes.
    await steward.goTo('/worklist?kind=failed');
    await steward.read('What lies behind it');
    expect(await steward.text()).toContain('freight/invoices to the bank');
    expect(await steward.axe()).toEqual([]);
  });
});

describe('statements that are not wholly understood', () => {
  it('are told of with the source, and lead to the line of the code that is meant', async () => {
    const sources = await steward.call<{ id: string; name: string }[]>('/sources');
    const loads = sources.find(({ name }) => name === 'Warehouse loads')?.id ?? '';
    await steward.goTo(`/sources/${loads}`);
    await steward.press('11 of 11 statements understood, 100 %');
    await steward.read('dynamic SQL: what stands as … is known only when it runs');
    expect(await steward.axe()).toEqual([]);
    await (await steward.xpath('//label[normalize-space()="Not understood"]')).click();
    await steward.read('Nothing is left open');
    await (await steward.xpath('//label[normalize-space()="All remarks"]')).click();
    await steward.read('3 remarks');
    const link = await steward.xpath('//tr[contains(., "known only when it runs")]//a');
    expect(await link.getText()).toContain('archive_counts.sql');
    await link.click();
    const meant = await steward.see('pre.code [aria-current]');
    expect(await meant.getText()).toContain("execute format('insert into %I.notes");
    expect(new URL(await driver.getCurrentUrl()).searchParams.get('line')).toBe('9');
    // What it is made of is told by colours; what it says stays.
    await steward.see('pre.code .hljs-keyword');
    expect(await steward.axe()).toEqual([]);
  });
});
