// @vitest-environment jsdom

import { screen, within } from '@testing-library/react';
import { Editor as Core } from '@tiptap/core';
import { describe, expect, it } from 'vitest';
import { pretended } from '../testing/view.tsx';
import { addFootnote } from './footnote.ts';
import { kit } from './kit.ts';
import { WrittenText } from './WrittenText.tsx';

const { show } = pretended();
const NOTED = 'As counted[^1].\n\n[^1]: At the gangway.';

describe('a text as it is read', () => {
  it('leads to its footnotes and back, each text to its own', () => {
    show(
      <>
        <section aria-label="one">
          <WrittenText text={NOTED} />
        </section>
        <section aria-label="other">
          <WrittenText text={NOTED} />
        </section>
      </>,
    );
    const targets = ['one', 'other'].map((name) => {
      const text = screen.getByRole('region', { name });
      const sign = within(text).getByRole('link', { name: '1' });
      const note = document.getElementById(decodeURIComponent(sign.getAttribute('href')?.slice(1) ?? ''));
      expect(note?.textContent).toContain('At the gangway.');
      expect(text.contains(note)).toBe(true);
      expect(sign.getAttribute('target')).toBeNull();
      const back = within(note as HTMLElement).getByRole('link');
      expect(decodeURIComponent(back.getAttribute('href') ?? '')).toBe(`#${sign.id}`);
      return sign.getAttribute('href');
    });
    expect(new Set(targets).size).toBe(2);
  });

  it('shows what is done and what is to do', () => {
    show(<WrittenText text={'- [x] ask\n- [ ] write'} />);
    expect(screen.getAllByRole('img').map((box) => box.getAttribute('aria-label'))).toEqual(['done', 'to do']);
  });
});

describe('a footnote that is added', () => {
  it('gets the next free number, and stands at the end, where one goes on writing', () => {
    const editor = new Core({ extensions: kit({}), content: `${NOTED}\n\nThe end`, contentType: 'markdown' });
    editor.commands.setTextSelection(3);
    addFootnote(editor);
    editor.commands.insertContent('By hand.');
    expect(editor.getMarkdown().trimEnd()).toBe(
      'As[^2] counted[^1].\n\n[^1]: At the gangway.\n\nThe end\n\n[^2]: By hand.',
    );
    editor.destroy();
  });
});
