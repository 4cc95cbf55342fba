import { mergedText, mergeWritten } from '@idrel/core/writing';
import { Button, Group, Radio, Stack } from '@mantine/core';
import { useMemo, useState } from 'react';
import { plural } from '../marks/index.tsx';
import { Written } from './Written.tsx';

type Side = 'mine' | 'theirs' | 'both';

/** Paragraphs that two people changed at once, side by side: of each one takes a side, or keeps both. What only one of them changed is in the text already. */
export function Sides({
  base,
  mine,
  theirs,
  take,
}: {
  base: string;
  mine: string;
  theirs: string;
  take: (whole: string) => void;
}) {
  const parts = useMemo(() => mergeWritten(base, mine, theirs), [base, mine, theirs]);
  const [sides, setSides] = useState<Readonly<Record<number, Side>>>({});
  const open = parts.flatMap((part, index) => (part.settled ? [] : [{ ...part, index }]));
  const left = open.filter(({ index }) => sides[index] === undefined).length;
  const done = () =>
    take(
      mergedText(parts, (part, index) => {
        const side = sides[index] ?? 'both';
        return side === 'both' ? `${part.theirs.trimEnd()}\n\n${part.mine}` : part[side];
      }),
    );
  return (
    <Stack className="notice" role="alert" aria-label="Changed by somebody else">
      <strong>
        Somebody else changed {plural(open.length, 'paragraph')} that you changed, too. Yours is not saved yet.
      </strong>
      {open.map(({ index, mine: own, theirs: other }, nth) => (
        <Radio.Group
          key={index}
          value={sides[index] ?? ''}
          onChange={(side) => setSides({ ...sides, [index]: side as Side })}
          label={`Paragraph ${nth + 1} of ${open.length}`}
        >
          <div className="two-texts">
            <div>
              <Radio value="theirs" label="As it stands now" />
              {other.trim() ? <Written text={other} under={3} /> : <p className="quiet">taken away</p>}
            </div>
            <div>
              <Radio value="mine" label="Yours" />
              {own.trim() ? <Written text={own} under={3} /> : <p className="quiet">taken away</p>}
            </div>
          </div>
          <Radio value="both" label="Both, one after the other" />
        </Radio.Group>
      ))}
      <Group>
        <Button onClick={done} disabled={left > 0}>
          Go on with these
        </Button>
        <span className="quiet small">
          {left > 0 ? `${plural(left, 'paragraph')} to choose.` : 'Then look it through, and save.'}
        </span>
      </Group>
    </Stack>
  );
}
