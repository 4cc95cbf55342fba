import type { ScanOptions } from '@idrel/contract/scanning';
import { Box, SegmentedControl, Select, Switch } from '@mantine/core';
import { NumberField } from '../marks/NumberField.tsx';
import { useDetectorSetsQuery } from '../recognition/index.ts';
import { FileKinds } from './FileKinds.tsx';

/** How a plan reads: what it leaves out, how it samples, and its limits. */
export function HowChooser({
  options,
  kind,
  change,
}: {
  options: ScanOptions;
  kind: string;
  change: (options: ScanOptions) => void;
}) {
  const put = (changes: Partial<ScanOptions>) => change({ ...options, ...changes });
  const sets = useDetectorSetsQuery();
  const said = sets.data?.find((set) => set.id === options.detectorSetId);
  const sampling = said?.sampling ?? options;
  const readsFiles = kind === 'folder' || kind === 'objects';
  return (
    <>
      <Switch
        label="Leave out what has not changed"
        description="Objects whose marks of change at the source are those of the last run are not read again. Kinds that keep no such marks are read whole."
        checked={options.onlyChanged}
        onChange={(event) => put({ onlyChanged: event.currentTarget.checked })}
      />
      <Switch
        label="Sample values and recognise classes"
        description="Without it only structure and lineage are read"
        checked={options.sample}
        onChange={(event) => put({ sample: event.currentTarget.checked })}
      />
      {options.sample ? (
        <>
          <div className="fields">
            <NumberField
              label="Values read per column"
              description={
                said?.sampling ? `As the detector set “${said.name}” says` : '10 to 10,000; more find rarer classes'
              }
              disabled={Boolean(said?.sampling)}
              min={10}
              max={10_000}
              step={100}
              value={sampling.rows}
              put={(rows) => put({ rows })}
            />
            <div>
              <div className="small label">Which rows</div>
              <Box className="quiet small" mb={4}>
                The first ones are read faster, and tell less
              </Box>
              <SegmentedControl
                aria-label="Which rows"
                value={sampling.method}
                disabled={Boolean(said?.sampling)}
                onChange={(method) => put({ method: method as ScanOptions['method'] })}
                data={[
                  { value: 'random', label: 'Random ones' },
                  { value: 'first', label: 'The first' },
                ]}
              />
            </div>
          </div>
          <Select
            label="Which detectors look"
            description="Sets are made under Recognition"
            data={[
              { value: '', label: 'All detectors' },
              ...(sets.data ?? []).map((set) => ({
                value: set.id,
                label: `${set.name} (${set.detectors} of ${set.all})`,
              })),
            ]}
            value={options.detectorSetId ?? ''}
            allowDeselect={false}
            onChange={(value) => put({ detectorSetId: value || null })}
          />
          <Switch
            label="Profile columns"
            description="How many are empty, how many differ, smallest and largest, spread, most frequent values; from at most 10,000 random rows of a table. Of guarded columns no value is kept"
            checked={options.profile}
            onChange={(event) => put({ profile: event.currentTarget.checked })}
          />
        </>
      ) : null}
      {readsFiles ? (
        <FileKinds
          label="Kinds of files that are read"
          help={
            said?.fileKinds
              ? `As the detector set “${said.name}” says`
              : 'What is left out is not looked for: what the catalog has of it stays as it is'
          }
          chosen={said?.fileKinds ?? options.fileKinds}
          fixed={Boolean(said?.fileKinds)}
          choose={(fileKinds) => put({ fileKinds })}
        />
      ) : null}
      <Box component="h2" mt={6}>
        Limits
      </Box>
      <div className="fields">
        <NumberField
          label="Longest time in minutes"
          description="Then the run is ended, and nothing written"
          placeholder="no limit"
          min={1}
          max={1440}
          optional
          value={options.minutes}
          put={(minutes) => put({ minutes })}
        />
        <NumberField
          label="Tries after a failure"
          description="After 1, 2, 4 … minutes; 0 for none"
          min={0}
          max={5}
          value={options.retries}
          put={(retries) => put({ retries })}
        />
        {readsFiles ? (
          <NumberField
            label="Memory in MB"
            description="For reading files; 64 to 8,192"
            placeholder="512"
            min={64}
            max={8192}
            step={64}
            optional
            value={options.memoryMb}
            put={(memoryMb) => put({ memoryMb })}
          />
        ) : null}
      </div>
    </>
  );
}
