import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Builder, By, Key, until, type WebDriver, type WebElement } from 'selenium-webdriver';
import chrome from 'selenium-webdriver/chrome.js';

export const ADDRESS = process.env.IDREL_TEST_ADDRESS ?? '';
/** Milliseconds: far above what the slowest machine needs; only a failing test waits so long. */
export const PATIENCE = Number(process.env.IDREL_TEST_PATIENCE ?? 120_000);

const AXE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

/** Where the files lie that this process has the browser keep. */
const KEPT = mkdtempSync(join(tmpdir(), 'idrel-kept-'));
process.on('exit', () => rmSync(KEPT, { recursive: true, force: true }));

/** Headless Chromium at the size that Idrel is designed for. */
export async function openBrowser(): Promise<WebDriver> {
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
    '--disable-dev-shm-usage',
    '--window-size=1280,800',
    '--force-prefers-reduced-motion',
  );
  options.setUserPreferences({ 'download.default_directory': KEPT, 'download.prompt_for_download': false });
  const driver = await new Builder()
    .forBrowser('chrome')
    .setChromeOptions(options)
    .setChromeService(new chrome.ServiceBuilder('/usr/bin/chromedriver'))
    .build();
  await (driver as unknown as { sendDevToolsCommand(name: string, body: object): Promise<void> }).sendDevToolsCommand(
    'Emulation.setDeviceMetricsOverride',
    {
      width: 1280,
      height: 800,
      deviceScaleFactor: 1,
      mobile: false,
    },
  );
  // What a page is asked by a script waits as long as whatever else is waited for: to look over a page takes long where much runs beside it.
  await driver.manage().setTimeouts({ script: PATIENCE });
  return driver;
}

/** What a person does in the browser, in the words of the interface. */
export class Person {
  readonly driver: WebDriver;
  constructor(driver: WebDriver) {
    this.driver = driver;
  }

  async goTo(path: string): Promise<void> {
    await this.driver.get(`${ADDRESS}${path}`);
  }

  async signInAs(name: string): Promise<void> {
    await this.goTo('/');
    await this.press(name);
    await this.see('.shell');
  }

  async see(css: string): Promise<WebElement> {
    const element = await this.driver.wait(until.elementLocated(By.css(css)), PATIENCE, `nothing matches ${css}`);
    return element;
  }

  async xpath(path: string): Promise<WebElement> {
    return this.driver.wait(until.elementLocated(By.xpath(path)), PATIENCE, `nothing matches ${path}`);
  }

  /** Waits until a text stands on the page. */
  async read(text: string): Promise<void> {
    await this.driver
      .wait(async () => (await this.text()).includes(text), PATIENCE, `“${text}” does not appear`)
      .catch(async (error: Error) => {
        // What the page says at the end, not at the beginning.
        throw new Error(`${error.message}; the page says: ${(await this.text()).slice(0, 1500)}`, { cause: error });
      });
  }

  /** The bytes of the file with this ending that the browser keeps next, one letter each; the file is taken away. */
  async kept(ending: string): Promise<string> {
    let found = '';
    await this.driver.wait(
      async () => {
        found = readdirSync(KEPT).find((name) => name.endsWith(ending)) ?? '';
        return found !== '';
      },
      PATIENCE,
      `no file ${ending} is kept`,
    );
    const content = readFileSync(join(KEPT, found), 'latin1');
    rmSync(join(KEPT, found));
    return content;
  }

  /** What can be read on the page, also in its fields. */
  /** Waits until a text stands nowhere any more. */
  async unread(text: string): Promise<void> {
    await this.driver.wait(async () => !(await this.text()).includes(text), PATIENCE, `“${text}” stays`);
  }
  async text(): Promise<string> {
    return this.driver.executeScript<string>(
      "return [document.body.innerText, ...[...document.querySelectorAll('input, textarea')].map((el) => el.value)].join('\\n')",
    );
  }

  /** Presses a button or link by its words. */
  async press(words: string): Promise<void> {
    const path = `//*[self::button or self::a or @role="option" or @role="menuitem"][normalize-space()="${words}" or @aria-label="${words}"]`;
    await this.retry(async () => {
      const element = await this.xpath(path);
      await this.still(element);
      await element.click();
    });
  }

  /** Waits until an element stands still: while what is above it still comes, a click would meet what stands there by then. */
  private async still(element: WebElement): Promise<void> {
    const place = () =>
      this.driver.executeScript<string>(
        'const { top, left } = arguments[0].getBoundingClientRect(); return [top, left].map(Math.round).join();',
        element,
      );
    let before = await place();
    await this.driver.wait(
      async () => {
        await new Promise((resolve) => setTimeout(resolve, 60));
        const now = await place();
        const stands = now === before;
        before = now;
        return stands;
      },
      PATIENCE,
      'what is to be pressed does not stand still',
    );
  }

  /** Fills a field found by its label. */
  async fill(label: string, text: string): Promise<void> {
    await this.retry(async () => {
      const field = await this.field(label);
      await field.click();
      await field.sendKeys(Key.chord(Key.CONTROL, 'a'), Key.DELETE, text);
      const held = await field.getAttribute('value');
      if (held !== text && held !== `${text} %`)
        throw new Error(`“${text}” was typed into ${label}, which holds “${held}”`);
    });
  }

  async field(label: string): Promise<WebElement> {
    return this.driver.wait(
      async () =>
        this.driver.executeScript<WebElement | null>(
          `const wanted = arguments[0];
           const own = [...document.querySelectorAll('input,textarea')].find((el) => el.getAttribute('aria-label') === wanted && el.type !== 'hidden');
           if (own) return own;
           const label = [...document.querySelectorAll('label')].find((el) => el.textContent.replace('*', '').trim() === wanted);
           return label ? document.getElementById(label.getAttribute('for')) : null;`,
          label,
        ),
      PATIENCE,
      `no field is called ${label}`,
    ) as Promise<WebElement>;
  }

  /** Chooses from a list by typing and taking the option. */
  async choose(label: string, option: string, typed = option): Promise<void> {
    await this.retry(async () => {
      const field = await this.field(label);
      await this.driver.wait(() => field.isEnabled(), PATIENCE, `the field ${label} cannot be used`);
      await field.click();
      // A list without search is not typed into: the space bar would close it.
      if ((await field.getAttribute('readonly')) === null) await field.sendKeys(Key.chord(Key.CONTROL, 'a'), typed);
      const found = (await this.driver.wait(
        async () => {
          for (const match of [`normalize-space()="${option}"`, `contains(normalize-space(), "${option}")`]) {
            for (const entry of await this.driver.findElements(By.xpath(`//*[@role="option"][${match}]`)))
              if (await entry.isDisplayed()) return entry;
          }
          return null;
        },
        PATIENCE,
        `no option ${option} is shown`,
      )) as WebElement;
      // What is typed is looked for while the list is open already: an option that moves, or goes, under the press would let it through to what lies below.
      await this.driver.wait(async () => {
        const before = await found.getRect();
        await this.driver.sleep(300);
        const { x, y } = await found.getRect();
        return x === before.x && y === before.y && (await found.isDisplayed());
      }, PATIENCE);
      await found.click();
    });
  }

  /** Types on the page itself, not into a field. */
  async key(...keys: string[]): Promise<void> {
    await this.driver
      .actions()
      .sendKeys(...keys)
      .perform();
  }

  /** A key with the shift key held. */
  async shift(key: string): Promise<void> {
    await this.driver.actions().keyDown(Key.SHIFT).sendKeys(key).keyUp(Key.SHIFT).perform();
  }

  /** An element can be drawn anew between finding and pressing it: then it is found again. */
  async retry(act: () => Promise<void>): Promise<void> {
    for (let tries = 0; ; tries += 1) {
      try {
        return await act();
      } catch (error) {
        const name = (error as Error).name;
        if (
          tries >= 8 ||
          !['StaleElementReferenceError', 'ElementClickInterceptedError', 'ElementNotInteractableError'].includes(name)
        )
          throw error;
        await this.driver.sleep(150);
      }
    }
  }

  /** What axe finds wrong on the page as it stands, each with where. @param only the rules to look with, when not all */
  async axe(only?: readonly string[]): Promise<string[]> {
    for (let looks = 1; ; looks += 1) {
      // What is being asked anew is pale until it is there.
      await this.settled();
      if (!(await this.driver.executeScript('return Boolean(window.axe)'))) await this.driver.executeScript(AXE);
      // A colour on its way to another is none to judge. Only what is wrong is told: to write down all that is right takes longer than to look.
      const { wrong, wasPale } = await this.driver.executeAsyncScript<{ wrong: string[]; wasPale: boolean }>(
        `const [only, done] = arguments;
         // A form asks a moment after the last letter: what went pale while axe looked was not the page as it stands.
         let wasPale = false;
         const pale = () => { wasPale ||= document.querySelector('.fading') !== null; };
         const watch = new MutationObserver(pale);
         watch.observe(document, { subtree: true, childList: true, attributeFilter: ['class'] });
         pale();
         const end = (wrong) => { watch.disconnect(); done({ wrong, wasPale }); };
         const moving = document.getAnimations().filter((one) => Number.isFinite(one.effect?.getComputedTiming().endTime));
         Promise.allSettled(moving.map((one) => one.finished)).then(() => axe.run(document, { resultTypes: ['violations'], ...(only ? { runOnly: only } : {}) })).then(
           ({ violations }) => end(violations.map(({ id, nodes }) => id + ': ' + nodes.slice(0, 4).map((node) => node.target.join(' ') + ' ' + (node.any[0]?.message ?? '')).join(' | '))),
           (error) => end(['axe could not look: ' + error]));`,
        only ?? null,
      );
      if (wrong.length === 0 || !wasPale || looks >= 10) return wrong;
    }
  }

  /** Waits until nothing on the page is being asked for anew. */
  async settled(): Promise<void> {
    await this.driver.wait(
      async () => (await this.driver.findElements(By.css('.fading'))).length === 0,
      PATIENCE,
      'something is asked for on and on',
    );
  }

  /** Goes over to the light or the dark theme where one is. */
  async theme(scheme: 'light' | 'dark'): Promise<void> {
    await this.driver.executeScript(
      `const key = 'mantine-color-scheme-value', [newValue] = arguments;
       localStorage.setItem(key, newValue);
       window.dispatchEvent(new StorageEvent('storage', { key, newValue, storageArea: localStorage }));`,
      scheme,
    );
    await this.see(`[data-mantine-color-scheme="${scheme}"]`);
  }

  async call<T>(path: string): Promise<T> {
    return this.driver.executeAsyncScript<T>(
      "const [path, done] = arguments; fetch('/api/v1' + path).then((answer) => answer.json()).then(done)",
      path,
    );
  }

  /** Sends what a program of this person would. @param version of what it changes */
  async send<T>(method: string, path: string, body: unknown, version?: number): Promise<T> {
    const answer = await this.driver.executeAsyncScript<{ status: number; text: string }>(
      `const [method, path, body, version, done] = arguments;
       fetch('/api/v1' + path, { method, headers: { 'content-type': 'application/json', 'x-idrel-token': sessionStorage.getItem('idrel-token'), ...(version === null ? {} : { 'if-match': '"v' + version + '"' }) }, ...(body === null ? {} : { body: JSON.stringify(body) }) })
         .then(async (answer) => done({ status: answer.status, text: await answer.text() }))`,
      method,
      path,
      body ?? null,
      version ?? null,
    );
    if (answer.status >= 400)
      throw new Error(`${method} ${path} is answered ${answer.status}: ${answer.text.slice(0, 400)}`);
    return (answer.text ? JSON.parse(answer.text) : undefined) as T;
  }

  async picture(file: string): Promise<void> {
    writeFileSync(file, Buffer.from(await this.driver.takeScreenshot(), 'base64'));
  }
}
