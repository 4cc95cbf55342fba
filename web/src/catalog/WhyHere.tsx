import type { WhyFound } from '@idrel/contract/catalog';
import { Popover } from '@mantine/core';
import { useState } from 'react';
import { Coming, Trouble } from '../marks/states.tsx';
import { useWhyQuery } from './api.ts';

/** What each part of the score says, in the order in which it is told. */
const PARTS: readonly [keyof WhyFound, string][] = [
  ['text', 'how well the words fit; rare ones weigh more'],
  ['name', 'its whole name was asked for'],
  ['share', 'how much of its name was asked for'],
  ['kind', 'tables and views before columns'],
  ['standing', 'its standing'],
  ['use', 'how much it is used at its source'],
  ['complete', 'described, and owned'],
  ['own', 'lies in one of your domains'],
];

/** Why an asset stands where it does among what words found: the parts of its score, one click away. */
export function WhyHere({ id, filter, under }: { id: string; filter: string; under?: string }) {
  const [open, setOpen] = useState(false);
  const why = useWhyQuery({ id, query: { filter, ...(under ? { under } : {}) } }, { skip: !open });
  const parts = why.data ? PARTS.filter(([part]) => why.data?.[part]) : [];
  const sum = parts.reduce((total, [part]) => total + (why.data?.[part] ?? 0), 0);
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-end" withinPortal trapFocus>
      <Popover.Target>
        <button type="button" className="linkish small" aria-expanded={open} onClick={() => setOpen(!open)}>
          Why here?
        </button>
      </Popover.Target>
      <Popover.Dropdown aria-label="Why it stands here">
        {why.error ? (
          <Trouble error={why.error} what="The reasons cannot be told" again={() => void why.refetch()} />
        ) : !why.data && why.isFetching ? (
          <Coming lines={4} />
        ) : why.data ? (
          <table className="sums">
            <tbody>
              {parts.map(([part, text]) => (
                <tr key={part}>
                  <td>{text}</td>
                  <td className="right mono">{signed(why.data?.[part] ?? 0)}</td>
                </tr>
              ))}
              <tr className="sum">
                <td>in all</td>
                <td className="right mono">{sum.toFixed(2)}</td>
              </tr>
            </tbody>
          </table>
        ) : (
          <span>The words no longer find it.</span>
        )}
      </Popover.Dropdown>
    </Popover>
  );
}

const signed = (value: number) => `${value < 0 ? '−' : '+'}${Math.abs(value).toFixed(2)}`;
