import type { Facet } from '@idrel/contract/catalog';
import { asksFor, type FilterKey } from '@idrel/core/catalog';
import { Button, Group, Menu } from '@mantine/core';
import { count } from '../marks/index.tsx';

const LABELS: Record<string, string> = {
  kind: 'Kind',
  domain: 'Domain',
  source: 'Source',
  class: 'Class',
  level: 'Level',
  priority: 'Priority',
  standing: 'Standing',
  owner: 'Owner',
  term: 'Term',
  tag: 'Tag',
};
/** Counted for the field of filters alone; a menu for each would crowd the line. */
const NO_MENU: readonly FilterKey[] = ['described', 'steward', 'custodian', 'expert', 'notice'];
const PEOPLE: readonly { key: FilterKey; value: string; label: string }[] = [
  { key: 'owner', value: 'none', label: 'without owner' },
  { key: 'owner', value: 'any', label: 'with owner' },
  { key: 'described', value: 'no', label: 'not described' },
  { key: 'notice', value: 'any', label: 'with a notice' },
  { key: 'gone', value: 'yes', label: 'gone from the source' },
];

/** Facets as menus: each value with how many assets it leaves. */
export function Facets({
  facets,
  filter,
  narrow,
}: {
  facets: readonly Facet[];
  filter: string;
  narrow: (key: FilterKey, value: string) => void;
}) {
  const isOn = (key: FilterKey, value: string) => asksFor(filter, key, value);
  return (
    <Group gap={4}>
      {facets
        .filter((facet) => facet.values.length > 0 && !NO_MENU.includes(facet.key))
        .map((facet) => (
          <Menu key={facet.key} position="bottom-end" withinPortal>
            <Menu.Target>
              <Button variant="subtle" px={6} size="compact-xs">
                {LABELS[facet.key] ?? facet.key}
              </Button>
            </Menu.Target>
            <Menu.Dropdown mah={360} className="scrolled">
              {facet.values.map((entry) => (
                <Menu.Item
                  key={entry.value}
                  onClick={() => narrow(facet.key, entry.value)}
                  rightSection={<span className="quiet">{count(entry.count)}</span>}
                >
                  {isOn(facet.key, entry.value) ? '✓ ' : ''}
                  {entry.label}
                </Menu.Item>
              ))}
            </Menu.Dropdown>
          </Menu>
        ))}
      <Menu position="bottom-end" withinPortal>
        <Menu.Target>
          <Button variant="subtle" px={6} size="compact-xs">
            Missing
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          {PEOPLE.map((entry) => (
            <Menu.Item key={entry.label} onClick={() => narrow(entry.key, entry.value)}>
              {isOn(entry.key, entry.value) ? '✓ ' : ''}
              {entry.label}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
    </Group>
  );
}
