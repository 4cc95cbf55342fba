import type { AgentLimits as Limits } from '@idrel/contract/scanning';
import { NumberInput } from '@mantine/core';

export const USUAL: Limits = { memoryMb: 512, parallel: 1, rowsPerSecond: null };

/** Limits in one line, for lists. */
export const limitsLine = ({ memoryMb, parallel, rowsPerSecond }: Limits): string =>
  [
    `${memoryMb.toLocaleString('en')} MB`,
    parallel === 1 ? 'one source at a time' : `${parallel} sources at a time`,
    rowsPerSecond === null ? 'as fast as it goes' : `${rowsPerSecond.toLocaleString('en')} rows a second`,
  ].join(', ');

/** What an agent may use of the machine it runs on. */
export function LimitFields({ limits, change }: { limits: Limits; change: (limits: Limits) => void }) {
  return (
    <div className="fields">
      <NumberInput
        label="Memory"
        description="For reading files, in MB"
        min={64}
        max={65_536}
        step={64}
        value={limits.memoryMb}
        onChange={(value) => change({ ...limits, memoryMb: Number(value) || 64 })}
      />
      <NumberInput
        label="Sources at a time"
        description="1 to 16"
        min={1}
        max={16}
        value={limits.parallel}
        onChange={(value) => change({ ...limits, parallel: Number(value) || 1 })}
      />
      <NumberInput
        label="Rows a second"
        description="Empty: as fast as it goes"
        min={10}
        max={1_000_000}
        value={limits.rowsPerSecond ?? ''}
        onChange={(value) => change({ ...limits, rowsPerSecond: value === '' ? null : Number(value) })}
      />
    </div>
  );
}
