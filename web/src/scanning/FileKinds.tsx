import type { FileKind } from '@idrel/contract/scanning';
import { Box, Chip, Group } from '@mantine/core';

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
    <fieldset className="bare" disabled={fixed}>
      <legend className="small label">{label}</legend>
      <Box className="quiet small" mb={6}>
        {help}
      </Box>
      <Group wrap="wrap">
        {ALL.map((kind) => (
          <Chip key={kind} value={kind} size="xs" radius="sm" disabled={fixed}>
            {WORDS[kind]}
          </Chip>
        ))}
      </Group>
    </fieldset>
  </Chip.Group>
);
