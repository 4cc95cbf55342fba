import type { GrantBody } from '@idrel/contract/access';
import { Switch } from '@mantine/core';
import { freshMask, MaskSlots } from './MaskSlots.tsx';
import { Columns } from './PolicyObjects.tsx';

/** What of something that is opened is masked, beside what policies mask already. @param names columns that there are */
export function MaskSome({
  masked,
  put,
  assetIds,
  names,
}: {
  masked: GrantBody['masked'];
  put: (masked: GrantBody['masked']) => void;
  assetIds: readonly string[];
  names: readonly string[] | undefined;
}) {
  return (
    <>
      <Switch
        label="Mask some of it"
        description="Beside what policies mask already."
        checked={masked !== null}
        onChange={(event) =>
          put(event.currentTarget.checked ? { mask: freshMask('partial'), columns: null, columnsBut: false } : null)
        }
      />
      {masked ? (
        <div className="sentence">
          <span>Show</span>
          <Columns
            label="Masked columns"
            names={names}
            draft={{ assetIds: [...assetIds], columns: masked.columns, columnsBut: masked.columnsBut }}
            put={(changes) => put({ ...masked, ...changes })}
          />
          <span>as</span>
          <MaskSlots mask={masked.mask} put={(mask) => put({ ...masked, mask })} />
        </div>
      ) : null}
    </>
  );
}
