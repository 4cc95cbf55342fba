import { type CSSProperties, type ReactNode, useId } from 'react';

/** Two halves of a view that scroll by themselves. @param first how wide the first is, as a column of a grid; the second takes the rest */
export const Panes = ({ first, second, children }: { first: string; second?: string; children: ReactNode }) => (
  <div className="panes beside" style={columns(first, second)}>
    {children}
  </div>
);

/** A list and what was chosen of it, that scroll together. */
export const Beside = ({
  first,
  second,
  gap = 32,
  children,
}: {
  first: string;
  second?: string;
  gap?: number;
  children: ReactNode;
}) => (
  <div className="beside loose" style={{ ...columns(first, second), gap }}>
    {children}
  </div>
);
const columns = (first: string, second = 'minmax(0, 1fr)'): CSSProperties => ({
  gridTemplateColumns: `${first} ${second}`,
});

/** One half of a view. `list`: what there is to choose from; `one`: what was chosen; `form`: what is written; `seen`: what comes of it. */
export const Pane = ({ as, children }: { as: 'list' | 'one' | 'form' | 'seen'; children: ReactNode }) => (
  <div className={`pane ${as}`}>{children}</div>
);

/** One of a list at the left, that opens beside it. @param depth how far below others it lies */
export const Choice = ({
  chosen,
  choose,
  depth = 0,
  children,
}: {
  chosen: boolean;
  choose: () => void;
  depth?: number;
  children: ReactNode;
}) => (
  <li>
    <button
      type="button"
      className="node"
      aria-current={chosen}
      style={{ '--depth': depth } as CSSProperties}
      onClick={choose}
    >
      {children}
    </button>
  </li>
);

/** What stands in small letters below a name. */
export const Note = ({ children }: { children: ReactNode }) => <span className="small quiet note">{children}</span>;

/** Part of a page under a heading, with what can be done about it at the right. */
export function Part({
  title,
  label,
  actions,
  children,
}: {
  title: ReactNode;
  /** What the part is called for those who hear it, where its heading says something else. */
  label?: string;
  actions?: ReactNode;
  children: ReactNode;
}) {
  const id = useId();
  return (
    <section className="part" {...(label ? { 'aria-label': label } : { 'aria-labelledby': id })}>
      <div className="head">
        <h2 id={id}>{title}</h2>
        {actions}
      </div>
      {children}
    </section>
  );
}
