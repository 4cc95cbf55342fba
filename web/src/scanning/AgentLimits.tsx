import type { AgentLimits as Limits } from '@idrel/contract/scanning';
import { NumberField } from '../marks/NumberField.tsx';

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
      <NumberField
        label="Memory"
        description="For reading files, in MB"
        min={64}
        max={65_536}
        step={64}
        value={limits.memoryMb}
        put={(memoryMb) => change({ ...limits, memoryMb })}
      />
      <NumberField
        label="Sources at a time"
        description="1 to 16"
        min={1}
        max={16}
        value={limits.parallel}
        put={(parallel) => change({ ...limits, parallel })}
      />
      <NumberField
        label="Rows a second"
        description="Empty: as fast as it goes"
        min={10}
        max={1_000_000}
        optional
        value={limits.rowsPerSecond}
        put={(rowsPerSecond) => change({ ...limits, rowsPerSecond })}
      />
    </div>
  );
}
