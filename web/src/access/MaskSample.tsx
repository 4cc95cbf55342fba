import type { PolicyBody } from '@idrel/contract/access';
import { Box } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { heard, Listing } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { useClassLabel } from '../recognition/index.ts';
import { useMaskSampleQuery } from './api.ts';

/** What the mask chosen does to a few values, while it is chosen. */
export function MaskSample({ draft }: { draft: PolicyBody }) {
  const [mask] = useDebouncedValue(draft.mask, 250);
  const labelOf = useClassLabel();
  const { data, error, isFetching } = useMaskSampleQuery(
    { mask: mask ?? { kind: 'blank' }, classKeys: [...draft.classKeys] },
    { skip: mask === null },
  );
  if (mask === null) return null;
  if (error) return <Trouble error={error} what="What the mask does cannot be shown" />;
  const hidden = (data ?? []).filter(({ instead }) => instead === null);
  const empty = (data ?? []).filter(({ instead }) => instead !== null);
  return (
    <Box component="section" mb={26} aria-label="What the mask does" className={isFetching ? 'stack fading' : 'stack'}>
      <h2>What readers get</h2>
      {data ? (
        <>
          {hidden.length > 0 ? (
            <Listing
              heads={[heard('What it is'), 'Made up', 'Read as']}
              widths={[150]}
              label="Values and what is read of them"
            >
              {hidden.map(({ what, value, shown }) => (
                <tr key={`${what} ${value}`}>
                  <td className="quiet">{labelOf(what)}</td>
                  <td className="mono">{value}</td>
                  <td className="mono">{shown ?? <span className="quiet">null</span>}</td>
                </tr>
              ))}
            </Listing>
          ) : null}
          {empty.length > 0 ? (
            <p className="quiet small">
              Left empty instead:{' '}
              {empty.map(({ what, instead }) => `${labelOf(what).toLowerCase()}, since ${instead}`).join('; ')}.
            </p>
          ) : null}
        </>
      ) : (
        <p className="quiet">Computing …</p>
      )}
    </Box>
  );
}
