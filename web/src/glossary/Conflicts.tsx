import type { ConflictAnswer } from '@idrel/contract/glossary';
import { CONFLICT_KINDS, type ConflictKind } from '@idrel/core/glossary';
import { Fragment } from 'react';
import { Link } from 'react-router';
import { count, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useTermConflictsQuery } from './api.ts';

const MENDS: Record<ConflictKind, string> = {
  'same name': 'Give one of them another name, or retire it.',
  'said twice': 'Keep the label in one kind.',
  'related above': 'What lies above is broader: take the relation away.',
  'matched twice': 'Keep one of the two matches.',
  'retired in use': 'Give these assets another term.',
  'below retired': 'Choose another broader term.',
  undefined: 'Write what it means.',
  orphaned: 'Give it a place among the others, or give it to assets.',
  'two in one report': 'Say which of the two the report means.',
};

/** What is amiss among the terms, by kind: what it is, which terms, what to do about it. */
export function Conflicts() {
  const { data, error, refetch } = useTermConflictsQuery();
  if (error) return <Trouble error={error} what="What is amiss cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  if (data.total === 0)
    return (
      <Empty title="Nothing is amiss">
        <p>No two terms are called the same, none stands alone or without a meaning, and none contradicts another.</p>
      </Empty>
    );
  const kinds = (Object.keys(CONFLICT_KINDS) as ConflictKind[]).filter((kind) =>
    data.items.some((item) => item.kind === kind),
  );
  return (
    <>
      <h2>What is amiss among the terms</h2>
      <p role="status">{plural(data.total, 'finding')}</p>
      {kinds.map((kind) => {
        const items = data.items.filter((item) => item.kind === kind);
        return (
          <section key={kind}>
            <h3 className="under">
              {CONFLICT_KINDS[kind]} <span className="quiet">{count(items.length)}</span>
            </h3>
            <p className="quiet small">{MENDS[kind]}</p>
            <Listing label={CONFLICT_KINDS[kind]} heads={['Terms', 'In common']}>
              {items.map((item) => (
                <tr key={`${kind} ${item.terms.map(({ id }) => id).join(' ')} ${item.detail} ${item.report?.id ?? ''}`}>
                  <td>
                    <Terms item={item} />
                  </td>
                  <td>{detailOf(item)}</td>
                </tr>
              ))}
            </Listing>
          </section>
        );
      })}
    </>
  );
}

const Terms = ({ item }: { item: ConflictAnswer }) =>
  item.terms.map(({ id, name, scheme }, at) => (
    <Fragment key={id}>
      {at > 0 ? ' · ' : ''}
      <Link className="linked" to={`/glossary?term=${id}`}>
        {name}
      </Link>{' '}
      <span className="quiet small">{scheme}</span>
    </Fragment>
  ));

function detailOf({ kind, detail, report }: ConflictAnswer) {
  if (report)
    return (
      <>
        “{detail}” in <Link to={`/assets/${report.id}`}>{report.name}</Link>
      </>
    );
  if (kind === 'retired in use') return plural(Number(detail), 'asset');
  return detail ? `“${detail}”` : '';
}
