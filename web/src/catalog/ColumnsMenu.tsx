import { Button, Menu } from '@mantine/core';
import { ALWAYS, AS_USUAL, COLUMN_KEYS, COLUMNS, isShown, type Kept, withShown } from './keptColumns.ts';

/** Which columns the table has; it stays open, since seldom one alone is chosen. */
export const ColumnsMenu = ({ kept, keep }: { kept: Kept; keep: (change: (before: Kept) => Kept) => void }) => (
  <Menu position="bottom-end" withinPortal closeOnItemClick={false}>
    <Menu.Target>
      <Button variant="subtle" px={6} size="compact-xs">
        Columns
      </Button>
    </Menu.Target>
    <Menu.Dropdown mah={460} className="scrolled">
      {COLUMN_KEYS.filter((key) => key !== ALWAYS).map((key) => (
        <Menu.Item
          key={key}
          leftSection={<span className="tick">{isShown(kept, key) ? '✓' : ''}</span>}
          aria-label={`${COLUMNS[key].label}: ${isShown(kept, key) ? 'shown' : 'not shown'}`}
          onClick={() => keep((before) => withShown(before, key, !isShown(before, key)))}
        >
          {COLUMNS[key].label}
        </Menu.Item>
      ))}
      <Menu.Divider />
      <Menu.Item closeMenuOnClick onClick={() => keep(() => AS_USUAL)}>
        As usual
      </Menu.Item>
    </Menu.Dropdown>
  </Menu>
);
