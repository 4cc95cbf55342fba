import type { AssetAnswer, AssetKeys } from '@idrel/contract/catalog';
import { Button } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { across } from '../marks/across.ts';
import { Name, plural } from '../marks/index.tsx';
import { Trouble } from '../marks/states.tsx';
import { useAssetKeysQuery } from './api.ts';

type Joined = AssetKeys['refersTo'][number];

/** So many tables are drawn at either side until one asks for all. */
const DRAWN = 5;
const [WIDTH, HEIGHT, STEP, GAP] = [186, 44, 54, 46];

/** So many letters of a name have room. */
const NAME = 22;

/** By which columns two tables are joined, in words: those that refer first. */
const joinedBy = (columns: Joined['columns'], refers: 'mine' | 'theirs'): string =>
  columns
    .map(({ mine, theirs }) => (refers === 'mine' ? [mine, theirs] : [theirs, mine]))
    .map(([from, to]) => (to === null ? from : `${from} → ${to}`))
    .join(', ');

/** The key of a table, and how foreign keys join it to others: those that refer to it at its left, those it refers to at its right. Nothing where the source declares none. */
export function Keys({ asset }: { asset: AssetAnswer }) {
  const [all, setAll] = useState(false);
  const { data, error, refetch } = useAssetKeysQuery(asset.id);
  if (error) return <Trouble error={error} what="Its keys cannot be shown" again={() => void refetch()} />;
  if (!data || data.key.length + data.refersTo.length + data.referredBy.length === 0) return null;
  const { key, refersTo, refersToMore, referredBy, referredByMore } = data;
  const most = all ? Number.POSITIVE_INFINITY : DRAWN;
  const [left, right] = [referredBy.slice(0, most), refersTo.slice(0, most)];
  const folded = referredBy.length - left.length + refersTo.length - right.length;
  const more = (list: readonly Joined[], further: boolean) => (further ? `${list.length}+` : String(list.length));
  const rows = Math.max(1, left.length, right.length);
  const height = rows * STEP - (STEP - HEIGHT);
  const middle = left.length > 0 ? WIDTH + GAP : 0;
  const width = middle + WIDTH + (right.length > 0 ? GAP + WIDTH : 0);
  const topOf = (at: number, count: number) => at * STEP + ((rows - count) * STEP) / 2;
  const spine = height / 2;
  const boxes = [
    ...left.map((table, at) => ({ table, x: 0, y: topOf(at, left.length), refers: 'theirs' as const })),
    ...right.map((table, at) => ({
      table,
      x: middle + WIDTH + GAP,
      y: topOf(at, right.length),
      refers: 'mine' as const,
    })),
  ];
  return (
    <>
      <h3 className="under">Keys</h3>
      <figure className="neighbourhood" aria-label={`Keys of ${asset.name}`}>
        {boxes.length > 0 ? (
          <figcaption className="quiet small">
            {middle > 0 ? <span style={{ width: middle }}>{more(referredBy, referredByMore)} refer to it</span> : null}
            <span style={{ width: WIDTH + GAP }} />
            {right.length > 0 ? <span>refers to {more(refersTo, refersToMore)}</span> : null}
          </figcaption>
        ) : null}
        <div style={{ position: 'relative', height, width }}>
          <svg width={width} height={height} aria-hidden="true">
            {boxes.map(({ x, y }) => (
              <path
                key={`${x} ${y}`}
                d={
                  x === 0
                    ? across(WIDTH, y + HEIGHT / 2, middle, spine)
                    : across(middle + WIDTH, spine, x, y + HEIGHT / 2)
                }
              />
            ))}
          </svg>
          <span
            className="box here tall"
            style={{ left: middle, top: spine - HEIGHT / 2, width: WIDTH, height: HEIGHT }}
            title={key.join(', ')}
          >
            <span className="mono">{asset.name}</span>
            <span className="small quiet">{key.length > 0 ? `key: ${key.join(', ')}` : 'no key'}</span>
          </span>
          {boxes.map(({ table, x, y, refers }) => {
            const look = { left: x, top: y, width: WIDTH, height: HEIGHT };
            const by = joinedBy(table.columns, refers);
            const inside = (
              <>
                <span className="mono">
                  <Name text={table.path} most={NAME} />
                </span>
                <span className="small quiet">{by}</span>
              </>
            );
            return table.id === null ? (
              <span
                key={`${x} ${y}`}
                className="box tall"
                style={look}
                title={`${table.path}, which is not to be seen here: ${by}`}
              >
                {inside}
              </span>
            ) : (
              <Link
                key={`${x} ${y}`}
                to={`/assets/${table.id}`}
                className="box tall"
                style={look}
                title={`${table.path}: ${by}`}
              >
                {inside}
              </Link>
            );
          })}
        </div>
      </figure>
      {folded > 0 ? (
        <Button variant="subtle" size="compact-sm" onClick={() => setAll(true)}>
          Draw {plural(folded, 'more table')}
        </Button>
      ) : null}
    </>
  );
}
