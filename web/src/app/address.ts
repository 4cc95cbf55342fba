import { useCallback, useEffect, useRef } from 'react';
import { useSearchParams } from 'react-router';

/** The address as state: what is read from it, and a way to put several things into it at once (null takes one out). */
export function useAddress(): [URLSearchParams, (changes: Record<string, string | null>) => void] {
  const [params, setParams] = useSearchParams();
  const put = useCallback(
    (changes: Record<string, string | null>) =>
      setParams(
        (before) => {
          const next = new URLSearchParams(before);
          for (const [key, value] of Object.entries(changes)) value ? next.set(key, value) : next.delete(key);
          return next;
        },
        { replace: true },
      ),
    [setParams],
  );
  return [params, put];
}

/**
 * What was asked of the address last, of something that it holds: it follows a little later, and keys do not wait for it.
 * @param held what the address holds now
 */
export function useLatest(held: string | null): { now: () => string | null; go: (next: string) => string } {
  const asked = useRef<string>(undefined);
  useEffect(() => {
    if (asked.current === held || held === null) asked.current = undefined;
  }, [held]);
  return {
    now: () => asked.current ?? held,
    go(next) {
      asked.current = next;
      return next;
    },
  };
}
