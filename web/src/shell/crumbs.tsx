import { createContext, type ReactNode, useContext, useEffect, useMemo, useState } from 'react';
import { Link } from 'react-router';

export interface Crumb {
  readonly text: string;
  readonly to?: string;
}
const CrumbsContext = createContext<{ crumbs: readonly Crumb[]; set: (crumbs: readonly Crumb[]) => void }>({
  crumbs: [],
  set: () => undefined,
});

export function CrumbsProvider({ children }: { children: ReactNode }) {
  const [crumbs, set] = useState<readonly Crumb[]>([]);
  const value = useMemo(() => ({ crumbs, set }), [crumbs]);
  return <CrumbsContext value={value}>{children}</CrumbsContext>;
}

/** Says where the reader is; the title of the page follows. */
export function useCrumbs(...crumbs: Crumb[]): void {
  const { set } = useContext(CrumbsContext);
  const written = JSON.stringify(crumbs);
  useEffect(() => {
    const read = JSON.parse(written) as Crumb[];
    set(read);
    document.title = `${read
      .map((crumb) => crumb.text)
      .reverse()
      .join(' · ')} · Idrel`;
  }, [set, written]);
}

export function Crumbs() {
  const { crumbs } = useContext(CrumbsContext);
  return (
    <nav className="crumbs" aria-label="Where you are">
      {crumbs.map((crumb, index) => (
        <span key={`${crumb.text}-${crumb.to ?? ''}`} className={index === crumbs.length - 1 ? 'cut' : ''}>
          {index > 0 ? (
            <span className="quiet" aria-hidden="true">
              ›{' '}
            </span>
          ) : null}
          {crumb.to && index < crumbs.length - 1 ? <Link to={crumb.to}>{crumb.text}</Link> : <span>{crumb.text}</span>}
        </span>
      ))}
    </nav>
  );
}
