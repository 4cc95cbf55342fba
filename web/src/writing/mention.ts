import type { Mentionable } from '@idrel/contract/writing';
import { MENTIONED, mentionText } from '@idrel/core/writing/mentions';
import { mergeAttributes, Node } from '@tiptap/core';
import { Suggestion, type SuggestionProps } from '@tiptap/suggestion';

/** What is offered while somebody types `@` and words after it. */
export interface Offer {
  readonly items: readonly Mentionable[];
  readonly take: (item: Mentionable) => void;
  /** Where the text stands that it is offered for. */
  readonly at: DOMRect | null;
}

export interface Options {
  readonly find: (words: string) => Promise<readonly Mentionable[]>;
  readonly offer: (offer: Offer | null) => void;
  /** A key while something is offered. @returns whether it was for the offer */
  readonly onKey: (event: KeyboardEvent) => boolean;
}

const AS_WRITTEN = new RegExp(`^\\[((?:\\\\.|[^\\]\\\\])*)\\]\\(idrel:(${MENTIONED.join('|')})/([0-9a-f-]{36})\\)`);

/** A mention of a person, a group, an asset or a term: one piece in the text, a link in its Markdown. */
export const Mention = Node.create<Options>({
  name: 'mention',
  group: 'inline',
  inline: true,
  selectable: true,
  atom: true,
  addOptions: () => ({ find: async () => [], offer: () => undefined, onKey: () => false }),
  addAttributes: () => ({ kind: {}, id: {}, label: {} }),
  parseHTML: () => [
    {
      tag: 'span[data-mention]',
      getAttrs: (element) => ({
        kind: element.getAttribute('data-mention'),
        id: element.getAttribute('data-id'),
        label: element.textContent,
      }),
    },
  ],
  renderHTML: ({ node, HTMLAttributes: { kind, id, label: _label, ...rest } }) => [
    'span',
    mergeAttributes(rest, { 'data-mention': kind, 'data-id': id, class: `mention of-${kind}` }),
    String(node.attrs.label),
  ],
  renderText: ({ node }) => String(node.attrs.label),
  markdownTokenName: 'mention',
  markdownTokenizer: {
    name: 'mention',
    level: 'inline',
    start: (text: string) => text.search(/\[(?:\\.|[^\]\\])*\]\(idrel:/),
    tokenize: (text: string) => {
      const found = AS_WRITTEN.exec(text);
      if (!found) return undefined;
      const [raw, label = '', kind, id] = found;
      return { type: 'mention', raw, attributes: { kind, id, label: label.replace(/\\(.)/g, '$1') } };
    },
  },
  parseMarkdown: (token, helpers) => helpers.createNode('mention', token.attributes ?? {}, []),
  renderMarkdown: ({ attrs }) => mentionText(attrs?.kind, attrs?.id, String(attrs?.label ?? '')),
  addProseMirrorPlugins() {
    const { find, offer, onKey } = this.options;
    const offered = ({ items, command, clientRect }: SuggestionProps<Mentionable, Mentionable>) =>
      offer({ items, take: command, at: clientRect?.() ?? null });
    return [
      Suggestion<Mentionable, Mentionable>({
        editor: this.editor,
        char: '@',
        allowSpaces: true,
        items: async ({ query }) => [...(await find(query))],
        command: ({ editor, range, props: { kind, id, name } }) =>
          editor
            .chain()
            .focus()
            .insertContentAt(range, [
              { type: 'mention', attrs: { kind, id, label: name } },
              { type: 'text', text: ' ' },
            ])
            .run(),
        render: () => ({
          onStart: offered,
          onUpdate: offered,
          onExit: () => offer(null),
          onKeyDown: ({ event }) => onKey(event),
        }),
      }),
    ];
  },
});
