import { Box, Drawer } from '@mantine/core';
import { useShownKeys } from '../app/keys.tsx';
import { Listing } from '../marks/Listing.tsx';

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
        <Box key={view} mb={18}>
          <h3>{view}</h3>
          <Listing widths={[90]}>
            {keys
              .filter((key) => key.key !== 'shift+?')
              .map((key) => (
                <tr key={key.key}>
                  <td>
                    <kbd>{shownKey(key.key)}</kbd>
                  </td>
                  <td>{key.what}</td>
                </tr>
              ))}
          </Listing>
        </Box>
      ))}
    </Drawer>
  );
}
