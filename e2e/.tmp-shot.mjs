import { writeFileSync } from 'node:fs';
import { openBrowser, Person } from './.tmp-browser.mjs';

const driver = await openBrowser();
await driver.manage().window().setRect({ width: 1280, height: 800 });
const p = new Person(driver);
const shot = async (name) => writeFileSync(`/tmp/${name}.png`, Buffer.from(await driver.takeScreenshot(), 'base64'));
const wait = (ms) => new Promise((r) => setTimeout(r, ms));
await p.signInAs(process.argv[3] ?? 'Sunniva Dahlmark');
try {
  await (await import(process.argv[2])).default({ p, driver, shot, wait });
} catch (e) {
  console.log(String(e).slice(0, 600));
  await shot('fail');
}
await driver.quit();
