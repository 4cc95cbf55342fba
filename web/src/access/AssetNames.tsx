import { useAssetQuery } from '../catalog/index.ts';

/** Assets by their names, as far as they can be seen. */
export function AssetNames({ ids }: { ids: readonly string[] }) {
  return ids.length === 0 ? (
    <span className="quiet">nothing</span>
  ) : (
    ids.map((id) => (
      <div key={id}>
        <AssetName id={id} />
      </div>
    ))
  );
}

function AssetName({ id }: { id: string }) {
  const { data } = useAssetQuery(id);
  return <span className="mono small">{data?.path ?? id}</span>;
}
