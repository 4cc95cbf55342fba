// @vitest-environment jsdom
import { describe, expect, it } from 'vitest';
import { leavesKey } from './keyTarget.ts';

const element = (html: string): Element => {
  document.body.innerHTML = html;
  return document.body.querySelector('[data-here]') ?? document.body;
};

describe('a key of a view', () => {
  it.each([
    ['on the page itself', '<p data-here>text</p>', 'j', true],
    ['in a field', '<input data-here>', 'j', false],
    ['in a search', '<input type="search" data-here>', '/', false],
    ['in a longer text', '<textarea data-here></textarea>', 'j', false],
    ['in a list of choices', '<select data-here></select>', 'j', false],
    ['on a box, a letter', '<input type="checkbox" data-here>', 'x', true],
    ['on a box, Enter', '<input type="checkbox" data-here>', 'Enter', false],
    ['on a choice, an arrow', '<input type="radio" data-here>', 'ArrowDown', false],
    ['on a link, a letter', '<a href="/x" data-here>x</a>', 'j', true],
    ['on a link, Enter', '<a href="/x" data-here>x</a>', 'Enter', false],
    ['within a button, Enter', '<button><span data-here>x</span></button>', 'Enter', false],
    ['on a button, Escape', '<button data-here>x</button>', 'Escape', true],
    ['on a row, Enter', '<div role="row" tabindex="0" data-here>x</div>', 'Enter', true],
  ])('%s', (_, html, pressed, leaves) => expect(leavesKey(element(html), pressed)).toBe(leaves));
});
