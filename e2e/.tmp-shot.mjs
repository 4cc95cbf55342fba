import { openBrowser, Person } from './.tmp-browser.mjs';
import { writeFileSync } from 'node:fs';
const driver = await openBrowser(); const p = new Person(driver);
const wait = (ms) => new Promise((r) => setTimeout(r, ms));
const shot = async (name) => writeFileSync(`/tmp/${name}.png`, Buffer.from(await driver.takeScreenshot(), 'base64'));
try { await p.signInAs(process.argv[3] ?? 'Sunniva Dahlmark'); const { default: run } = await import(process.argv[2]); await run({ p, driver, shot, wait }); }
catch (e) { console.error(e); await shot('failed').catch(()=>{}); } finally { await driver.quit(); }
