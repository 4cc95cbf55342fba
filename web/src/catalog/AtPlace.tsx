import { Navigate, useLocation } from 'react-router';
import { Coming, Trouble } from '../marks/states.tsx';
import { useAssetAtQuery } from './addressesApi.ts';

/** A readable address: it leads on to the page of the asset, also by what that was called before. */
export function Component() {
  const { pathname, hash } = useLocation();
  const { data, error, refetch } = useAssetAtQuery(pathname);
  if (error) return <Trouble error={error} what="This address leads nowhere" again={() => void refetch()} />;
  if (!data) return <Coming />;
  return <Navigate to={`/assets/${data.id}${hash}`} replace />;
}
