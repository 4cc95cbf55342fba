import { Select } from '@mantine/core';
import { useAgentsQuery } from '../scanning/index.ts';

const ITSELF = '\u0000itself';

/** Who reads a source: Idrel itself, or agents of a group. Says nothing while there is no agent. */
export function ReadBy({ value, onChange }: { value: string | null; onChange: (group: string | null) => void }) {
  const agents = useAgentsQuery();
  const groups = [...new Set([...(agents.data ?? []).map((agent) => agent.group), ...(value ? [value] : [])])].sort();
  if (groups.length === 0) return null;
  return (
    <Select
      label="Read by"
      description="Agents read what this machine does not reach"
      allowDeselect={false}
      data={[
        { value: ITSELF, label: 'Idrel itself' },
        ...groups.map((group) => ({ value: group, label: `Agents of the group “${group}”` })),
      ]}
      value={value ?? ITSELF}
      onChange={(chosen) => onChange(chosen === ITSELF ? null : chosen)}
    />
  );
}
