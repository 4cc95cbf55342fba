import type { WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ADDRESS, openBrowser, PATIENCE, Person } from './browser.ts';

let driver: WebDriver;
let steward: Person;
beforeAll(async () => {
  driver = await openBrowser();
  steward = new Person(driver);
  await steward.signInAs('Sunniva Dahlmark');
});
afterAll(() => driver?.quit());

/** What a program is answered that calls with a key. */
const status = async (key: string, path: string, method = 'GET', body?: object) => {
  const response = await fetch(`${ADDRESS}/api/v1${path}`, {
    method,
    headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json' },
    ...(body ? { body: JSON.stringify(body) } : {}),
  });
  await response.body?.cancel();
  return response.status;
};
const shownKey = async () => (await (await steward.see('.notice pre.code')).getText()).trim();

describe('a key of a program', () => {
  it('is made, used, replaced, and opens nothing once it has ended', async () => {
    await steward.goTo('/settings');
    await steward.press('New key for the API');
    // What was typed is there again when the page is.
    await steward.fill('What the program does', 'Documentation from the repository');
    await steward.goTo('/settings');
    await steward.press('New key for the API');
    await driver.wait(
      async () =>
        (await (await steward.see('form[aria-label="New key for the API"] input')).getAttribute('value')) ===
        'Documentation from the repository',
      PATIENCE,
      'what was typed is gone',
    );
    await (await steward.xpath('//label[starts-with(normalize-space(), "lineage: ")]')).click();
    await steward.choose('Only in these domains', 'Travel');
    // The list of domains stays open for more of them.
    await (await steward.see('form[aria-label="New key for the API"] input')).click();
    await driver.wait(
      async () => {
        const lists = await driver.findElements({ css: '.mantine-MultiSelect-dropdown' });
        return !(await Promise.all(lists.map((list) => list.isDisplayed()))).some(Boolean);
      },
      PATIENCE,
      'the list stays open',
    );
    expect(await steward.axe()).toEqual([]);
    await steward.press('Make the key');
    await steward.read('The key is not shown again.');
    const key = await shownKey();
    expect(key).toMatch(/^idrel_key_/);
    expect(await status(key, '/assets?limit=1')).toBe(200);
    expect(await status(key, '/terms', 'POST', { name: 'x' })).toBe(403);
    await steward.press('I have it');
    await steward.read('read, lineage');
    await steward.press('Replace: Documentation from the repository');
    await steward.read('which goes on for 24 hours');
    const next = await shownKey();
    expect(next).not.toBe(key);
    expect(await status(key, '/assets?limit=1')).toBe(200);
    expect(await status(next, '/assets?limit=1')).toBe(200);
    await steward.press('I have it');
    await steward.read('replaced');
    for (let left = 2; left > 0; left -= 1) {
      await (await steward.xpath('(//button[@aria-label="End: Documentation from the repository"])[1]')).click();
      await driver.wait(
        async () =>
          (await driver.findElements({ css: '[aria-label="End: Documentation from the repository"]' })).length < left,
        PATIENCE,
        'the key stays',
      );
    }
    expect([await status(key, '/assets?limit=1'), await status(next, '/assets?limit=1')]).toEqual([401, 401]);
    await steward.unread('The key is not shown again.');
  });
});
