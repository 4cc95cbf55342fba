import { Table, type TableProps } from '@mantine/core';
import type { ReactNode } from 'react';

/** What stands over a column: its words, perhaps with more to say of it. Nothing where the column is not there. */
export type Head = string | false | null | undefined | HeadFacts;
interface HeadFacts {
  readonly text: ReactNode;
  /** Figures stand below it. */
  readonly num?: boolean;
  /** It is only for those who hear the page: what stands below needs no words to the eye. */
  readonly hidden?: boolean;
  readonly mono?: boolean;
  readonly title?: string | undefined;
}
/** A column of figures. */
export const num = (text: ReactNode, title?: string): HeadFacts => ({ text, num: true, title });
/** A column whose words are only heard. */
export const heard = (text: string): HeadFacts => ({ text, hidden: true });

const isFacts = (head: Head): head is HeadFacts => typeof head === 'object' && head !== null;

function HeadCell({ head }: { head: Exclude<Head, false | null | undefined> }) {
  if (!isFacts(head)) return <th>{head}</th>;
  const className = [head.num ? 'num' : '', head.mono ? 'mono' : ''].filter(Boolean).join(' ');
  return (
    <th title={head.title} className={className || undefined}>
      {head.hidden ? <span className="hidden-visually">{head.text}</span> : head.text}
    </th>
  );
}

interface Props extends Pick<TableProps, 'className' | 'maw' | 'mt'> {
  /** What stands over the columns; none for lists that need no words. */
  readonly heads?: readonly Head[];
  /** What the table is called, where no heading says it. */
  readonly label?: string;
  /** How wide the first columns are, in pixels; null for as wide as they need. */
  readonly widths?: readonly (number | null)[];
  /** Its rows; groups of rows where `grouped`. */
  readonly children: ReactNode;
  readonly grouped?: boolean;
}

/** A table of the house: rows under hairlines, figures at the right. */
export const Listing = ({ heads, label, widths, children, grouped = false, className, ...box }: Props) => (
  <Table className={className ? `plain ${className}` : 'plain'} aria-label={label} {...box}>
    {widths ? (
      <colgroup>
        {widths.map((width, index) => (
          <col key={index} style={width === null ? undefined : { width }} />
        ))}
      </colgroup>
    ) : null}
    {heads ? (
      <thead>
        <tr>{heads.map((head, index) => (head ? <HeadCell key={index} head={head} /> : null))}</tr>
      </thead>
    ) : null}
    {grouped ? children : <tbody>{children}</tbody>}
  </Table>
);

/** One fact in a table of such: what it is, and beside it what is said. */
export const Said = ({ words, children }: { words: string; children: ReactNode }) => (
  <tr>
    <td className="quiet">{words}</td>
    <td>{children}</td>
  </tr>
);
