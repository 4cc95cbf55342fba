import type { AssetAnswer } from '@idrel/contract/catalog';
import { Link } from 'react-router';
import { Gravest, KindMark, Level, Name, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { ClassChips } from '../recognition/index.ts';
import { useChildrenQuery } from './api.ts';

export function Contents({ asset }: { asset: AssetAnswer }) {
  const { data, error } = useChildrenQuery(asset.id, { skip: asset.kind === 'column' });
  if (asset.kind === 'column')
    return <p className="quiet">A column holds values; what they are like stands under Profile.</p>;
  if (error) return <Trouble error={error} what="What it holds cannot be shown" />;
  if (!data) return <Coming lines={4} />;
  if (data.length === 0)
    return <p className="quiet">Nothing inside{asset.native.problem ? `: ${String(asset.native.problem)}` : ''}.</p>;
  return (
    <Listing heads={['Kind', 'Name', 'Type', 'Meaning', 'Classes', 'Level']}>
      {data.map((child) => (
        <tr key={child.id}>
          <td>
            <KindMark kind={child.kind} />
          </td>
          <td>
            <Link to={`/assets/${child.id}`} className={child.gone ? 'gone' : undefined}>
              <Name text={child.name} most={30} />
            </Link>{' '}
            <Gravest notices={child.notices} />
          </td>
          <td className="mono quiet">{child.type ?? (child.rows === null ? '' : plural(child.rows, 'row'))}</td>
          <td>{child.description ?? <span className="quiet">{child.comment ?? ''}</span>}</td>
          <td>
            <ClassChips classes={child.classes} most={2} />
          </td>
          <td>
            <Level level={child.level} bare />
          </td>
        </tr>
      ))}
    </Listing>
  );
}
