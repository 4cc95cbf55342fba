import type { AssetAnswer } from '@idrel/contract/catalog';
import type { AssetChange } from '@idrel/contract/curation';
import { useState } from 'react';
import { problemOf } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { useEditAssetMutation } from '../catalog/api.ts';

/** An edit that met somebody else's: what was wanted, and what stands there now. */
export interface Clash {
  readonly wanted: AssetChange;
  readonly now: AssetAnswer;
}

/** Saves edits of one asset; on a clash nothing is lost: both versions are shown, and the person decides. */
export function useEdit(asset: AssetAnswer | undefined) {
  const [edit] = useEditAssetMutation();
  const [clash, setClash] = useState<Clash | null>(null);
  const save = async (change: AssetChange, undo?: AssetChange, over?: AssetAnswer): Promise<boolean> => {
    const base = over ?? asset;
    if (!base) return false;
    try {
      const after = await edit({ id: base.id, version: base.version, change }).unwrap();
      setClash(null);
      sayDone(
        'Saved.',
        undo
          ? () =>
              void edit({ id: after.id, version: after.version, change: undo })
                .unwrap()
                .catch((error: unknown) => sayProblem(error, 'It could not be taken back'))
          : undefined,
      );
      return true;
    } catch (error) {
      const problem = problemOf(error);
      if (problem.code === 'changed-meanwhile') setClash({ wanted: change, now: problem.current as AssetAnswer });
      else sayProblem(error, 'It was not saved');
      return false;
    }
  };
  return { save, clash, settle: () => setClash(null) };
}
