import { type Editor, Node } from '@tiptap/core';

/** The name of a footnote within brackets, as GitHub's flavour of Markdown has it: `[^name]`. */
const NAME = '\\[\\^((?:\\\\.|[^\\]\\s\\\\])+)\\]';
const LED = new RegExp(`^${NAME}(?!:)`);
/** A footnote itself: its first line, the lines that go on, and paragraphs that are set in. */
const SAID = new RegExp(
  `^${NAME}:[ \\t]*([^\\n]*(?:\\n(?!\\s*\\n|\\[\\^)[^\\n]+)*(?:\\n\\s*\\n {4}[^\\n]*(?:\\n(?!\\s*\\n|\\[\\^)[^\\n]+)*)*)(?:\\n+|$)`,
);
const SET_IN = '    ';

/** Where a text leads to a footnote: one sign in it. */
export const FootnoteSign = Node.create({
  name: 'footnoteSign',
  group: 'inline',
  inline: true,
  atom: true,
  selectable: true,
  addAttributes: () => ({ label: {} }),
  parseHTML: () => [
    { tag: 'sup[data-footnote]', getAttrs: (element) => ({ label: element.getAttribute('data-footnote') }) },
  ],
  renderHTML: ({ node }) => ['sup', { 'data-footnote': node.attrs.label }, String(node.attrs.label)],
  renderText: ({ node }) => `[^${node.attrs.label}]`,
  markdownTokenName: 'footnoteSign',
  markdownTokenizer: {
    name: 'footnoteSign',
    level: 'inline',
    start: (text: string) => text.indexOf('[^'),
    tokenize: (text: string) => {
      const [raw, label] = LED.exec(text) ?? [];
      return raw === undefined ? undefined : { type: 'footnoteSign', raw, attributes: { label } };
    },
  },
  parseMarkdown: (token, helpers) => helpers.createNode('footnoteSign', token.attributes ?? {}, []),
  renderMarkdown: ({ attrs }) => `[^${attrs?.label}]`,
});

/** A footnote: paragraphs under the name that signs lead to. */
export const Footnote = Node.create({
  name: 'footnote',
  group: 'block',
  content: 'paragraph+',
  defining: true,
  addAttributes: () => ({ label: {} }),
  parseHTML: () => [
    { tag: 'div[data-footnote]', getAttrs: (element) => ({ label: element.getAttribute('data-footnote') }) },
  ],
  renderHTML: ({ node }) => ['div', { 'data-footnote': node.attrs.label, class: 'footnote' }, 0],
  markdownTokenName: 'footnote',
  markdownTokenizer: {
    name: 'footnote',
    level: 'block',
    start: (text: string) => text.search(/^\[\^/m),
    tokenize: (text: string, _tokens, lexer) => {
      const [raw, label, said = ''] = SAID.exec(text) ?? [];
      if (raw === undefined) return undefined;
      const paragraphs = said.split(/\n\s*\n/).map((paragraph) => paragraph.replace(/^[ \t]+/gm, '').trim());
      return {
        type: 'footnote',
        raw,
        attributes: { label },
        tokens: paragraphs.map((paragraph) => ({
          type: 'paragraph',
          raw: paragraph,
          text: paragraph,
          tokens: lexer.inlineTokens(paragraph),
        })),
      };
    },
  },
  parseMarkdown: (token, helpers) =>
    helpers.createNode('footnote', token.attributes ?? {}, helpers.parseChildren(token.tokens ?? [])),
  renderMarkdown: (node, helpers) => {
    const paragraphs = (node.content ?? []).map((paragraph) => helpers.renderChildren([paragraph]));
    return `[^${node.attrs?.label}]: ${paragraphs.join('\n\n').replace(/\n(?=[^\n])/g, `\n${SET_IN}`)}`;
  },
});

/** Leads to a new footnote from where the cursor stands, and goes on in it: at the end of the text, under the next free number. */
export function addFootnote(editor: Editor): void {
  const taken = new Set<string>();
  editor.state.doc.descendants(({ type, attrs }) => {
    if (type.name === 'footnoteSign' || type.name === 'footnote') taken.add(String(attrs.label));
  });
  let label = 1;
  while (taken.has(String(label))) label += 1;
  const attrs = { label: String(label) };
  editor
    .chain()
    .focus()
    .insertContent({ type: 'footnoteSign', attrs })
    .command(({ tr, state, dispatch }) => {
      const { footnote, paragraph } = state.schema.nodes;
      if (!footnote || !paragraph) return false;
      if (dispatch) tr.insert(tr.doc.content.size, footnote.create(attrs, paragraph.create()));
      return true;
    })
    .setTextSelection(Number.MAX_SAFE_INTEGER)
    .run();
}
