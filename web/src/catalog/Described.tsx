import type { AssetAnswer } from '@idrel/contract/catalog';
import {
  type Argument,
  PART_KINDS,
  type Part,
  type PartKind,
  type TableDetails,
  type TypeFacts,
} from '@idrel/core/scanning';
import { Box } from '@mantine/core';
import { Link } from 'react-router';
import { count, Name, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useColumnsOfTypeQuery } from './api.ts';

/** Kinds of assets that describe how data is made or kept, and hold none. */
export const DESCRIBED_KINDS: readonly string[] = ['type', 'sequence', 'procedure', 'function'];

/** What a source says of an asset beside its columns: parts of a table, arguments of a routine, values of a type. */
export function Described({ asset }: { asset: AssetAnswer }) {
  const details = (asset.native.details ?? {}) as TableDetails;
  if (asset.kind === 'function' || asset.kind === 'procedure')
    return <Arguments given={(asset.native.arguments ?? []) as Argument[]} />;
  if (asset.kind === 'type') return <TypeParts asset={asset} facts={asset.native as unknown as TypeFacts} />;
  return (
    <>
      {details.inherits ? (
        <Box component="p" mt={10}>
          <span className="quiet">Takes over the columns of </span>
          <span className="mono">{details.inherits.join(', ')}</span>
        </Box>
      ) : null}
      {(Object.keys(PART_KINDS) as PartKind[]).map((kind) => (
        <Parts key={kind} title={PART_KINDS[kind][1]} parts={details[kind] ?? []} />
      ))}
    </>
  );
}

function Parts({ title, parts }: { title: string; parts: readonly Part[] }) {
  if (parts.length === 0) return null;
  return (
    <>
      <h3 className="under">{title}</h3>
      <Listing label={title}>
        {parts.map((part) => (
          <tr key={part.name}>
            <td className="mono named">
              <Name text={part.name} most={32} />
              {part.off ? <div className="attention small">does not hold: switched off, or not valid</div> : null}
            </td>
            <td>
              <span className="mono small written">{part.definition}</span>
              {part.comment ? <div className="quiet">{part.comment}</div> : null}
            </td>
          </tr>
        ))}
      </Listing>
    </>
  );
}

function Arguments({ given }: { given: readonly Argument[] }) {
  if (given.length === 0) return <p className="quiet">It takes no arguments.</p>;
  return (
    <Listing heads={['Argument', 'Way', 'Type', 'Default']} label="Arguments">
      {given.map((argument, index) => (
        <tr key={index}>
          <td className="mono">{argument.name || <span className="quiet">{index + 1}</span>}</td>
          <td className="quiet">{argument.mode}</td>
          <td className="mono">{argument.type}</td>
          <td className="mono">{argument.default ?? ''}</td>
        </tr>
      ))}
    </Listing>
  );
}

function TypeParts({ asset, facts }: { asset: AssetAnswer; facts: TypeFacts }) {
  return (
    <>
      {facts.values ? (
        <>
          <h3 className="under">{plural(facts.values.length, 'value')}, in their order</h3>
          <div className="chips mono wrap">
            {facts.values.map((value) => (
              <span key={value} className="chip">
                {value}
              </span>
            ))}
          </div>
        </>
      ) : null}
      {facts.attributes ? (
        <>
          <h3 className="under">Attributes</h3>
          <Listing label="Attributes">
            {facts.attributes.map((attribute) => (
              <tr key={attribute.name}>
                <td className="mono named">{attribute.name}</td>
                <td className="mono quiet">{attribute.type}</td>
                <td>{attribute.comment ?? ''}</td>
              </tr>
            ))}
          </Listing>
        </>
      ) : null}
      <Parts title="Checks" parts={facts.checks ?? []} />
      <h3 className="under">Columns that have it</h3>
      <ColumnsOfType id={asset.id} />
    </>
  );
}

function ColumnsOfType({ id }: { id: string }) {
  const { data, error } = useColumnsOfTypeQuery(id);
  if (error) return <Trouble error={error} what="The columns that have it cannot be shown" />;
  if (!data) return <Coming lines={2} />;
  if (data.total === 0) return <p className="quiet">No column has this type.</p>;
  return (
    <>
      <ul className="bare">
        {data.items.map((column) => (
          <li key={column.id}>
            <Link to={`/assets/${column.id}`} className="mono">
              {column.path}
            </Link>
            {column.type?.endsWith('[]') ? <span className="quiet small"> array</span> : null}
          </li>
        ))}
      </ul>
      {data.total > data.items.length ? (
        <p className="quiet small">and {count(data.total - data.items.length)} more</p>
      ) : null}
    </>
  );
}
