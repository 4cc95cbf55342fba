import { Drawer } from '@mantine/core';
import { useShownKeys } from '../app/keys.tsx';

const WORDS: Record<string, string> = { ArrowDown: '↓', ArrowUp: '↑', ArrowLeft: '←', ArrowRight: '→', Escape: 'Esc' };
/** A key as keyboards name it. */
export const shownKey = (key: string): string => WORDS[key] ?? key.replace('mod+', 'Ctrl ');

/** The keys of the view that is open, and those that work everywhere. */
export function KeysHelp({ open, close }: { open: boolean; close: () => void }) {
  const shown = useShownKeys();
  return (
    <Drawer
      opened={open}
      onClose={close}
      position="right"
      size={340}
      title="Keys"
      closeButtonProps={{ 'aria-label': 'Close' }}
    >
      {[...shown].reverse().map(({ view, keys }) => (
        <div key={view} style={{ marginBottom: 18 }}>
          <h3>{view}</h3>
          <table className="plain">
            <tbody>
              {keys
                .filter((key) => key.key !== 'shift+?')
                .map((key) => (
                  <tr key={key.key}>
                    <td style={{ width: 90 }}>
                      <kbd>{shownKey(key.key)}</kbd>
                    </td>
                    <td>{key.what}</td>
                  </tr>
                ))}
            </tbody>
          </table>
        </div>
      ))}
    </Drawer>
  );
}
