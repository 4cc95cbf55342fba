import type { AssetAnswer } from '@idrel/contract/catalog';
import type { SuggestionAnswer } from '@idrel/contract/curation';
import { Button, Group } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { useKeys } from '../app/keys.tsx';
import { sayDone, sayProblem } from '../app/say.ts';
import { Evidence, KindMark, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { useRefuseSuggestionsMutation, useSuggestionsQuery, useTakeSuggestionsMutation } from './suggestionsApi.ts';

const WORDS = {
  description: 'means',
  term: 'carries the term',
  tag: 'carries the tag',
  class: 'is of the class',
  owner: 'is answered for by',
} as const;
/** So many stand open by themselves. */
const FEW = 4;
const itemOf = ({ asset, field, value }: SuggestionAnswer) => ({ assetId: asset.id, field, value });

/** What could be said of an asset and its columns, with what speaks for it: taken or refused one by one, or all at once. Give it the asset's id as its key. */
export function Suggestions({ asset }: { asset: AssetAnswer }) {
  const { data } = useSuggestionsQuery(asset.id, { skip: !asset.mayEdit });
  const [take, taking] = useTakeSuggestionsMutation();
  const [refuse, refusing] = useRefuseSuggestionsMutation();
  const all = data ?? [];
  const [opened, setOpened] = useState<boolean | null>(null);
  const open = opened ?? all.length <= FEW;
  /** A key does nothing to what is not seen: it opens it first. */
  const seen = (act: () => void) => () => (open ? act() : setOpened(true));
  // Of several for the same the strongest is taken with the rest.
  const best = all.filter(
    (one, at) => all.findIndex((other) => other.asset.id === one.asset.id && other.field === one.field) === at,
  );
  const busy = taking.isLoading || refusing.isLoading;
  const takeThese = (some: readonly SuggestionAnswer[]) => {
    if (some.length === 0 || busy) return;
    const items = some.map(itemOf);
    take({ items, taken: true })
      .unwrap()
      .then(
        ({ taken, passedOver }) =>
          sayDone(
            `${plural(taken, 'suggestion')} taken${passedOver.length > 0 ? `; ${passedOver.length} passed over: ${passedOver[0]?.why}` : ''}.`,
            () => take({ items, taken: false }),
          ),
        (error: unknown) => sayProblem(error, 'It was not taken'),
      );
  };
  const refuseThese = (some: readonly SuggestionAnswer[]) => {
    if (some.length === 0 || busy) return;
    const items = some.map(itemOf);
    refuse({ items, refused: true })
      .unwrap()
      .then(
        () => sayDone('Refused. It does not come back.', () => refuse({ items, refused: false })),
        (error: unknown) => sayProblem(error, 'It was not refused'),
      );
  };
  useKeys('Suggestions', [
    { key: 't', what: 'take the first suggestion', act: seen(() => takeThese(all.slice(0, 1))) },
    { key: 'shift+t', what: 'take the strongest suggestion for each', act: seen(() => takeThese(best)) },
    { key: 'r', what: 'refuse the first suggestion', act: seen(() => refuseThese(all.slice(0, 1))) },
  ]);
  if (all.length === 0) return null;
  return (
    <details className="suggestions" open={open} onToggle={(event) => setOpened(event.currentTarget.open)}>
      <summary>{plural(all.length, 'suggestion')} for what nobody has said yet</summary>
      <Listing label="Suggestions">
        {all.map((one) => (
          <tr key={`${one.asset.id} ${one.field} ${one.value}`}>
            <td>
              <Group gap={6} wrap="nowrap">
                <KindMark kind={one.asset.kind} />
                <span className="mono">{one.asset.name}</span>
              </Group>
              <span className="quiet small">{WORDS[one.field]}</span>
            </td>
            <td>
              {one.label}
              {one.clues.map((clue) => (
                <div key={`${clue.kind} ${clue.by?.id}`} className="quiet small">
                  <Why clue={clue} field={one.field} />
                </div>
              ))}
            </td>
            <td>
              <Evidence share={one.weight} narrow />
            </td>
            <td className="oneline">
              <Button variant="default" size="compact-xs" disabled={busy} onClick={() => takeThese([one])}>
                Take
              </Button>{' '}
              <Button variant="subtle" size="compact-xs" disabled={busy} onClick={() => refuseThese([one])}>
                Refuse
              </Button>
            </td>
          </tr>
        ))}
      </Listing>
      <Group mt={8}>
        <Button variant="default" size="compact-sm" disabled={busy} onClick={() => takeThese(best)}>
          Take {best.length === 1 ? 'it' : `these ${best.length}`} <kbd>Shift t</kbd>
        </Button>
        <span className="quiet small">
          <kbd>t</kbd> takes the first, <kbd>r</kbd> refuses it for good
        </span>
      </Group>
    </details>
  );
}

/** What speaks for a suggestion, in words. */
function Why({
  clue: { kind, of, say, by },
  field,
}: {
  clue: SuggestionAnswer['clues'][number];
  field: SuggestionAnswer['field'];
}) {
  const link = by ? (
    <Link to={`/assets/${by.id}`} className="mono">
      {by.path}
    </Link>
  ) : (
    'something you may not see'
  );
  switch (kind) {
    case 'comment':
      return <>its source says so</>;
    case 'same name':
      return (
        <>
          {of === 1
            ? 'the one other column of its name says so: '
            : `${say} of ${of} other columns of its name say so: `}
          {link}
        </>
      );
    case 'ends alike':
      return (
        <>
          {say} of {of} beside it whose names end alike say so: {link}
        </>
      );
    case 'lineage':
      return field === 'owner' ? (
        <>answers for {link}, from which it is made</>
      ) : (
        <>said of {link}, with which it shares its values</>
      );
    case 'above':
      return <>answers for {link}, in which it lies</>;
    case 'beside':
      return (
        <>
          answers for {say} of {of} beside it that somebody answers for
        </>
      );
    case 'writes':
      return <>has changed what is said of it {say === 1 ? 'once' : `${say} times`}</>;
  }
}
