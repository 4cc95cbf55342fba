import type { AssetAnswer } from '@idrel/contract/catalog';
import type { AssetChange } from '@idrel/contract/curation';
import { sayDone } from '../app/say.ts';
import { useEditAssetMutation } from '../catalog/index.ts';
import { type EditForm, useEditForm } from '../forms/useEditForm.ts';

/**
 * A form over some facts of one asset.
 * @param name which facts: two forms over others never meet
 */
export function useAssetForm<T extends AssetChange>(
  asset: AssetAnswer,
  name: string,
  factsOf: (asset: AssetAnswer) => T,
  done: () => void,
): EditForm<T> {
  const [edit] = useEditAssetMutation();
  return useEditForm<T, AssetAnswer>({
    key: `asset:${asset.id}:${name}`,
    now: { version: asset.version, values: factsOf(asset) },
    fresh: factsOf(asset),
    valuesOf: factsOf,
    send: (change, version) => edit({ id: asset.id, version, change }).unwrap(),
    done: ({ id, version }, before) => {
      sayDone('Saved.', () => edit({ id, version, change: before }));
      done();
    },
  });
}
