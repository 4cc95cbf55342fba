import { type HotkeyItem, useHotkeys } from '@mantine/hooks';
import { createContext, type ReactNode, useContext, useEffect, useMemo, useRef, useState } from 'react';
import { leavesKey } from './keyTarget.ts';

/** A key of a view: what it does is shown under `?`. */
export interface Key {
  readonly key: string;
  readonly what: string;
  readonly act: () => void;
}
interface Shown {
  readonly view: string;
  readonly keys: readonly Pick<Key, 'key' | 'what'>[];
}

const KeysContext = createContext<{ shown: readonly Shown[]; add: (entry: Shown) => () => void }>({
  shown: [],
  add: () => () => undefined,
});

export function KeysProvider({ children }: { children: ReactNode }) {
  const [shown, setShown] = useState<readonly Shown[]>([]);
  const value = useMemo(
    () => ({
      shown,
      add: (entry: Shown) => {
        setShown((before) => [...before, entry]);
        return () => setShown((before) => before.filter((other) => other !== entry));
      },
    }),
    [shown],
  );
  return <KeysContext value={value}>{children}</KeysContext>;
}

export const useShownKeys = (): readonly Shown[] => useContext(KeysContext).shown;

/** Makes keys work while a view is open (not while something is typed) and lists them in the help. */
export function useKeys(view: string, keys: readonly Key[]): void {
  useHotkeys(
    keys.map(
      ({ key, act }): HotkeyItem => [
        key,
        (event) => {
          if (!leavesKey(event.target, event.key)) return;
          event.preventDefault();
          act();
        },
        { preventDefault: false },
      ],
    ),
    [],
  );
  const { add } = useContext(KeysContext);
  const listed = keys.map(({ key, what }) => `${key}\t${what}`).join('\n');
  const adding = useRef(add);
  adding.current = add;
  useEffect(
    () =>
      adding.current({
        view,
        keys: listed
          .split('\n')
          .filter(Boolean)
          .map((line) => {
            const [key = '', what = ''] = line.split('\t');
            return { key, what };
          }),
      }),
    [view, listed],
  );
}
