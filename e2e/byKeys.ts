import { Key } from 'selenium-webdriver';
import { Person } from './browser.ts';

/** So many steps of the tab key lead around any view. */
const STEPS = 600;
/** What the element in focus is called, as a screen reader would say it. */
const FOCUSED = `
  const el = document.activeElement;
  if (!el || el === document.body) return null;
  const labelled = (el.getAttribute('aria-labelledby') ?? '').split(' ').map((id) => document.getElementById(id)?.textContent ?? '').join(' ').trim();
  const text = (it) => (it?.textContent ?? '').replace('*', '').replace(/\\s+/g, ' ').trim();
  return [el.getAttribute('aria-label'), labelled, text(el.labels?.[0]), text(el)].filter(Boolean);`;

/** A person without a mouse: everything is reached by the tab key and done by Enter, the space bar, arrows and letters. */
export class ByKeys extends Person {
  /** Moves the focus on until it is on what is called so. */
  async reach(words: string): Promise<void> {
    let left = 0;
    for (let step = 0; step < STEPS; step += 1) {
      const names = await this.driver.executeScript<string[] | null>(FOCUSED);
      if (names?.includes(words)) return;
      if (names === null) left += 1;
      // Twice around the view.
      if (left > 3) break;
      await this.key(Key.TAB);
    }
    throw new Error(`The tab key does not lead to “${words}”.`);
  }

  /** The same, as soon as it is there. */
  async await(words: string): Promise<void> {
    for (let tries = 0; ; tries += 1) {
      try {
        return await this.reach(words);
      } catch (error) {
        if (tries >= 4) throw error;
        await this.driver.sleep(700);
      }
    }
  }

  override async press(words: string): Promise<void> {
    await this.await(words);
    await this.key(Key.ENTER);
  }

  /** Checks or unchecks a box, or takes a choice of several. */
  async tick(words: string): Promise<void> {
    await this.await(words);
    await this.key(Key.SPACE);
  }

  override async fill(label: string, text: string): Promise<void> {
    await this.await(label);
    await this.driver.actions().keyDown(Key.CONTROL).sendKeys('a').keyUp(Key.CONTROL).perform();
    await this.key(Key.DELETE, text);
  }

  override async choose(label: string, option: string, typed = option): Promise<void> {
    await this.await(label);
    const free = await this.driver.executeScript<boolean>('return !document.activeElement.readOnly');
    if (free) {
      await this.driver.actions().keyDown(Key.CONTROL).sendKeys('a').keyUp(Key.CONTROL).perform();
      await this.key(typed);
    }
    for (let step = 0; step < 60; step += 1) {
      const on = await this.driver.executeScript<string | null>(
        `return [...document.querySelectorAll('[role=option][data-combobox-selected]')].find((el) => el.offsetParent !== null)?.textContent ?? null`,
      );
      if (on?.includes(option)) {
        await this.key(Key.ENTER);
        return;
      }
      await this.key(Key.ARROW_DOWN);
      await this.driver.sleep(60);
    }
    throw new Error(`The arrows do not lead to “${option}” in ${label}.`);
  }
}
