// @vitest-environment jsdom
import { mentionText, readWritten } from '@idrel/core/writing';
import { Editor as Core } from '@tiptap/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { kit } from './kit.ts';

const ID = '01a21c55-2d90-7000-8000-92ec3b52829d';
const through = (markdown: string): string => {
  const editor = new Core({
    extensions: kit({ pictures: true }),
    content: markdown,
    contentType: 'markdown',
  });
  const written = editor.getMarkdown();
  editor.destroy();
  return written;
};
const words = (markdown: string) => readWritten(markdown).plain.replace(/\s+/g, ' ').trim();

const word = fc.stringMatching(/^[a-z_.*[\]<>&#|`~\\+-]{1,10}$/);
const line = fc.array(word, { minLength: 1, maxLength: 6 }).map((list) => list.join(' '));

describe('what goes into the field for long texts comes out again', () => {
  it.each([
    ['## Heading\n\nText with **bold**, *soft* and `code_2`.'],
    ['- one\n- two\n  - below\n- three'],
    ['1. first\n2. second'],
    ['- [ ] ask the crew\n- [x] read the log\n  - [ ] twice'],
    ['As counted[^1], and again[^twice].\n\n[^1]: At the gangway.\n\n[^twice]: By `hand`.'],
    ['Here[^a].\n\n[^a]: One **line**\n    that goes on.\n\n    And a second paragraph.\n\nAfter it.'],
    ['```sql\nselect *\n\nfrom a_b;\n```'],
    ['> said\n\n---\n\nafter'],
    ['[a link](https://example.org/a?b=1&c=2)'],
    [`Ask ${mentionText('person', ID, 'Rafe [Q]')} about ${mentionText('asset', ID, 'core.a_b')}, now.`],
    [`![the map](idrel:picture/${ID})`],
    ['\\# no heading\\\n\\- no item'],
    ['| a | b |\n| --- | --- |\n| 1 | 2 |'],
  ])('%s', (markdown) => {
    const once = through(markdown);
    expect(words(once)).toBe(words(markdown));
    expect(readWritten(once).mentions.map(({ kind, id }) => [kind, id])).toEqual(
      readWritten(markdown).mentions.map(({ kind, id }) => [kind, id]),
    );
    // The second time nothing changes any more: paragraphs that nobody touched are the same when texts are put together.
    expect(through(once)).toBe(once);
  });

  it('also letters that mean something in Markdown, typed as they are', () => {
    fc.assert(
      fc.property(line, (typed) => {
        const editor = new Core({
          extensions: kit({}),
        });
        editor.commands.setContent({
          type: 'doc',
          content: [{ type: 'paragraph', content: [{ type: 'text', text: typed }] }],
        });
        const markdown = editor.getMarkdown();
        editor.destroy();
        expect(words(markdown)).toBe(typed);
      }),
    );
  });
});
