import { diff3MergeRegions, diffComm } from 'node-diff3';
import { treeOf, WrittenTooDeep } from './read.ts';

/** So many paragraphs are compared one by one; a text of more is one block. */
const BLOCKS_MOST = 2000;
/** Stands between paragraphs while texts are compared, so that changes of neighbours do not touch. */
const BETWEEN = '\u2029';

/** The paragraphs of a text, its headings, items of lists, tables …, each with the blank lines after it: joined they are the text. */
export function blocksOf(markdown: string): string[] {
  const tree = treeOrNone(markdown);
  if (!tree) return [markdown];
  const starts = tree.children.flatMap((node) => (node.type === 'list' ? node.children : [node]));
  // Where the line begins in which a block does.
  const cuts = starts.map(({ position }) => (position ? (position.start.offset ?? 0) - position.start.column + 1 : 0));
  const at = [...new Set([0, ...cuts, markdown.length])].sort((a, b) => a - b);
  const blocks = at.slice(1).map((end, index) => markdown.slice(at[index], end));
  return blocks.length > BLOCKS_MOST ? [markdown] : blocks;
}

/** A text that somebody is still typing may lie too deep to be read: then it is one block, and is refused where it is saved. */
function treeOrNone(markdown: string): ReturnType<typeof treeOf> | undefined {
  try {
    return treeOf(markdown);
  } catch (error) {
    if (error instanceof WrittenTooDeep) return undefined;
    throw error;
  }
}

const keyOf = (block: string) => block.trim();
const between = (blocks: readonly string[]): string[] =>
  blocks.flatMap((block, index) => (index === 0 ? [keyOf(block)] : [BETWEEN, keyOf(block)]));

/** A part of two texts that came of one: what stands for both, or what each made of the same paragraphs. */
export type Part =
  | { readonly settled: true; readonly text: string; readonly by: 'nobody' | 'me' | 'them' }
  | { readonly settled: false; readonly mine: string; readonly base: string; readonly theirs: string };

/**
 * Puts together what two people made of the same text, paragraph by paragraph: what only one of them changed is as they made it.
 * @returns the parts in their order; those that both changed, and not to the same, are not settled
 */
export function mergeWritten(base: string, mine: string, theirs: string): Part[] {
  const [b, m, t] = [blocksOf(base), blocksOf(mine), blocksOf(theirs)];
  const regions = diff3MergeRegions(between(m), between(b), between(t));
  const text = (blocks: readonly string[], from: number, length: number) => cut(blocks, from, length);
  return joinedParts(
    regions.map((region): Part => {
      if (region.stable) {
        const blocks = { a: m, o: b, b: t }[region.buffer];
        const by = { a: 'me', o: 'nobody', b: 'them' } as const;
        return { settled: true, text: text(blocks, region.bufferStart, region.bufferLength), by: by[region.buffer] };
      }
      const [mineText, baseText, theirText] = [
        text(m, region.aStart, region.aLength),
        text(b, region.oStart, region.oLength),
        text(t, region.bStart, region.bLength),
      ];
      if (keyOf(mineText) === keyOf(theirText)) return { settled: true, text: theirText, by: 'them' };
      return { settled: false, mine: mineText, base: baseText, theirs: theirText };
    }),
  );
}

/** The blocks of a stretch in which every second place is one between blocks. */
const cut = (blocks: readonly string[], from: number, length: number): string =>
  joined(blocks.slice(Math.ceil(from / 2), Math.ceil((from + length) / 2)));

/** Blocks one after the other; the last of a text has no blank line after it, and gets one where another follows. */
export function joined(blocks: readonly string[]): string {
  const said = blocks.filter((block) => block.trim() !== '');
  return said
    .map((block, index) => (index < said.length - 1 && !block.endsWith('\n') ? `${block}\n\n` : block))
    .join('');
}

/** Neighbours of one origin are one part; what is empty is none. */
function joinedParts(parts: readonly Part[]): Part[] {
  const all: Part[] = [];
  for (const part of parts) {
    const last = all.at(-1);
    if (part.settled && part.text.trim() === '') continue;
    if (last?.settled && part.settled && last.by === part.by)
      all[all.length - 1] = { ...last, text: joined([last.text, part.text]) };
    else all.push(part);
  }
  return all;
}

/** The text of parts that are all settled; of others, what `choose` takes. */
export const mergedText = (
  parts: readonly Part[],
  choose: (part: Extract<Part, { settled: false }>, index: number) => string,
): string => joined(parts.map((part, index) => (part.settled ? part.text : choose(part, index)))).trimEnd();

/** What became of a stretch of one text in another: it stands in both, or is gone, come, or both. */
export type Difference = { readonly same: string } | { readonly gone: string; readonly come: string };

/** How one text differs from another, paragraph by paragraph. */
export const compareWritten = (before: string, after: string): Difference[] =>
  differences(blocksOf(before).map(keyOf), blocksOf(after).map(keyOf), (one, next) =>
    isItem(one) && isItem(next) ? '\n' : '\n\n',
  );
const isItem = (block: string) => /^(?:[-+*]|\d{1,9}[.)])\s/.test(block);

const WORDS_MOST = 4000;
/** How one paragraph differs from another, word by word. */
export function compareWords(before: string, after: string): Difference[] {
  const [b, a] = [before, after].map((text) => text.split(/(?<=\s)(?=\S)/));
  if (!b || !a || b.length + a.length > WORDS_MOST) return [{ gone: before, come: after }];
  return differences(b, a, () => '');
}

function differences(before: string[], after: string[], between: (one: string, next: string) => string): Difference[] {
  const text = (parts: readonly string[] = []) =>
    parts.reduce((all, part, index) => all + (index === 0 ? '' : between(parts[index - 1] ?? '', part)) + part, '');
  return diffComm(before, after).map((part) =>
    part.common ? { same: text(part.common) } : { gone: text(part.buffer1), come: text(part.buffer2) },
  );
}
