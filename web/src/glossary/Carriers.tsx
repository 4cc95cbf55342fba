import type { TermAnswer } from '@idrel/contract/glossary';
import { type Filter, where, writeFilter } from '@idrel/core/catalog';
import { labelsOf } from '@idrel/core/glossary';
import { nameWords } from '@idrel/core/text';
import { Button } from '@mantine/core';
import { Link } from 'react-router';
import { opens, useAssetsQuery } from '../catalog/index.ts';
import { KindMark, Name, plural } from '../marks/index.tsx';
import { Trouble } from '../marks/states.tsx';
import { useTermCarriersQuery } from './api.ts';
import { useCarrying } from './useCarrying.ts';

const SHOWN = 12;
const LIKELY = 8;
/** Labels that short are found in names of all sorts: they propose nothing. */
const SHORTEST = 3;
/** Longer words also where a name only begins so: `passengers`. */
const BEGINS_FROM = 5;

/** What finds assets that are called as a term is, and do not carry it. */
export function likeliness(term: Pick<TermAnswer, 'name' | 'language' | 'labels'>): string | null {
  const phrases = new Map(
    labelsOf(term)
      .map(({ text }) => nameWords(text))
      .filter((words) => words.length > 0 && words.join('').length >= SHORTEST)
      .slice(0, 12)
      .map((words) => [words.join(' '), words] as const),
  );
  if (phrases.size === 0) return null;
  const called = [...phrases.values()].map(
    (words): Filter => ({
      type: 'all',
      of: words.map((text) => ({ type: 'word', text, whole: text.length < BEGINS_FROM })),
    }),
  );
  return writeFilter({
    type: 'all',
    of: [
      { type: 'any', of: called },
      { type: 'not', of: { type: 'is', key: 'term', comparison: '=', values: [term.name] } },
    ],
  });
}

/** Classes and tags that carry a term, each with the way to itself and to the assets behind it. */
export function Meant({ term }: { term: TermAnswer }) {
  const { data, error, refetch } = useTermCarriersQuery(term.id);
  const carry = useCarrying();
  if (error) return <Trouble error={error} what="Its classes and tags cannot be shown" again={() => void refetch()} />;
  const lines = [
    ...(data?.classes ?? []).map(({ key, label }) => ({
      of: { class: key },
      called: label,
      to: `/recognition?show=classes&class=${encodeURIComponent(key)}`,
      assets: opens(`kind:any ${where('class', key)}`),
    })),
    ...(data?.tags ?? []).map(({ id, name }) => ({
      of: { tag: id },
      called: name,
      to: `/glossary/tags?tag=${id}`,
      assets: opens(`kind:any ${where('tag', name)}`),
    })),
  ];
  return (
    <>
      <h3 className="under">Classes and tags that mean it</h3>
      {lines.length === 0 ? (
        <p className="quiet">None yet: their own pages give them terms.</p>
      ) : (
        <ul className="bare">
          {lines.map(({ of, called, to, assets }) => (
            <li key={to} className="row line">
              <span className="quiet small">{'class' in of ? 'class' : 'tag'}</span>
              <Link to={to}>{called}</Link>
              <Link to={assets} className="small">
                what carries it
              </Link>
              {term.mayEdit ? (
                <Button
                  variant="subtle"
                  size="compact-xs"
                  aria-label={`Take away: ${called}`}
                  onClick={() => void carry({ id: term.id, name: term.name, of, called, carries: false })}
                >
                  Take away
                </Button>
              ) : null}
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

/** Which assets carry a term, and which look as if they should. */
export function Carriers({ term }: { term: TermAnswer }) {
  const carrying = `kind:any ${where('term', term.name)}`;
  const { data } = useAssetsQuery({ filter: carrying, limit: SHOWN });
  return (
    <>
      <h3 className="under">Assets that carry it</h3>
      {data?.items.length ? (
        <>
          <Assets items={data.items} />
          {data.total > data.items.length ? (
            <p>
              <Link to={opens(carrying)}>All {plural(data.total, 'asset')}</Link>
            </p>
          ) : null}
        </>
      ) : (
        <p className="quiet">None yet.</p>
      )}
      {term.mayEdit && term.status !== 'retired' ? <Likely term={term} /> : null}
    </>
  );
}

function Likely({ term }: { term: TermAnswer }) {
  const filter = likeliness(term);
  const found = useAssetsQuery({ filter: filter ?? '', limit: LIKELY }, { skip: !filter });
  const give = `&give=term:${term.id}`;
  return (
    <>
      <h3 className="under">Assets that look like it</h3>
      {filter && found.data?.total ? (
        <>
          <p>
            {plural(found.data.total, 'asset')} {found.data.total === 1 ? 'has' : 'have'} a label of the term among the
            words of {found.data.total === 1 ? 'its name or description' : 'their names or descriptions'} and{' '}
            {found.data.total === 1 ? 'does' : 'do'} not carry it.{' '}
            <Link to={`${opens(filter)}${give}`}>Choose among them</Link>
          </p>
          <Assets items={found.data.items} />
        </>
      ) : (
        <p className="quiet">None by its labels.</p>
      )}
      <p>
        <Link to={`/catalog?${give.slice(1)}`}>Find others and add them</Link>
      </p>
    </>
  );
}

const Assets = ({
  items,
}: {
  items: readonly { id: string; kind: string; path: string; source: string; description?: string | null }[];
}) => (
  <ul className="flat">
    {items.map((asset) => (
      <li key={asset.id} className="row line">
        <KindMark kind={asset.kind} />
        <Link to={`/assets/${asset.id}`}>
          <Name text={asset.path} />
        </Link>
        <span className="quiet small cut">
          {asset.source}
          {asset.description ? ` · ${asset.description}` : ''}
        </span>
      </li>
    ))}
  </ul>
);
