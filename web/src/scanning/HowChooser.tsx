import type { FileKind, ScanOptions } from '@idrel/contract/scanning';
import { Chip, NumberInput, SegmentedControl, Select, Switch } from '@mantine/core';
import { useDetectorSetsQuery } from '../recognition/api.ts';

const FILE_KIND_WORDS: Readonly<Record<FileKind, string>> = { csv: 'CSV, TSV', ndjson: 'NDJSON', json: 'JSON', parquet: 'Parquet', avro: 'Avro', xlsx: 'XLSX', text: 'plain text' };
const FILE_KINDS = Object.keys(FILE_KIND_WORDS) as FileKind[];

/** How a plan reads: what it leaves out, how it samples, and its limits. */
export function HowChooser({ options, kind, change }: { options: ScanOptions; kind: string; change: (options: ScanOptions) => void }) {
  const put = (changes: Partial<ScanOptions>) => change({ ...options, ...changes });
  const sets = useDetectorSetsQuery();
  const readsFiles = kind === 'folder' || kind === 'objects';
  const asNumber = (value: string | number) => (value === '' ? null : Number(value));
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
            <NumberInput
              label="Values read per column"
              description="10 to 10,000; more find rarer classes"
              min={10}
              max={10_000}
              step={100}
              value={options.rows}
              onChange={(rows) => put({ rows: Number(rows) })}
            />
            <div>
              <div className="small" style={{ fontWeight: 500 }}>
                Which rows
              </div>
              <div className="quiet small" style={{ marginBottom: 4 }}>
                The first ones are read faster, and tell less
              </div>
              <SegmentedControl
                aria-label="Which rows"
                value={options.method}
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
            data={[{ value: '', label: 'All detectors' }, ...(sets.data ?? []).map((set) => ({ value: set.id, label: `${set.name} (${set.detectors} of ${set.all})` }))]}
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
        <Chip.Group
          multiple
          value={[...(options.fileKinds ?? FILE_KINDS)]}
          onChange={(value) => put({ fileKinds: value.length === FILE_KINDS.length || value.length === 0 ? null : (value as FileKind[]) })}
        >
          <fieldset style={{ border: 0, margin: 0, padding: 0 }}>
            <legend className="small" style={{ fontWeight: 500, padding: 0 }}>
              Kinds of files that are read
            </legend>
            <div className="quiet small" style={{ marginBottom: 6 }}>
              What is left out is not looked for: what the catalog has of it stays as it is
            </div>
            <div className="row" style={{ flexWrap: 'wrap' }}>
              {FILE_KINDS.map((kindOfFile) => (
                <Chip key={kindOfFile} value={kindOfFile} size="xs" radius="sm">
                  {FILE_KIND_WORDS[kindOfFile]}
                </Chip>
              ))}
            </div>
          </fieldset>
        </Chip.Group>
      ) : null}
      <h2 style={{ marginTop: 6 }}>Limits</h2>
      <div className="fields">
        <NumberInput
          label="Longest time in minutes"
          description="Then the run is ended, and nothing written"
          placeholder="no limit"
          min={1}
          max={1440}
          value={options.minutes ?? ''}
          onChange={(value) => put({ minutes: asNumber(value) })}
        />
        <NumberInput label="Tries after a failure" description="After 1, 2, 4 … minutes; 0 for none" min={0} max={5} value={options.retries} onChange={(value) => put({ retries: Number(value) })} />
        {readsFiles ? (
          <NumberInput
            label="Memory in MB"
            description="For reading files; 64 to 8,192"
            placeholder="512"
            min={64}
            max={8192}
            step={64}
            value={options.memoryMb ?? ''}
            onChange={(value) => put({ memoryMb: asNumber(value) })}
          />
        ) : null}
      </div>
    </>
  );
}
