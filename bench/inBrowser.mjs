import { createServer } from 'node:http';
import { gzipSync } from 'node:zlib';
import { Builder, By, Key } from 'selenium-webdriver';
import chrome from 'selenium-webdriver/chrome.js';
import { median } from './lib.mjs';

const ROUNDS = 5;
const SIZE = { width: 1280, height: 800, deviceScaleFactor: 1, mobile: false };
export const wait = (ms) => new Promise((resolve) => setTimeout(resolve, ms));
export const at = (list, share) =>
  [...list].sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * share))] ?? 0;
export const ms = (value) => `${Math.round(value)} ms`;
const kB = (bytes) => `${Math.round(bytes / 1000)} kB`;
export const line = (name, measured, reference, ratio, goal) => {
  const text = `| ${name} | ${measured} | ${reference} | ${ratio} | ${goal} |`;
  process.stdout.write(`${text}\n`);
  return text;
};

/** Runs in each page before anything else: notes when what is waited for can be seen, tasks that take long, and frames. */
const WATCH = `
  window.watched = { tasks: [] };
  new PerformanceObserver((list) => { for (const task of list.getEntries()) watched.tasks.push({ at: task.startTime, took: task.duration }); })
    .observe({ type: 'longtask', buffered: true });
  const there = (selector, title) =>
    (!title || document.querySelector('#main h1')?.textContent === title) &&
    [...document.querySelectorAll(selector)].some((one) => one.getBoundingClientRect().height > 0);
  /** When it is there, in milliseconds from the beginning of the page, or of the step that leads to it. */
  window.seen = (selector, title, step) => new Promise((resolve) => {
    const begun = step ? performance.now() : 0;
    if (step) { watched.tasks.length = 0; step(); }
    const look = () => requestAnimationFrame(() => (there(selector, title) ? resolve(performance.now() - begun) : look()));
    look();
  });
  window.frames = (ms, each) => new Promise((resolve) => {
    const list = []; let last = performance.now(); const end = last + ms; watched.tasks.length = 0;
    const tick = (now) => { list.push(now - last); last = now; each(); if (now < end) requestAnimationFrame(tick); else resolve({ frames: list.slice(2), tasks: watched.tasks.map((task) => task.took) }); };
    requestAnimationFrame(tick);
  });
  window.sent = (since) => {
    const all = performance.getEntriesByType('resource').filter((one) => one.startTime >= since);
    const asked = all.filter((one) => one.name.includes('/api/'));
    return { requests: asked.length, answers: asked.reduce((sum, one) => sum + one.transferSize, 0), bytes: all.reduce((sum, one) => sum + one.transferSize, 0) };
  };`;

export async function open() {
  const options = new chrome.Options();
  options.setChromeBinaryPath('/usr/bin/chromium');
  options.addArguments('--headless=new', '--no-sandbox', '--disable-gpu', '--disable-dev-shm-usage', '--no-first-run');
  options.addArguments('--disable-background-networking', '--force-prefers-reduced-motion', '--window-size=1280,800');
  const driver = await new Builder()
    .forBrowser('chrome')
    .setChromeOptions(options)
    .setChromeService(new chrome.ServiceBuilder('/usr/bin/chromedriver'))
    .build();
  await driver.manage().setTimeouts({ script: 60_000 });
  const tell = (name, body = {}) => driver.sendDevToolsCommand(name, body);
  await tell('Emulation.setDeviceMetricsOverride', SIZE);
  await tell('Page.addScriptToEvaluateOnNewDocument', { source: WATCH });
  return { driver, tell };
}

export const later = (driver, script, ...more) =>
  driver.executeAsyncScript(`const done = arguments[arguments.length - 1]; (${script}).then(done)`, ...more);

/** A page that holds as many bytes as a view had sent, and a list of ten thousand plain rows to scroll: what the browser takes for that alone. */
export async function plainServer() {
  const server = createServer((request, answer) => {
    const { pathname, searchParams } = new URL(request.url, 'http://plain');
    if (pathname === '/bytes') {
      // Text that is as hard to pack as code: packed it has about as many bytes as were asked for.
      const letters = Array.from({ length: Number(searchParams.get('n')) }, () => Math.random().toString(36)[3] ?? 'a');
      const packed = gzipSync(letters.join(''));
      answer.writeHead(200, { 'content-type': 'text/plain', 'content-encoding': 'gzip' });
      return answer.end(packed);
    }
    answer.writeHead(200, { 'content-type': 'text/html' });
    if (pathname === '/list')
      return answer.end(`<!doctype html><title>plain</title><style>*{margin:0;font:13px sans-serif}div.r{position:absolute;height:31px;width:100%;border-bottom:1px solid #ddd}</style>
        <div id="list" style="height:800px;overflow:auto"><div id="all" style="position:relative;height:3100000px"></div></div>
        <script>const list = document.getElementById('list'), all = document.getElementById('all');
        const draw = () => { const first = Math.floor(list.scrollTop / 31); all.replaceChildren(...Array.from({ length: 30 }, (_, n) => { const row = document.createElement('div'); row.className = 'r'; row.style.top = (first + n) * 31 + 'px'; row.textContent = 'row ' + (first + n) + ' of a list'; return row; })); };
        list.addEventListener('scroll', draw); draw();</script>`);
    if (pathname === '/boxes')
      return answer.end(`<!doctype html><title>plain</title><style>*{margin:0;font:13px sans-serif}div.b{position:absolute;width:236px;height:40px;border:1px solid #ddd}</style><div id="all"></div>
        <script>const all = document.getElementById('all');
        all.replaceChildren(...Array.from({ length: ${Number(searchParams.get('n'))} }, (_, n) => { const box = document.createElement('div'); box.className = 'b'; box.style.transform = 'translate(' + (n % 40) * 326 + 'px,' + Math.floor(n / 40) * 62 + 'px)'; box.textContent = 'box ' + n; return box; }));
        let x = 0, by = -24; const moveBoxes = () => { if (x < -400 || x > 400) by = -by; x += by; all.style.transform = 'translate(' + x + 'px,0)'; };</script>`);
    return answer.end(`<!doctype html><title>plain</title><h1 id="ready" hidden>ready</h1>
      <script>fetch('/bytes?n=${Number(searchParams.get('n'))}').then((answer) => answer.text()).then((text) => { document.getElementById('ready').hidden = text.length === 0; })</script>`);
  });
  await new Promise((resolve) => server.listen(0, '127.0.0.1', resolve));
  return { address: `http://127.0.0.1:${server.address().port}`, close: () => server.close() };
}

/**
 * What a person sees of a catalog of a million assets, in Chromium on this machine: when each view can be used, with nothing kept and with everything kept; how long
 * its longest task is; what was sent; frames while a long list is scrolled; what typing, moving and saving cost. Beside each stands a plain page of the same bytes,
 * or a plain list, in the same browser.
 */
export async function inBrowser(address, made) {
  const lines = [];
  const plain = await plainServer();
  const { driver, tell } = await open();
  try {
    await driver.get(address);
    await later(driver, "window.seen('button')");
    await driver.findElement(By.xpath('//button[normalize-space()="Jorun Pell"]')).click();
    await later(driver, "window.seen('.shell')");

    const cold = async (url, selector, title = null) => {
      await tell('Network.clearBrowserCache');
      await driver.get('about:blank');
      await driver.get(url);
      const ready = await later(driver, 'window.seen(arguments[0], arguments[1])', selector, title);
      const tasks = await driver.executeScript('return watched.tasks.map((task) => task.took)');
      return { ready, longest: Math.max(0, ...tasks), ...(await driver.executeScript('return window.sent(0)')) };
    };
    const views = [
      ['Catalog', '/catalog', '.grid [role=row][aria-rowindex="2"]'],
      ['Worklist', '/worklist', '#main h2'],
      ['Sources', '/sources', '#main table td'],
      ['Coverage', '/coverage', '#main table td'],
      ['Glossary', '/glossary', '#main h1'],
    ];
    for (const [name, path, selector] of [
      ...views,
      ['A table of 1,500 columns', `/assets/${made.wide}`, '#columns [data-at]'],
    ]) {
      const title = path.startsWith('/assets') ? null : name;
      await cold(`${address}${path}`, selector, title);
      const rounds = [];
      const plainly = [];
      for (let round = 0; round < ROUNDS; round += 1) {
        const own = await cold(`${address}${path}`, selector, title);
        rounds.push(own);
        plainly.push((await cold(`${plain.address}/?n=${own.bytes}`, '#ready')).ready);
      }
      const ready = median(rounds.map((one) => one.ready));
      const { bytes, answers, requests } = rounds[0];
      lines.push(
        line(
          `In the browser, nothing kept: ${name} (${kB(bytes)}, of which ${kB(answers)} in ${requests} answers)`,
          `${ms(ready)}, longest task ${ms(median(rounds.map((one) => one.longest)))}`,
          `${ms(median(plainly))} a plain page of as many bytes`,
          (ready / median(plainly)).toFixed(2),
          'under 1 s, answers under 100 kB',
        ),
      );
    }

    // With the application there: from view to view by the rail, each seen before.
    await driver.get(`${address}/settings`);
    await later(driver, "window.seen('#main h1')");
    const go = (label, selector) =>
      later(
        driver,
        `window.seen(arguments[1], arguments[0], () => [...document.querySelectorAll('nav a')].find((link) => link.textContent.trim() === arguments[0]).click())`,
        label,
        selector,
      );
    for (const [name, , selector] of views) {
      const rounds = [];
      for (let round = 0; round <= ROUNDS; round += 1) {
        await go('Settings', '#main h2');
        await wait(600);
        const took = await go(name, selector);
        const tasks = await driver.executeScript('return watched.tasks.map((task) => task.took)');
        if (round > 0) rounds.push({ took, longest: Math.max(0, ...tasks) });
      }
      lines.push(
        line(
          `In the browser, seen before: ${name}`,
          `${ms(median(rounds.map((one) => one.took)))}, longest task ${ms(median(rounds.map((one) => one.longest)))}`,
          '–',
          '–',
          'under 300 ms',
        ),
      );
    }

    // A list of a hundred thousand and more, scrolled.
    const scrolled = async (url, selector, list) => {
      await driver.get(url);
      await later(driver, 'window.seen(arguments[0])', selector);
      await wait(1500);
      return later(
        driver,
        'window.frames(4000, ((list) => () => { list.scrollTop += 420; })((0, eval)(arguments[0])))',
        list,
      );
    };
    const catalogList = `[...document.querySelectorAll('#main *')].filter((one) => one.querySelector('.grid') && one.scrollHeight > one.clientHeight + 1000).pop()`;
    const own = await scrolled(
      `${address}/catalog?filter=${encodeURIComponent('kind:column source:Generated')}`,
      '.grid [role=row][aria-rowindex="2"]',
      catalogList,
    );
    const bare = await scrolled(`${plain.address}/list`, '#list', "document.getElementById('list')");
    lines.push(
      line(
        'In the browser: 960,000 columns scrolled, a frame',
        `${ms(median(own.frames))}, 95 of 100 within ${ms(at(own.frames, 0.95))}, longest task ${ms(Math.max(0, ...own.tasks))}`,
        `${ms(median(bare.frames))}, 95 of 100 within ${ms(at(bare.frames, 0.95))}, a bare list`,
        (median(own.frames) / median(bare.frames)).toFixed(2),
        'no task over 50 ms',
      ),
    );

    // Moving from row to row.
    await driver.get(`${address}/catalog?filter=${encodeURIComponent('kind:table source:Generated')}`);
    await later(driver, 'window.seen(\'.grid [role=row][aria-rowindex="2"]\')');
    await wait(1500);
    const since = await driver.executeScript('watched.tasks.length = 0; return performance.now()');
    const pressed = [];
    for (let n = 0; n < 20; n += 1) {
      const begun = performance.now();
      await driver.actions().sendKeys('j').perform();
      pressed.push(performance.now() - begun);
    }
    await wait(1500);
    const moved = await driver.executeScript('return window.sent(arguments[0])', since);
    const tasks = await driver.executeScript('return watched.tasks.map((task) => task.took)');
    lines.push(
      line(
        'In the browser: j, twenty times (driver and all)',
        `${ms(median(pressed))} each, longest task ${ms(Math.max(0, ...tasks))}, ${(moved.requests / 20).toFixed(1)} requests each`,
        '–',
        '–',
        'no task over 50 ms',
      ),
    );

    // Typing into the palette.
    await driver.get(`${address}/catalog`);
    await later(driver, 'window.seen(\'.grid [role=row][aria-rowindex="2"]\')');
    await wait(1000);
    await driver.actions().keyDown(Key.CONTROL).sendKeys('k').keyUp(Key.CONTROL).perform();
    await later(driver, "window.seen('.mantine-Spotlight-search')");
    await wait(500);
    await driver.executeScript('watched.tasks.length = 0');
    const begun = await driver.executeScript('return performance.now()');
    for (const letter of 'harbour_tick') {
      await driver.actions().sendKeys(letter).perform();
      await wait(80);
    }
    const last = performance.now();
    await driver.wait(
      async () =>
        (await driver.executeScript(
          "return [...document.querySelectorAll('.mantine-Spotlight-action')].some((one) => one.textContent.includes('harbour_ticket'))",
        )) === true,
      60_000,
      'nothing is offered',
      20,
    );
    const offered = performance.now() - last;
    await wait(800);
    const typed = await driver.executeScript('return watched.tasks.map((task) => task.took)');
    const asked = await driver.executeScript('return window.sent(arguments[0])', begun);
    lines.push(
      line(
        'In the browser: twelve letters typed into the palette, until what is meant is offered after the last',
        `${ms(offered)}, longest task ${ms(Math.max(0, ...typed))}, ${asked.requests} requests`,
        '–',
        '–',
        'no task over 50 ms',
      ),
    );
    await driver.actions().sendKeys(Key.ESCAPE).perform();

    // One saved description, until it is quiet.
    await driver.get(`${address}/assets/${made.wide}`);
    await later(driver, "window.seen('#columns [data-at]')");
    await wait(2000);
    await driver.findElement(By.css('[aria-label="Edit Description"]')).click();
    const text = await driver.findElement(By.css('textarea[aria-label="Description"]'));
    await text.sendKeys('What the ledger holds.');
    const saving = await driver.executeScript('return performance.now()');
    await text.sendKeys(Key.chord(Key.CONTROL, Key.ENTER));
    let quiet = { requests: -1 };
    for (let still = 0; still < 3; ) {
      await wait(400);
      const now = await driver.executeScript('return window.sent(arguments[0])', saving);
      still = now.requests === quiet.requests ? still + 1 : 0;
      quiet = now;
    }
    lines.push(
      line(
        'In the browser: a description saved on the page of 1,500 columns, until it is quiet',
        `${quiet.requests} requests, ${kB(quiet.bytes)}`,
        '–',
        '–',
        '–',
      ),
    );
  } finally {
    await driver.quit();
    plain.close();
  }
  return lines;
}
