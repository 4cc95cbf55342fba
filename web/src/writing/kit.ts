import { Image } from '@tiptap/extension-image';
import { TaskItem, TaskList } from '@tiptap/extension-list';
import { Paragraph } from '@tiptap/extension-paragraph';
import { TableKit } from '@tiptap/extension-table';
import { Markdown } from '@tiptap/markdown';
import { StarterKit } from '@tiptap/starter-kit';
import { Footnote, FootnoteSign } from './footnote.ts';
import { Mention } from './mention.ts';
import { pictureAddress, pictureId } from './pictureAddress.ts';

/** What would make a heading, a quote or a list of a line that somebody meant as it is. */
const OPENING = /^([ \t]*)(?:([-+>]|#{1,6}(?=\s|$))|(\d{1,9})([.)])(?=\s|$))/gm;
const asTyped = (markdown: string) =>
  markdown.replace(OPENING, (_all, space: string, mark = '', digits = '', dot = '') =>
    mark ? `${space}\\${mark}` : `${space}${digits}\\${dot}`,
  );

/** A paragraph whose lines stay lines of a paragraph. */
const PlainParagraph = Paragraph.extend({
  renderMarkdown(node, helpers, context) {
    return asTyped(this.parent?.(node, helpers, context) ?? '');
  },
});

/** Pictures are shown from where they are kept, and written by their ids. */
const Picture = Image.extend({
  parseMarkdown: (token, helpers) =>
    helpers.createNode('image', { src: pictureAddress(token.href ?? ''), title: token.title, alt: token.text }),
  renderMarkdown: ({ attrs }) =>
    `![${String(attrs?.alt ?? '').replace(/[[\]]/g, '\\$&')}](${pictureId(String(attrs?.src ?? ''))})`,
});

/** What a text can be made of. @param short for a few lines: without headings and tables */
export const kit = (
  { short = false, pictures = false }: { short?: boolean; pictures?: boolean },
  mention: Parameters<typeof Mention.configure>[0] = {},
) => [
  StarterKit.configure({
    ...(short ? { heading: false, horizontalRule: false } : { heading: { levels: [2, 3, 4] } }),
    paragraph: false,
    underline: false,
    link: { openOnClick: false, autolink: true, defaultProtocol: 'https' },
  }),
  PlainParagraph,
  TaskList,
  TaskItem.configure({
    nested: true,
    a11y: { checkboxLabel: (node, checked) => `${node.textContent || 'Nothing yet'}: ${checked ? 'done' : 'to do'}` },
  }),
  Markdown,
  ...(short ? [] : [FootnoteSign, Footnote]),
  ...(short ? [] : [TableKit.configure({ table: { resizable: false } })]),
  ...(pictures ? [Picture] : []),
  Mention.configure(mention),
];
