import { Box, Group } from '@mantine/core';
import { Link } from 'react-router';
import { Description, Facts, Notices } from '../curation/index.ts';
import { count, Gravest, KindMark, Level, Name } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useAssetQuery, useChildrenQuery } from './api.ts';
import { WhyHere } from './WhyHere.tsx';

/** The chosen asset beside the table; it can be edited at once. */
export function ReadingPane({
  id,
  passing,
  editing,
  setEditing,
  foundBy,
}: {
  id: string;
  /** The selection is on its way past: nothing is asked for until it rests. */
  passing: boolean;
  editing: boolean;
  setEditing: (open: boolean) => void;
  /** The words that found it, where it was searched for. */
  foundBy?: { filter: string; under?: string } | undefined;
}) {
  const { data: asset, error, refetch } = useAssetQuery(id, { skip: passing });
  const children = useChildrenQuery(id, { skip: !asset || asset.kind === 'column' });
  if (error)
    return (
      <div className="pane reading">
        <Trouble error={error} what="The asset cannot be shown" again={() => void refetch()} />
      </div>
    );
  if (!asset || asset.id !== id)
    return (
      <div className="pane reading">
        <Coming lines={5} />
      </div>
    );
  const below = (children.data ?? []).filter((child) => !child.gone);
  return (
    <aside className="pane reading stack" aria-label={asset.path}>
      <div>
        <Group>
          <KindMark kind={asset.kind} />
          <h2 className="grow cut">
            <Name text={asset.name} most={34} />
          </h2>
          {foundBy ? <WhyHere id={asset.id} {...foundBy} /> : null}
          <Link to={`/assets/${asset.id}`}>Open page</Link>
        </Group>
        <Box className="quiet small cut" mt={3}>
          {asset.source} · {asset.domain} · {asset.path}
        </Box>
      </div>
      {asset.gone ? (
        <div className="notice">Gone from the source: the last scan did not find it. What people wrote is kept.</div>
      ) : null}
      <Notices key={`notices:${asset.id}`} asset={asset} />
      <Description
        key={`description:${asset.id}`}
        asset={asset}
        empty={asset.mayEdit ? 'Write what it means …' : 'Not described'}
        open={editing}
        onOpen={setEditing}
      />
      {asset.comment ? (
        <div className="small">
          <span className="quiet">The source says: </span>
          {asset.comment}
        </div>
      ) : null}
      <Facts key={`facts:${asset.id}`} asset={asset} />
      {asset.rows !== null ? (
        <div className="field">
          <span className="label">Rows</span>
          <span>about {count(asset.rows)}</span>
        </div>
      ) : null}
      {below.length > 0 ? (
        <div>
          <Box component="h3" mt={8} mb={4}>
            {asset.kind === 'table' ||
            asset.kind.includes('view') ||
            asset.kind === 'file' ||
            asset.kind === 'foreign table'
              ? `${count(below.length)} columns`
              : `${count(below.length)} below`}
          </Box>
          <Listing widths={[26]}>
            {below.slice(0, 200).map((child) => (
              <tr key={child.id}>
                <td>
                  <KindMark kind={child.kind} />
                </td>
                <td>
                  <Link to={`/assets/${child.id}`}>
                    <Name text={child.name} most={26} />
                  </Link>{' '}
                  <Gravest notices={child.notices} />
                </td>
                <td className="quiet small mono type">{child.type ?? ''}</td>
                <td>
                  <Level level={child.level} bare />
                </td>
              </tr>
            ))}
          </Listing>
        </div>
      ) : null}
    </aside>
  );
}
