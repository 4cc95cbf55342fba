import type { FileKind } from '@idrel/contract/scanning';
import { Chip } from '@mantine/core';

const WORDS: Readonly<Record<FileKind, string>> = {
  csv: 'CSV, TSV',
  ndjson: 'NDJSON',
  json: 'JSON',
  parquet: 'Parquet',
  avro: 'Avro',
  arrow: 'Arrow, Feather',
  xlsx: 'XLSX',
  text: 'plain text',
};
const ALL = Object.keys(WORDS) as FileKind[];

/** Kinds of files, chosen; all of them is null. */
export const FileKinds = ({
  label,
  help,
  chosen,
  choose,
  fixed = false,
}: {
  label: string;
  help: string;
  chosen: readonly FileKind[] | null;
  choose: (kinds: FileKind[] | null) => void;
  fixed?: boolean;
}) => (
  <Chip.Group
    multiple
    value={[...(chosen ?? ALL)]}
    onChange={(value) => choose(value.length === ALL.length || value.length === 0 ? null : (value as FileKind[]))}
  >
    <fieldset disabled={fixed} style={{ border: 0, margin: 0, padding: 0 }}>
      <legend className="small" style={{ fontWeight: 500, padding: 0 }}>
        {label}
      </legend>
      <div className="quiet small" style={{ marginBottom: 6 }}>
        {help}
      </div>
      <div className="row" style={{ flexWrap: 'wrap' }}>
        {ALL.map((kind) => (
          <Chip key={kind} value={kind} size="xs" radius="sm" disabled={fixed}>
            {WORDS[kind]}
          </Chip>
        ))}
      </div>
    </fieldset>
  </Chip.Group>
);
