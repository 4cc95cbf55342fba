import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  blocksOf,
  compareWords,
  compareWritten,
  labelled,
  mentionText,
  mergedText,
  mergeWritten,
  readWritten,
} from './index.ts';

const ID = '01a21c55-2d90-7000-8000-92ec3b52829d';
const OTHER = '11a21c55-2d90-7000-8000-92ec3b52829d';
/** Paragraphs of a text as people write them; a list keeps its items apart. */
const paragraph = fc.oneof(
  fc.stringMatching(/^[a-z]{1,12}( [a-z]{1,12}){0,5}$/),
  fc.stringMatching(/^## [a-z]{1,12}$/),
  fc.constant('```sql\nselect 1;\n\nselect 2;\n```'),
  fc.constant('| a | b |\n| - | - |\n| 1 | 2 |'),
  fc.constant('- one\n- two\n  - below\n- three'),
  fc.constant('1. first\n\n   goes on\n\n2. second'),
  fc.constant('> said by somebody\n> else'),
);
const paragraphs = fc.array(paragraph, { minLength: 1, maxLength: 8 });
const text = paragraphs.map((list) => list.join('\n\n'));
const unsettled = () => {
  throw new Error('nothing should be unsettled');
};

describe('what is kept of a text', () => {
  it('keeps mentions without their labels, and writes them with what they are called now', () => {
    const written = `See ${mentionText('asset', ID, 'core.[sales]')} and [Rafe](idrel:person/${OTHER}).`;
    const read = readWritten(written);
    expect(read.text).toBe(`See [](idrel:asset/${ID}) and [](idrel:person/${OTHER}).`);
    expect(read.mentions.map(({ kind, id }) => [kind, id])).toEqual([
      ['asset', ID],
      ['person', OTHER],
    ]);
    expect(labelled(read, ({ kind }) => (kind === 'asset' ? 'core.*sold*' : 'R. Quillon'))).toBe(
      `See [core.\\*sold\\*](idrel:asset/${ID}) and [R. Quillon](idrel:person/${OTHER}).`,
    );
  });

  it('says nothing of what assets are called, where it is said without marks', () => {
    const read = readWritten(`As in ${mentionText('asset', ID, 'medical_check')}, says [Rafe](idrel:person/${OTHER}).`);
    expect(read.plain).toBe('As in …, says Rafe.');
  });

  it('leaves code, links of others and half links as they stand', () => {
    const code = `\`\`\`\n[a](idrel:asset/${ID})\n\`\`\`\n\nAlso \`[a](idrel:asset/${ID})\`, [b](https://example.org), [c](idrel:asset/12), [d](idrel:asset/${ID}`;
    expect(readWritten(code)).toMatchObject({ text: code, mentions: [], pictures: [] });
  });

  it('tells pictures, and what is said without marks', () => {
    const read = readWritten(
      `# Fares\n\n![the map](idrel:picture/${ID})\n\nA **bold** word, and \`code\`.\n\n| a | b |\n|-|-|\n| x | y |`,
    );
    expect(read.pictures).toEqual([ID]);
    expect(read.plain.split('\n')).toEqual(['Fares', 'the map', 'A bold word, and code.', 'a', 'b', 'x', 'y']);
  });

  it('is the same after it was labelled and read again, whatever things are called', () => {
    fc.assert(
      fc.property(
        paragraphs,
        fc.array(fc.string({ unit: 'grapheme', minLength: 1, maxLength: 20 }), { minLength: 1, maxLength: 4 }),
        (list, labels) => {
          const source = list
            .map((entry, at) =>
              entry.startsWith('`')
                ? entry
                : `${entry}\n\nof ${mentionText('term', ID, labels[at % labels.length] ?? '')} too`,
            )
            .join('\n\n');
          const kept = readWritten(source);
          const shown = labelled(kept, ({ at }) => labels[at % labels.length] ?? '');
          const again = readWritten(shown);
          expect(again.text).toBe(kept.text);
          expect(again.mentions).toEqual(kept.mentions);
        },
      ),
    );
  });
});

it('refuses what lies too deep within itself, and says where', () => {
  expect(() => readWritten(`Fine.\n\n${'> '.repeat(40)}deep`)).toThrow(
    'Line 3 lies more than 30 quotes or lists deep.',
  );
  expect(() => readWritten(`${'- '.repeat(40)}deep`)).toThrow('Line 1');
  expect(readWritten(`${'-'.repeat(400)}\n\n${'*'.repeat(80)}\n\n> > > fine`).plain).toContain('fine');
});

describe('paragraphs', () => {
  it('joined are the text', () => {
    fc.assert(
      fc.property(fc.oneof(text, fc.string()), (whole) => {
        expect(blocksOf(whole).join('')).toBe(whole);
      }),
    );
  });

  it('are items of lists each, and a table or code as a whole', () => {
    expect(blocksOf('- one\n- two\n\nText\ngoes on\n\n```\na\n\nb\n```')).toEqual([
      '- one\n',
      '- two\n\n',
      'Text\ngoes on\n\n',
      '```\na\n\nb\n```',
    ]);
  });
});

describe('two changes of one text', () => {
  it('are what one made, where the other changed nothing', () => {
    fc.assert(
      fc.property(text, text, (base, changed) => {
        expect(blocksOf(mergedText(mergeWritten(base, changed, base), unsettled)).map((b) => b.trim())).toEqual(
          blocksOf(changed).map((b) => b.trim()),
        );
        expect(blocksOf(mergedText(mergeWritten(base, base, changed), unsettled)).map((b) => b.trim())).toEqual(
          blocksOf(changed).map((b) => b.trim()),
        );
      }),
    );
  });

  it('are both there where they changed other paragraphs, neighbours too', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.stringMatching(/^[a-z]{4,12}$/), { minLength: 2, maxLength: 8 }),
        fc.nat(),
        fc.nat(),
        (list, one, other) => {
          const [m, t] = [one % list.length, other % list.length];
          fc.pre(m !== t);
          const put = (at: number, word: string) => list.map((entry, index) => (index === at ? word : entry));
          const merged = mergedText(
            mergeWritten(list.join('\n\n'), put(m, 'Mine 1').join('\n\n'), put(t, 'Theirs 2').join('\n\n')),
            unsettled,
          );
          expect(merged).toBe(
            list.map((entry, index) => (index === m ? 'Mine 1' : index === t ? 'Theirs 2' : entry)).join('\n\n'),
          );
        },
      ),
    );
  });

  it('of the same paragraph are shown side by side, and nothing of either is lost', () => {
    const base = 'One.\n\nTwo.\n\nThree.';
    const parts = mergeWritten(base, 'One.\n\nTwo, mine.\n\nThree.', 'One, theirs.\n\nTwo, theirs.\n\nThree.');
    const open = parts.filter((part) => !part.settled);
    expect(open).toEqual([{ settled: false, mine: 'Two, mine.\n\n', base: 'Two.\n\n', theirs: 'Two, theirs.\n\n' }]);
    expect(mergedText(parts, (part) => part.mine)).toBe('One, theirs.\n\nTwo, mine.\n\nThree.');
    expect(mergedText(parts, (part) => part.theirs)).toBe('One, theirs.\n\nTwo, theirs.\n\nThree.');
    expect(mergedText(parts, (part) => part.mine + part.theirs)).toBe(
      'One, theirs.\n\nTwo, mine.\n\nTwo, theirs.\n\nThree.',
    );
  });

  it('to the same are settled; a text added at one end by each keeps both', () => {
    expect(mergedText(mergeWritten('a', 'b', 'b'), unsettled)).toBe('b');
    expect(mergedText(mergeWritten('a\n\nb', 'new\n\na\n\nb', 'a\n\nb\n\nlast'), unsettled)).toBe(
      'new\n\na\n\nb\n\nlast',
    );
  });

  it('are shown whole where one lies too deep to be read', () => {
    const deep = `${'> '.repeat(40)}mine`;
    expect(blocksOf(deep)).toEqual([deep]);
    expect(mergeWritten('One.', deep, 'Theirs.')).toEqual([
      { settled: false, mine: deep, base: 'One.', theirs: 'Theirs.' },
    ]);
  });

  it('never lose a paragraph that somebody wrote', () => {
    fc.assert(
      fc.property(paragraphs, paragraphs, paragraphs, (base, mine, theirs) => {
        const parts = mergeWritten(base.join('\n\n'), mine.join('\n\n'), theirs.join('\n\n'));
        const all = mergedText(parts, (part) => `${part.mine}\n\n${part.theirs}`);
        const known = new Set(base);
        for (const entry of [...mine, ...theirs].filter((entry) => !known.has(entry)))
          for (const block of blocksOf(entry)) expect(all).toContain(block.trim());
      }),
    );
  });
});

describe('how a text differs from another', () => {
  it('is told by paragraphs and by words, from which both can be made', () => {
    fc.assert(
      fc.property(text, text, (before, after) => {
        const parts = compareWritten(before, after);
        const side = (of: 'gone' | 'come') =>
          parts
            .flatMap((part) => ('same' in part ? part.same : part[of]))
            .filter(Boolean)
            .join('\n\n')
            .replace(/\n+/g, '\n');
        const blocks = (whole: string) =>
          blocksOf(whole)
            .map((block) => block.trim())
            .join('\n\n')
            .replace(/\n+/g, '\n');
        expect(side('gone')).toBe(blocks(before));
        expect(side('come')).toBe(blocks(after));
        const words = compareWords(before, after);
        expect(words.map((part) => ('same' in part ? part.same : part.gone)).join('')).toBe(before);
        expect(words.map((part) => ('same' in part ? part.same : part.come)).join('')).toBe(after);
      }),
    );
    expect(compareWords('The fare of a car', 'The price of a car')).toEqual([
      { same: 'The ' },
      { gone: 'fare ', come: 'price ' },
      { same: 'of a car' },
    ]);
  });
});
