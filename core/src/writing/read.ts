import { fromMarkdown } from 'mdast-util-from-markdown';
import { gfmFromMarkdown } from 'mdast-util-gfm';
import { toString as plainText } from 'mdast-util-to-string';
import { gfm } from 'micromark-extension-gfm';
import { visit } from 'unist-util-visit';
import { escaped, type Mentioned, targetOf } from './mentions.ts';

/** A mention in a text: its label, which stands between brackets, is written at `at` when the text is shown. */
export interface Mention {
  readonly at: number;
  readonly kind: Mentioned;
  readonly id: string;
}

/** A text that people wrote in Markdown (CommonMark 0.31 with the extensions of GitHub Flavored Markdown), as it is kept. */
export interface Written {
  /** Without the labels of mentions: these are what the mentioned is called when the text is read. */
  readonly text: string;
  readonly mentions: readonly Mention[];
  /** Ids of the pictures that it shows. */
  readonly pictures: readonly string[];
  /** What it says, without marks, and without the names of assets that it mentions: for who looks for its words. */
  readonly plain: string;
}

/** A text whose quotes or lists lie within each other beyond what anybody means, and beyond what a reader's browser should have to follow. */
export class WrittenTooDeep extends Error {}
const DEEPEST = 30;
/** The beginning of a line that opens so many quotes or items of lists. */
const DEEP = new RegExp(`^(?:[ \\t]*(?:>|(?:[-+*]|\\d{1,9}[.)])(?=[ \\t]))){${DEEPEST}}`, 'm');

/** The tree of a Markdown text. @throws WrittenTooDeep */
export function treeOf(markdown: string) {
  const line = DEEP.exec(markdown);
  if (line) {
    const at = markdown.slice(0, line.index).split('\n').length;
    throw new WrittenTooDeep(`Line ${at} lies more than ${DEEPEST} quotes or lists deep.`);
  }
  return fromMarkdown(markdown, { extensions: [gfm()], mdastExtensions: [gfmFromMarkdown()] });
}

/**
 * Reads a text as somebody wrote it: what it mentions and shows, and how it is kept. A mention without a label is one, too.
 * @param markdown of bounded length: it is parsed as a whole
 * @throws WrittenTooDeep
 */
export function readWritten(markdown: string): Written {
  const whole = markdown.replace(/\r\n?/g, '\n').trimEnd();
  const found: { from: number; to: number; kind: Mentioned; id: string }[] = [];
  const pictures: string[] = [];
  const tree = treeOf(whole);
  visit(tree, (node) => {
    if (node.type === 'image') {
      const target = targetOf(node.url);
      if (target?.kind === 'picture') pictures.push(target.id);
    }
    if (node.type !== 'link') return;
    const target = targetOf(node.url);
    const [start, end] = [node.position?.start.offset, node.position?.end.offset];
    if (!target || target.kind === 'picture' || start === undefined || end === undefined) return;
    // Only as an inline link: `[label](idrel:…)`; what a reference or an angle bracket names is left as it is.
    const tail = `](idrel:${target.kind}/${target.id})`;
    if (whole[start] !== '[' || !whole.slice(start, end).endsWith(tail)) return;
    found.push({ from: start + 1, to: end - tail.length, kind: target.kind, id: target.id });
    // What an asset is called is not for everybody who may read what is said of it.
    if (target.kind === 'asset') node.children = [{ type: 'text', value: '…' }];
  });
  let text = '';
  let done = 0;
  const mentions = found.map(({ from, to, kind, id }): Mention => {
    text += whole.slice(done, from);
    done = to;
    return { at: text.length, kind, id };
  });
  return { text: text + whole.slice(done), mentions, pictures: [...new Set(pictures)], plain: saidIn(tree) };
}

/** The words of a tree, block by block. */
function saidIn(tree: ReturnType<typeof treeOf>): string {
  const said: string[] = [];
  visit(tree, (node) => {
    if (['paragraph', 'heading', 'code', 'tableCell'].includes(node.type)) said.push(plainText(node));
  });
  return said.join('\n');
}

/** A kept text with each mention called as it is called now. @param labelOf what to call a mention by, for whoever reads */
export function labelled(
  { text, mentions }: Pick<Written, 'text' | 'mentions'>,
  labelOf: (mention: Mention) => string,
): string {
  let shown = '';
  let done = 0;
  for (const mention of mentions) {
    shown += text.slice(done, mention.at) + escaped(labelOf(mention));
    done = mention.at;
  }
  return shown + text.slice(done);
}
