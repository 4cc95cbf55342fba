import { useSessionQuery } from '../app/api.ts';
import { outsOf } from './described.ts';

/** An asset in open formats, to be kept or to be asked for by a program. */
export function TakeOut({ id, columns }: { id: string; columns: boolean }) {
  // The browser asks for a file as who is signed in, whoever they look as.
  if (useSessionQuery().data?.lookingAs) return null;
  return (
    <div className="field">
      <span className="label">Take out</span>
      <ul className="bare copying">
        {outsOf(id, columns).map(({ as, name, about, href }) => (
          <li key={as}>
            <a className="linked" href={href} download title={about}>
              {name}
            </a>
          </li>
        ))}
      </ul>
    </div>
  );
}
