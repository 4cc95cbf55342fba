import { Listing } from '../marks/Listing.tsx';
import { More } from './Flaws.tsx';
import { type Leaving, Take } from './Take.tsx';

/** What a file would change of things that are there already: field by field, each thing taken or left as a whole. */
export function Changes({
  label,
  called,
  changed,
  total,
  left,
  leave,
}: Leaving & {
  label: string;
  /** What one of the things is called, at the head of its column. */
  called: string;
  changed: readonly {
    readonly at: string;
    readonly name: string;
    readonly fields: readonly { readonly field: string; readonly before: string; readonly after: string }[];
  }[];
  total: number;
}) {
  if (changed.length === 0) return null;
  return (
    <div>
      <h3 className="under">Changed</h3>
      <Listing label={label} heads={['Take', called, 'Field', 'Now', 'In the file']}>
        {changed.flatMap(({ at, name, fields }) =>
          fields.map(({ field, before, after }, nth) => (
            <tr key={`${at} ${field}`} className="tall">
              <td>{nth === 0 ? <Take at={at} what={`the change of ${name}`} left={left} leave={leave} /> : null}</td>
              <td>{nth === 0 ? name : ''}</td>
              <td className="quiet">{field}</td>
              <td className="said">{before || <span className="quiet">nothing</span>}</td>
              <td className="said">{after || <span className="quiet">nothing</span>}</td>
            </tr>
          )),
        )}
      </Listing>
      <More total={total} shown={changed.length} />
    </div>
  );
}
