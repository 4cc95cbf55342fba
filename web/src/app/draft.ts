import { useEffect, useRef, useState } from 'react';

/**
 * A form's state that outlives the page: kept in the browser while it differs from where it began, and found again on the next visit.
 * @param key what is edited; another key is another form (give it to React as the component's key too)
 */
export function useDraft<T extends object>(key: string, start: T): { draft: T; put: (changes: Partial<T>) => void; differs: boolean; settle: () => void } {
  const place = `idrel-draft:${key}`;
  const began = useRef(JSON.stringify(start));
  const [draft, setDraft] = useState<T>(() => ({ ...start, ...(JSON.parse(localStorage.getItem(place) ?? '{}') as Partial<T>) }));
  const text = JSON.stringify(draft);
  const differs = text !== began.current;
  useEffect(() => {
    differs ? localStorage.setItem(place, text) : localStorage.removeItem(place);
  }, [place, text, differs]);
  return {
    draft,
    differs,
    put: (changes) => setDraft((before) => ({ ...before, ...changes })),
    settle: () => {
      began.current = text;
      localStorage.removeItem(place);
    },
  };
}
