import { dataClass } from '@idrel/core/recognition/classes';
import { useClassesQuery } from './classesApi.ts';

/** What a class is called in this organisation; its key while that is not known. */
export function useClassLabel(): (key: string) => string {
  const { data } = useClassesQuery();
  return (key) => data?.find((entry) => entry.key === key)?.label ?? dataClass(key)?.label ?? key;
}
