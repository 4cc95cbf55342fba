import { Key } from 'selenium-webdriver';
import { Person } from './browser.ts';

/** So many steps of the tab key lead around any view. */
const STEPS = 300;
/** What the element in focus is called, as a screen reader would say it. */
const FOCUSED = `
  const el = document.activeElement;
  if (!el || el === document.body) return null;
  const labelled = (el.getAttribute('aria-labelledby') ?? '').split(' ').map((id) => document.getElementById(id)?.textContent ?? '').join(' ').trim();
  const text = (it) => (it?.textContent ?? '').replace('*', '').replace(/\\s+/g, ' ').trim();
  return [el.getAttribute('aria-label'), labelled, text(el.labels?.[0]), text(el)].filter(Boolean);`;
const IS_FIELD = `return ['INPUT', 'TEXTAREA'].includes(document.activeElement.tagName)`;

/** A person without a mouse: everything is reached by the tab key and done by Enter, the space bar, arrows and letters. */
export class ByKeys extends Person {
  /** Moves the focus on until it is on what is called so. @param words with a star at the end: what begins so */
  async reach(words: string, what: 'anything' | 'a field' = 'anything'): Promise<void> {
    let left = 0;
    for (let step = 0; step < STEPS; step += 1) {
      const names = await this.driver.executeScript<string[] | null>(FOCUSED);
      const fits = what === 'anything' || (await this.driver.executeScript<boolean>(IS_FIELD));
      if (fits && names?.some((name) => (words.endsWith('*') ? name.startsWith(words.slice(0, -1)) : name === words)))
        return;
      if (names === null) left += 1;
      // Twice around the view.
      if (left > 2) break;
      await this.key(Key.TAB);
    }
    throw new Error(`The tab key does not lead to “${words}”; the page says: ${(await this.text()).slice(0, 3000)}`);
  }

  /** The same, as soon as it is there. */
  async await(words: string, what: 'anything' | 'a field' = 'anything'): Promise<void> {
    for (let tries = 0; ; tries += 1) {
      try {
        return await this.reach(words, what);
      } catch (error) {
        if (tries >= 2) throw error;
        await this.driver.sleep(700);
      }
    }
  }

  override async press(words: string): Promise<void> {
    await this.await(words);
    await this.key(Key.ENTER);
  }

  /** A key with the control key held. */
  async control(key: string): Promise<void> {
    await this.driver.actions().keyDown(Key.CONTROL).sendKeys(key).keyUp(Key.CONTROL).perform();
  }

  /** Turns from one of several to another, by the arrows. */
  async turn(from: string, to: string): Promise<void> {
    await this.await(from);
    for (let step = 0; step < 8; step += 1) {
      await this.key(Key.ARROW_RIGHT);
      const names = await this.driver.executeScript<string[] | null>(FOCUSED);
      if (names?.includes(to)) return;
    }
    throw new Error(`The arrows do not lead from “${from}” to “${to}”.`);
  }

  /** Checks or unchecks a box, or takes a choice of several. */
  async tick(words: string): Promise<void> {
    await this.await(words);
    await this.key(Key.SPACE);
  }

  override async fill(label: string, text: string): Promise<void> {
    await this.await(label, 'a field');
    await this.control('a');
    await this.key(Key.DELETE, text);
  }

  override async choose(label: string, option: string, typed = option): Promise<void> {
    await this.await(label, 'a field');
    const free = await this.driver.executeScript<boolean>('return !document.activeElement.readOnly');
    if (free) {
      await this.control('a');
      await this.key(typed);
    }
    for (let step = 0; step < 60; step += 1) {
      const on = await this.driver.executeScript<string | null>(
        `return [...document.querySelectorAll('[role=option][data-combobox-selected]')].find((el) => el.offsetParent !== null)?.textContent ?? null`,
      );
      if (on?.trim().startsWith(option)) {
        await this.key(Key.ENTER);
        return;
      }
      await this.key(Key.ARROW_DOWN);
      await this.driver.sleep(60);
    }
    throw new Error(`The arrows do not lead to “${option}” in ${label}.`);
  }
}
