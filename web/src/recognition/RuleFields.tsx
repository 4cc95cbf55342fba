import type { DetectorSpec, ValueRule } from '@idrel/core/recognition/spec';
import { MultiSelect, SegmentedControl, Select, Stack, Switch, Textarea, TextInput } from '@mantine/core';
import { count, plural } from '../marks/index.tsx';
import { NumberField } from '../marks/NumberField.tsx';
import { useClassesQuery } from './classesApi.ts';
import type { Judged } from './judge.ts';
import { ListSource } from './ListSource.tsx';

const KINDS = [
  { value: 'pattern', label: 'Pattern' },
  { value: 'list', label: 'List' },
  { value: 'range', label: 'Range' },
  { value: 'name', label: 'Name alone' },
  { value: 'combination', label: 'Combination' },
];
const CHECKSUM_WORDS: Readonly<Record<DetectorSpec['checksum'], string>> = {
  none: 'None',
  luhn: 'Luhn, modulo 10',
  mod97: 'Modulo 97 (ISO/IEC 7064)',
  mod11: 'Modulo 11',
};
const ruleOf = (kind: string): ValueRule | null =>
  kind === 'pattern'
    ? { kind, pattern: '', caseless: false }
    : kind === 'list'
      ? { kind, values: [], match: 'folded' }
      : kind === 'range'
        ? { kind, of: 'number', from: '', to: '' }
        : kind === 'combination'
          ? { kind, classKeys: [], least: 2 }
          : null;

/** A text area holds so many lines without getting slow; a longer list is shown by its beginning. */
const EDITED = 5000;

/** How the draft tells values, and names of columns. */
export function RuleFields({
  classKey,
  spec,
  put,
  problem,
  proposals,
}: {
  classKey: string;
  spec: DetectorSpec;
  put: (changes: Partial<DetectorSpec>) => void;
  problem: Judged['problem'];
  proposals: Judged['proposals'];
}) {
  const classes = useClassesQuery();
  const { value: rule } = spec;
  const wrong = (field: string) => (problem?.field === field ? problem.message : undefined);
  const set = (changes: object) => put({ value: { ...rule, ...changes } as ValueRule });
  return (
    <Stack>
      <SegmentedControl
        aria-label="How values are told"
        value={rule?.kind ?? 'name'}
        data={KINDS}
        onChange={(kind) => put({ value: ruleOf(kind) })}
      />
      {rule?.kind === 'pattern' ? (
        <>
          <Textarea
            label="Pattern of the whole value"
            description="RE2 syntax: its time grows with the length of the value, and never faster"
            autosize
            minRows={2}
            value={rule.pattern}
            error={rule.pattern === '' ? undefined : wrong('value.pattern')}
            onChange={(event) => set({ pattern: event.currentTarget.value })}
            styles={{ input: { fontFamily: 'var(--mantine-font-family-monospace)' } }}
            spellCheck={false}
          />
          <Switch
            label="Small and capital letters are the same"
            checked={rule.caseless}
            onChange={(event) => set({ caseless: event.currentTarget.checked })}
          />
          {proposals.length > 0 ? (
            <div>
              <h3>Proposed from the examples</h3>
              <ul className="flat" aria-label="Proposed patterns">
                {proposals.map((proposal) => (
                  <li className="item" key={proposal.pattern}>
                    <button
                      type="button"
                      className="linkish mono"
                      aria-pressed={rule.pattern === proposal.pattern}
                      onClick={() => set({ pattern: proposal.pattern, caseless: false })}
                    >
                      {proposal.pattern}
                    </button>
                    <div className="small quiet">
                      takes {proposal.matched} of {proposal.matched + proposal.missed} that are
                      {proposal.wrong > 0 ? (
                        <span className="attention">, and {proposal.wrong} that are not</span>
                      ) : (
                        ', none that are not'
                      )}
                    </div>
                    <div className="small quiet">{proposal.words}</div>
                  </li>
                ))}
              </ul>
            </div>
          ) : null}
        </>
      ) : null}
      {rule?.kind === 'list' ? (
        <>
          <ListSource values={rule.values} take={(values) => set({ values })} />
          <Textarea
            label="Values, one a line"
            description={
              rule.values.length > EDITED
                ? `${plural(rule.values.length, 'entry', 'entries')}; the first ${count(EDITED)} are shown, and cannot be edited here`
                : `${plural(rule.values.length, 'entry', 'entries')}; up to a million`
            }
            readOnly={rule.values.length > EDITED}
            autosize
            minRows={4}
            maxRows={12}
            value={rule.values.slice(0, EDITED).join('\n')}
            onChange={(event) =>
              set({ values: event.currentTarget.value === '' ? [] : event.currentTarget.value.split('\n') })
            }
            styles={{ input: { fontFamily: 'var(--mantine-font-family-monospace)' } }}
          />
          <Select
            label="A value is in the list when it is"
            value={rule.match}
            allowDeselect={false}
            data={[
              { value: 'exact', label: 'the same, letter by letter' },
              { value: 'folded', label: 'the same but for case and marks' },
              { value: 'close', label: 'the same but for one letter' },
            ]}
            onChange={(match) => set({ match })}
          />
        </>
      ) : null}
      {rule?.kind === 'range' ? (
        <div className="fields">
          <Select
            label="Of"
            value={rule.of}
            allowDeselect={false}
            data={[
              { value: 'number', label: 'numbers' },
              { value: 'date', label: 'days' },
            ]}
            onChange={(of) => set({ of })}
          />
          <TextInput
            label="From"
            placeholder={rule.of === 'date' ? '2020-01-01' : 'any'}
            value={rule.from}
            error={wrong('value.from')}
            onChange={(event) => set({ from: event.currentTarget.value })}
          />
          <TextInput
            label="To"
            placeholder={rule.of === 'date' ? '2030-12-31' : 'any'}
            value={rule.to}
            error={wrong('value.to')}
            onChange={(event) => set({ to: event.currentTarget.value })}
          />
        </div>
      ) : null}
      {rule?.kind === 'combination' ? (
        <>
          <MultiSelect
            label="Beside it stand columns of"
            description="Where they do, claims of its class and of these raise each other; with a pattern for the name below, a column whose name fits is claimed too"
            searchable
            value={[...rule.classKeys]}
            error={rule.classKeys.length === 0 ? undefined : wrong('value.classKeys')}
            data={(classes.data ?? [])
              .filter((entry) => !entry.retired && entry.key !== classKey)
              .map((entry) => ({ value: entry.key, label: entry.label }))}
            onChange={(classKeys) => set({ classKeys, least: Math.max(1, Math.min(rule.least, classKeys.length)) })}
          />
          <NumberField
            label="At least so many of them"
            min={1}
            max={Math.max(1, rule.classKeys.length)}
            value={rule.least}
            error={rule.classKeys.length === 0 ? undefined : wrong('value.least')}
            put={(least) => set({ least })}
          />
        </>
      ) : null}
      {rule && rule.kind !== 'combination' ? (
        <Select
          label="Check digits"
          description="Over the digits of a value; one that fails is not taken"
          value={spec.checksum}
          allowDeselect={false}
          data={Object.entries(CHECKSUM_WORDS).map(([value, label]) => ({ value, label }))}
          onChange={(checksum) => put({ checksum: (checksum ?? 'none') as DetectorSpec['checksum'] })}
        />
      ) : null}
      <TextInput
        label="Column's name contains"
        description="A pattern, without regard to case; empty: names say nothing"
        placeholder="booking|reference"
        value={spec.namePattern}
        error={wrong('namePattern')}
        onChange={(event) => put({ namePattern: event.currentTarget.value })}
        styles={{ input: { fontFamily: 'var(--mantine-font-family-monospace)' } }}
      />
      {rule && rule.kind !== 'combination' ? (
        <Switch
          label="Only under such a name"
          checked={spec.nameNeeded}
          onChange={(event) => put({ nameNeeded: event.currentTarget.checked })}
        />
      ) : null}
      <div className="fields">
        <NumberField
          label="Least share, in %"
          min={1}
          max={100}
          value={Math.round(spec.minShare * 100)}
          put={(share) => put({ minShare: share / 100 })}
        />
        <NumberField
          label="Least different values"
          min={1}
          max={100_000}
          value={spec.minDistinct}
          put={(minDistinct) => put({ minDistinct })}
        />
      </div>
    </Stack>
  );
}
